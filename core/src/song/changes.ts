/** The chords: the chord progression of a song. A chord lasts until the next one; null says that there is none. */
import { sameSound, transposeChord, type ChordOrNone, type Key } from '../theory/index.ts';
import { createPassageTime } from './passageTime.ts';
import { passageEndTicks, type PlacedRecording } from './placed.ts';
import type { ChordEntry, OwnChord, RecordingPassage, Song } from './schema.ts';
import type { TimeMap } from './timeMap.ts';

type Ticks = number;

export interface ChordEntriesChange {
  remove: string[];
  put: ChordEntry[];
}

/** A chord with its end: the next chord's start, or the end of the song. */
export interface ChordSpanOfSong {
  change: ChordEntry;
  startTicks: Ticks;
  endTicks: Ticks;
}

export const DOUBTFUL_CHORD_BELOW = 0.8;

export const chordEntriesOf = (song: Pick<Song, 'changes'>): readonly ChordEntry[] => song.changes ?? NONE;
const NONE: readonly ChordEntry[] = [];

export function isDoubtfulChord({ confidence }: ChordEntry): boolean {
  return confidence !== undefined && confidence < DOUBTFUL_CHORD_BELOW;
}

/** The change in force at a tick. */
export function changeAt(changes: readonly ChordEntry[], ticks: Ticks): ChordEntry | undefined {
  let low = 0;
  let high = changes.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (changes[middle].startTicks <= ticks) low = middle + 1;
    else high = middle;
  }
  return changes[low - 1] as ChordEntry | undefined;
}

/** Chords with their ends; what starts after `endTicks` still gets a bar's beat of length. */
export function chordSpans(changes: readonly ChordEntry[], endTicks: Ticks): ChordSpanOfSong[] {
  return changes.map((change, i) => {
    const next = changes[i + 1] as ChordEntry | undefined;
    const end = next?.startTicks ?? Math.max(endTicks, change.startTicks + 1);
    return { change, startTicks: change.startTicks, endTicks: end };
  });
}

/** Where the song ends: the last note, recording or chord. */
export function songEndTicks(song: Song, time: TimeMap): Ticks {
  let end = 0;
  for (const part of song.parts) {
    for (const passage of part.passages) end = Math.max(end, passageEndTicks(passage, time));
  }
  const last = chordEntriesOf(song).at(-1);
  if (last) end = Math.max(end, time.barStartTicks(time.barAt(last.startTicks).bar + 1));
  return end;
}

export interface ReadChordAt {
  startSeconds: number;
  endSeconds: number;
  chord: ChordEntry['chord'];
  confidence: number;
  alternatives: { chord: ChordEntry['chord']; score: number }[];
  sounding?: number[];
}

export type ChordPull = 'off' | 'beat' | 'bar';

/** A window on what was read, and where it lies. */
export type ChordWindow = Pick<
  RecordingPassage,
  'startTicks' | 'offsetSeconds' | 'durationSeconds' | 'clock'
>;

/**
 * Chords read from a recording as changes of the song, wherever its passages lie: one that begins later covers an earlier
 * one. Boundaries go to the nearest beat or bar line. Two that fall on
 * one place are one: the later. Neighbours that are alike become one. The report says how many boundaries move, of how many: a chord that
 * goes on from one passage into the next begins in both.
 */
export function changesFromReading(
  chords: readonly ReadChordAt[],
  passages: readonly ChordWindow[],
  time: TimeMap,
  pull: ChordPull,
  createId: () => string,
): { changes: ChordEntry[]; boundaries: number; moved: number; furthestSeconds: number } {
  const placed = new Map<Ticks, ChordEntry>();
  let boundaries = 0;
  let moved = 0;
  let furthestSeconds = 0;
  for (const passage of passages.toSorted((a, b) => a.startTicks - b.startTicks)) {
    const { toSong } = createPassageTime(passage, time);
    const from = passage.offsetSeconds;
    const to = passage.offsetSeconds + passage.durationSeconds;
    const endTicks = time.ticksAt(toSong(to));
    for (const ticks of [...placed.keys()])
      if (ticks >= passage.startTicks && ticks < endTicks) placed.delete(ticks);
    for (const read of chords) {
      if (read.endSeconds <= from || read.startSeconds >= to) continue;
      const seconds = toSong(Math.max(from, read.startSeconds));
      const exact = Math.max(0, Math.round(time.ticksAt(seconds)));
      const startTicks = pulled(exact, time, pull);
      const off = Math.abs(time.secondsAt(startTicks) - seconds);
      boundaries++;
      if (off > 0.001) moved++;
      furthestSeconds = Math.max(furthestSeconds, off);
      placed.set(startTicks, {
        id: createId(),
        startTicks,
        chord: read.chord,
        confidence: read.confidence,
        alternatives: read.alternatives,
        ...(read.sounding && { sounding: read.sounding }),
      });
    }
  }
  const changes = [...placed.values()]
    .sort((a, b) => a.startTicks - b.startTicks)
    .filter((change, i, all) => i === 0 || !sameSound(change.chord, all[i - 1].chord));
  return { changes, boundaries, moved, furthestSeconds };
}

/** What is kept of chords that were read as the recording's own chords. */
export function ownChordsOf(
  chords: readonly Pick<ReadChordAt, 'startSeconds' | 'chord' | 'confidence'>[],
): OwnChord[] {
  return chords.map(({ startSeconds, chord, confidence }) => ({ startSeconds, chord, confidence }));
}

/** A recording's own chords as chords that were read. */
export function readChordsOf({
  chords = [],
  offsetSeconds,
  durationSeconds,
}: PlacedRecording): ReadChordAt[] {
  return chords.map(({ startSeconds, chord, confidence }, i) => ({
    startSeconds,
    endSeconds: chords.at(i + 1)?.startSeconds ?? Math.max(startSeconds, offsetSeconds + durationSeconds),
    chord,
    confidence,
    alternatives: [],
  }));
}

function pulled(ticks: Ticks, time: TimeMap, pull: ChordPull): Ticks {
  if (pull === 'off') return ticks;
  const { bar, beat } = time.barAt(ticks);
  if (pull === 'bar') {
    const here = time.barStartTicks(bar);
    const next = time.barStartTicks(bar + 1);
    return Math.max(0, ticks - here <= next - ticks ? here : next);
  }
  const here = time.ticksOf({ bar, beat, tick: 0 });
  const next = here + time.beatTicksAt(ticks);
  return Math.max(0, ticks - here <= next - ticks ? here : next);
}

/** A chord from `startTicks` on; one that stands there already is replaced. A typed chord is sure. */
export function putChord(
  changes: readonly ChordEntry[],
  startTicks: Ticks,
  chord: ChordEntry['chord'],
  createId: () => string,
): ChordEntriesChange {
  const there = changes.find((change) => change.startTicks === startTicks);
  if (!there) return { remove: [], put: [{ id: createId(), startTicks, chord }] };
  const sure: ChordEntry = { ...there, chord };
  delete sure.confidence;
  return { remove: [], put: [sure] };
}

/** The second half of a chord as one of its own, at the beat nearest to its middle. */
export function splitChord(
  spans: readonly ChordSpanOfSong[],
  id: string,
  time: TimeMap,
  createId: () => string,
): ChordEntriesChange | undefined {
  const span = spans.find(({ change }) => change.id === id);
  if (!span) return undefined;
  const middle = pulled(Math.round((span.startTicks + span.endTicks) / 2), time, 'beat');
  const at = middle > span.startTicks && middle < span.endTicks ? middle : undefined;
  return at === undefined
    ? undefined
    : { remove: [], put: [{ ...span.change, id: createId(), startTicks: at }] };
}

/** Chords copied relative to the first, put down from another place on; what stands there is replaced. */
export function pasteChords(
  changes: readonly ChordEntry[],
  copied: readonly { offsetTicks: Ticks; chord: ChordEntry['chord'] }[],
  lengthTicks: Ticks,
  atTicks: Ticks,
  createId: () => string,
): ChordEntriesChange {
  const end = atTicks + lengthTicks;
  const remove = changes.filter(({ startTicks }) => startTicks >= atTicks && startTicks < end);
  const put: ChordEntry[] = copied.map(({ offsetTicks, chord }) => ({
    id: createId(),
    startTicks: atTicks + offsetTicks,
    chord,
  }));
  // What was in force behind the phrase is in force there again.
  const after = changeAt(changes, end);
  if (after && after.startTicks < end && !changes.some(({ startTicks }) => startTicks === end))
    put.push({ ...after, id: createId(), startTicks: end });
  return { remove: remove.map(({ id }) => id), put };
}

/** All changes some semitones away, each spelled in the key of its place. */
export function transposeChanges(
  changes: readonly ChordEntry[],
  semitones: number,
  keyOf: (ticks: Ticks) => Key | null,
): ChordEntry[] {
  const moved = (chord: ChordOrNone, ticks: Ticks) => transposeChord(chord, semitones, keyOf(ticks));
  return changes.map((change) => ({
    ...change,
    chord: moved(change.chord, change.startTicks),
    ...(change.alternatives && {
      alternatives: change.alternatives.map((other) => ({
        ...other,
        chord: moved(other.chord, change.startTicks),
      })),
    }),
    ...(change.sounding && {
      sounding: change.sounding.map((_, i, all) => all[(((i - semitones) % 12) + 12) % 12]),
    }),
  }));
}
