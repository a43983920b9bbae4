/** The tempo and metre that were read as the song's: its bars lie where the recording has them, and chords go to its beats. */
import type { ChordsResult } from '@plundra/contract';
import {
  createPassageTime,
  changesFromReading,
  createSong,
  createTimeMap,
  offeredBpm,
  partEdits,
  quartersPerMinute,
  secondsToBarLine,
  type ChordPull,
  type MetreEntry,
  type SimpleEdit,
  type Song,
  type TimeMap,
} from '@plundra/core/song';
import type { FoundChords } from './chordSources.ts';

/** Chords as they would stand in the song: how many boundaries went to the grid, and how far at most. */
export type PulledChords = ReturnType<typeof changesFromReading>;
type ReadTempo = ChordsResult['tempo'];

export interface ChosenTempo {
  /** Beats a minute, in the beats of the metre. */
  bpm: number;
  metre: Pick<MetreEntry, 'beats' | 'unit'>;
}

/**
 * Sets tempo and metre, and moves all recordings by the same time so that the first bar line that was heard lies on one of
 * the song. Notes that were made from a recording stay with it; others keep their bars.
 */
export function planReadTempo(
  song: Song,
  time: TimeMap,
  found: Pick<FoundChords, 'windows' | 'tempo'>,
  { bpm, metre }: ChosenTempo,
): { edits: SimpleEdit[]; time: TimeMap; laterSeconds: number } {
  const tempoMap = [{ startTicks: 0, bpm: quartersPerMinute(bpm, metre) }];
  const metreMap = [{ startTicks: 0, ...metre }];
  const next = createTimeMap({ tempoMap, metreMap });
  const heard = createPassageTime(found.windows[0], time).toSong(found.tempo?.downbeats[0] ?? 0);
  const starts = song.parts.flatMap((part) =>
    part.kind === 'recording' ? part.passages.map((passage) => time.secondsAt(passage.startTicks)) : [],
  );
  const later = secondsToBarLine(heard, Math.min(...starts), next);
  const moved = (ticks: number) => Math.round(next.ticksAt(Math.max(0, time.secondsAt(ticks) + later)));
  const edits: SimpleEdit[] = [{ type: 'song.set', patch: { tempoMap, metreMap } }];
  const recordings = new Set(song.parts.filter(({ kind }) => kind === 'recording').map(({ id }) => id));
  for (const part of song.parts)
    if (part.kind === 'recording' || recordings.has(part.madeFromPartId ?? ''))
      edits.push(...partEdits(part, moved));
  return { edits, time: next, laterSeconds: later };
}

/** The same, with the chords that were read put there. */
export function planReadChords(
  song: Song,
  time: TimeMap,
  found: FoundChords,
  taken: ChosenTempo,
  pull: ChordPull,
  createId: () => string,
): PulledChords & { edits: SimpleEdit[]; time: TimeMap } {
  const { edits, time: next, laterSeconds } = planReadTempo(song, time, found, taken);
  const passages = found.windows.map((passage) => ({
    ...passage,
    startTicks: Math.round(next.ticksAt(time.secondsAt(passage.startTicks) + laterSeconds)),
  }));
  const pulled = changesFromReading(found.chords, passages, next, pull, createId);
  const remove = (song.changes ?? []).map(({ id }) => id);
  return { ...pulled, edits: [...edits, { type: 'changes.put', remove, put: pulled.changes }], time: next };
}

/** Metres that beats can be counted in; how many make a bar was heard. */
export const METRES = new Map<string, ChosenTempo['metre']>(
  (
    [
      [2, 4],
      [3, 4],
      [4, 4],
      [5, 4],
      [6, 8],
      [9, 8],
      [12, 8],
    ] as const
  ).map(([beats, unit]) => [`${beats}/${unit}`, { beats, unit }]),
);

export const heardMetre = ({ beatsPerBar, compound }: Pick<ReadTempo, 'beatsPerBar' | 'compound'>) =>
  compound ? `${3 * beatsPerBar}/8` : `${beatsPerBar}/4`;

/** What is offered at first; null where no beat was found, or those that are the song's already were taken. */
export function firstTempo(tempo: ReadTempo | undefined): ChosenTempo | null {
  return tempo && !tempo.known && tempo.bpm > 0 ? tempoOf(tempo, 1, heardMetre(tempo)) : null;
}

export function tempoOf(tempo: ReadTempo, factor: number, metre: string): ChosenTempo {
  return { bpm: Number((offeredBpm(tempo) * factor).toFixed(2)), metre: METRES.get(metre)! };
}

/** Whether something in the song depends on its tempo and metre, or they were set: then they are not changed unasked. */
export function hasOwnFrame(song: Song): boolean {
  const fresh = createSong('', '');
  const isSame = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);
  return (
    !isSame(song.tempoMap, fresh.tempoMap) ||
    !isSame(song.metreMap, fresh.metreMap) ||
    (song.changes ?? []).length > 0 ||
    song.parts.some(({ kind }) => kind !== 'recording')
  );
}
