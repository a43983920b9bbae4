/**
 * How songs and edits looked before (see upgrade.ts), as they look now. Works on data that is not checked yet: what has no
 * old shape is left as it is.
 *
 * - Keys had the name of a tonic, one for each of the twelve: `{tonic: "Db", mode: "minor"}`.
 * - Pitch bends lay in the passage, beside its notes: `{bends: [{startTicks, semitones}]}`.
 */
import { keyOn, pitchClassOf, type Key } from '../theory/index.ts';
import { bendNotes, type ChannelBend } from './bends.ts';
import { MAX_BENDS_OF_NOTE, type Note } from './schema.ts';

type Data = Record<string, unknown>;

const isData = (value: unknown): value is Data => typeof value === 'object' && value !== null;

export function upgradeKey(stored: unknown): unknown {
  if (!isData(stored) || typeof stored.tonic !== 'string') return stored;
  const pitchClass = pitchClassOf(stored.tonic);
  const mode = stored.mode as Key['mode'];
  return pitchClass === undefined || (mode !== 'major' && mode !== 'minor')
    ? stored
    : keyOn(pitchClass, mode);
}

function isBend(value: unknown): value is ChannelBend {
  return isData(value) && Number.isFinite(value.startTicks) && Number.isFinite(value.semitones);
}

function isNote(value: unknown): value is Note {
  return isData(value) && Number.isFinite(value.startTicks) && Number.isFinite(value.lengthTicks);
}

/** The bends of a passage as they were stored; undefined where there were none. */
export function storedBends(passage: unknown): ChannelBend[] | undefined {
  return isData(passage) && Array.isArray(passage.bends) ? passage.bends.filter(isBend) : undefined;
}

/** Bends go to the notes they bend. */
export function upgradePassage(stored: unknown): unknown {
  const bends = storedBends(stored);
  if (!bends) return stored;
  const { bends: _, ...passage } = stored as Data;
  const { notes } = passage;
  if (!Array.isArray(notes) || !notes.every(isNote)) return passage;
  return { ...passage, notes: bendNotes(notes, bends.slice(0, 50 * MAX_BENDS_OF_NOTE)) };
}

export function upgradePart(stored: unknown): unknown {
  return isData(stored) && Array.isArray(stored.passages)
    ? { ...stored, passages: stored.passages.map(upgradePassage) }
    : stored;
}

/** An edit without old shapes. Bends that it set in a passage are left out; upgrade.ts gives them to the notes. */
export function fromOldShape(stored: unknown): unknown {
  if (!isData(stored)) return stored;
  switch (stored.type) {
    case 'batch':
      return Array.isArray(stored.edits) ? { ...stored, edits: stored.edits.map(fromOldShape) } : stored;
    case 'song.set':
      return isData(stored.patch) && isData(stored.patch.key)
        ? { ...stored, patch: { ...stored.patch, key: upgradeKey(stored.patch.key) } }
        : stored;
    case 'part.add':
      return { ...stored, part: upgradePart(stored.part) };
    case 'passage.add':
      return { ...stored, passage: upgradePassage(stored.passage) };
    case 'passage.set': {
      if (!isData(stored.patch) || !('bends' in stored.patch)) return stored;
      const { bends: _, ...patch } = stored.patch;
      return { ...stored, patch };
    }
    default:
      return stored;
  }
}
