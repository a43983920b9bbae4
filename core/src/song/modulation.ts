/** The key of a song goes to another at a place, and the music from there on goes along until the next change of key. */
import type { Ticks } from '../signal/index.ts';
import { sameKey, type Key } from '../theory/index.ts';
import { findPassages } from './arrange.ts';
import { changeAt, chordEntriesOf, transposeChanges, type ChordEntriesChange } from './changes.ts';
import { applyEdit } from './edit.ts';
import { EditError, type Edit, type SimpleEdit } from './editSchema.ts';
import { keyAt, keySpanAt, withKeyAt } from './keys.ts';
import { MAX_TICKS, type ChordEntry, type Song } from './schema.ts';
import { cutsAcross, passagesWithinTicks } from './sections.ts';
import { canTranspose, planTransposePassages } from './transposePassages.ts';

export interface Modulation {
  edit: Edit;
  /** Names of the parts that move from there on, and of those that stay. */
  moving: string[];
  staying: string[];
  /** How many chords move. */
  chords: number;
}

/**
 * Sets the key at a place and transposes what sounds from there to the next change of key. What sounds across either end
 * is cut there; so is a chord.
 */
export function planModulation(
  song: Song,
  startTicks: Ticks,
  key: Key,
  semitones: number,
  createId: () => string,
): Modulation {
  const endTicks = Math.min(keySpanAt(song, startTicks).endTicks, MAX_TICKS);
  const edits: SimpleEdit[] = [];
  let now = song;
  const add = (...more: SimpleEdit[]) => {
    for (const edit of more) {
      edits.push(edit);
      now = applyEdit(now, edit).song;
    }
  };
  add({ type: 'song.set', patch: withKeyAt(song, startTicks, key) });
  for (const atTicks of [startTicks, endTicks])
    if (atTicks > 0 && atTicks < MAX_TICKS) add(...cutsAcross(now, atTicks, createId));
  const span = { startTicks, endTicks, semitones, keyOf: (ticks: Ticks) => keyAt(now, ticks) };
  const chords = chordsWithin(chordEntriesOf(now), span, createId);
  if (chords.put.length > 0) add({ type: 'changes.put', ...chords });
  const within = findPassages(now, passagesWithinTicks(now, startTicks, endTicks));
  const moving = new Set(within.filter(canTranspose).map(({ part }) => part));
  for (const part of moving) {
    if (part.kind === 'drums' || !part.follows) continue;
    const { remove, put } = chordsWithin(part.follows.writtenOver, span, createId);
    const gone = new Set([...remove, ...put.map(({ id }) => id)]);
    const writtenOver = [...part.follows.writtenOver.filter(({ id }) => !gone.has(id)), ...put].sort(
      (a, b) => a.startTicks - b.startTicks,
    );
    add({ type: 'part.follow', partId: part.id, follows: { ...part.follows, writtenOver } });
  }
  if (moving.size > 0) {
    // Parts were exchanged for those that follow what was moved.
    const found = findPassages(now, passagesWithinTicks(now, startTicks, endTicks)).filter(canTranspose);
    const { edit } = planTransposePassages(now, found, semitones, createId)!;
    add(...(edit.type === 'batch' ? edit.edits : [edit]));
  }
  const staying = new Set(within.map(({ part }) => part).filter((part) => !moving.has(part)));
  const names = (parts: Iterable<{ name: string }>) => [...parts].map(({ name }) => name);
  return {
    edit: { type: 'batch', edits },
    moving: names(moving),
    staying: names(staying),
    chords: chords.put.length,
  };
}

interface Span {
  startTicks: Ticks;
  endTicks: Ticks;
  semitones: number;
  keyOf(ticks: Ticks): Key | null;
}

/** Chords from one place to another moved; one that is held across either is begun anew there. */
function chordsWithin(
  chords: readonly ChordEntry[],
  { startTicks, endTicks, semitones, keyOf }: Span,
  createId: () => string,
): ChordEntriesChange {
  const heldAt = (ticks: Ticks): ChordEntry[] => {
    const held = changeAt(chords, ticks);
    return held && held.startTicks < ticks && held.chord
      ? [{ ...held, id: createId(), startTicks: ticks }]
      : [];
  };
  const inside = chords.filter((each) => each.startTicks >= startTicks && each.startTicks < endTicks);
  const put = transposeChanges([...heldAt(startTicks), ...inside], semitones, keyOf);
  return { remove: [], put: put.length > 0 && endTicks < MAX_TICKS ? [...put, ...heldAt(endTicks)] : put };
}

/** The edit that only names the key of a place; undefined where it is in force there already. */
export function planKeyAt(song: Song, startTicks: Ticks, key: Key | null): Edit | undefined {
  if (key && startTicks > 0 && sameKey(keyAt(song, startTicks), key)) return undefined;
  if (!key && startTicks > 0 && !song.keyChanges?.some((each) => each.startTicks === startTicks))
    throw new EditError('The key does not change here, so there is nothing to take away.');
  return { type: 'song.set', patch: withKeyAt(song, startTicks, key) };
}
