/**
 * How songs and edits looked before (see upgrade.ts), as they look now. Works on data that is not checked yet: what has no
 * old shape is left as it is.
 *
 * - Keys had the name of a tonic, one for each of the twelve: `{tonic: "Db", mode: "minor"}`.
 * - Pitch bends lay in the passage, beside its notes: `{bends: [{startTicks, semitones}]}`.
 * - A passage of a recording held what its take holds now: `{recordingHash, line, stretch, chords}`. The take has the id
 *   that its passage has.
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

const holdsTake = (passage: unknown): passage is Data => isData(passage) && 'recordingHash' in passage;

/** A passage and the take that it held. */
function apart({ recordingHash, line, stretch, chords, ...passage }: Data): { take: Data; passage: Data } {
  const { id } = passage;
  const take = {
    id,
    recordingHash,
    line,
    ...(stretch !== undefined && { stretch }),
    ...(chords !== undefined && { chords }),
  };
  return { take, passage: { ...passage, takeId: id } };
}

/** Recordings and what was read of them become takes. */
export function withTakes(stored: unknown): unknown {
  if (!isData(stored) || stored.kind !== 'recording' || 'takes' in stored || !Array.isArray(stored.passages))
    return stored;
  const all = stored.passages.map((passage: unknown) => (holdsTake(passage) ? apart(passage) : { passage }));
  return {
    ...stored,
    takes: all.flatMap((each) => ('take' in each ? [each.take] : [])),
    passages: all.map(({ passage }) => passage),
  };
}

/**
 * An edit that named a passage where it names a take now; one that brought or removed a passage brings or removes its take.
 * @param isRecording whether a part of the song holds recordings
 */
export function editWithTakes(stored: unknown, isRecording: (partId: unknown) => boolean): unknown {
  if (!isData(stored)) return stored;
  if (stored.type === 'batch')
    return Array.isArray(stored.edits)
      ? { ...stored, edits: stored.edits.flatMap((each) => takeEdits(each, isRecording)) }
      : stored;
  const edits = takeEdits(stored, isRecording);
  return edits.length === 1 ? edits[0] : { type: 'batch', edits };
}

const RENAMED: Record<string, string> = {
  'passage.stretch': 'take.stretch',
  'passage.chords': 'take.chords',
};

function takeEdits(stored: unknown, isRecording: (partId: unknown) => boolean): unknown[] {
  if (!isData(stored) || typeof stored.type !== 'string') return [stored];
  const { partId } = stored;
  switch (stored.type) {
    case 'part.add':
      return [{ ...stored, part: withTakes(stored.part) }];
    case 'passage.add': {
      if (!holdsTake(stored.passage)) return [stored];
      const { take, passage } = apart(stored.passage);
      return [
        { type: 'take.add', partId, take },
        { ...stored, passage },
      ];
    }
    case 'passage.remove':
      return isRecording(partId)
        ? [stored, { type: 'take.remove', partId, takeId: stored.passageId }]
        : [stored];
    default: {
      const type = RENAMED[stored.type] ?? stored.type;
      if ((type === stored.type && !type.startsWith('line.')) || !('passageId' in stored)) return [stored];
      const { passageId, ...edit } = stored;
      return [{ ...edit, type, takeId: passageId }];
    }
  }
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
