/** The tempo and metre that were read as the song's: its bars lie where the recording has them, and chords go to its beats. */
import { FASTEST_NEAR_BPM, SLOWEST_NEAR_BPM, type ChordsResult } from '@plundra/contract';
import {
  createPassageTime,
  changesFromReading,
  createSong,
  createTimeMap,
  offeredBpm,
  countedBeats,
  evenBpm,
  isCompound,
  playedFrame,
  playedTempo,
  partEdits,
  quartersPerMinute,
  secondsToBarLine,
  type ChordPull,
  type HeardBeats,
  type Metre,
  type SimpleEdit,
  type Song,
  type TimeMap,
} from '@plundra/core/song';
import { beatsInBar } from './beats/beatPlaces.ts';
import type { FoundChords } from './chordSources.ts';

/** Chords as they would stand in the song: how many boundaries went to the grid, and how far at most. */
export type PulledChords = ReturnType<typeof changesFromReading>;
export type ReadTempo = ChordsResult['tempo'];

export interface ChosenTempo {
  /** Beats a minute, in the beats of the metre. */
  bpm: number;
  metre: Metre;
  /** As they are counted, in seconds of the recording. */
  heard: HeardBeats;
  /** The tempo follows the beats that were heard; else it is one throughout. */
  asPlayed: boolean;
}

/**
 * Sets tempo and metre, and moves all recordings by the same time so that the first bar line that was heard lies on one of
 * the song. Notes that were made from a recording stay with it; others keep their bars.
 */
export function planReadTempo(
  song: Song,
  time: TimeMap,
  found: Pick<FoundChords, 'windows'>,
  taken: ChosenTempo,
): { edits: SimpleEdit[]; time: TimeMap; laterSeconds: number } {
  const metreMap = [{ startTicks: 0, ...taken.metre }];
  const { tempoMap, laterSeconds: later } = frameOf(song, time, found, taken);
  const next = createTimeMap({ tempoMap, metreMap });
  const moved = (ticks: number) => next.ticksAt(Math.max(0, time.secondsAt(ticks) + later));
  const edits: SimpleEdit[] = [{ type: 'song.set', patch: { tempoMap, metreMap } }];
  const recordings = new Set(song.parts.filter(({ kind }) => kind === 'recording').map(({ id }) => id));
  for (const part of song.parts)
    if (part.kind === 'recording' || recordings.has(part.madeFromPartId ?? ''))
      edits.push(...partEdits(part, moved));
  return { edits, time: next, laterSeconds: later };
}

/** The tempo over the song, and by how much all that is recorded moves. */
function frameOf(
  song: Song,
  time: TimeMap,
  found: Pick<FoundChords, 'windows'>,
  { bpm, metre, heard, asPlayed }: ChosenTempo,
): { tempoMap: Song['tempoMap']; laterSeconds: number } {
  const { toSong } = createPassageTime(found.windows[0], time);
  const starts = song.parts.flatMap((part) =>
    part.kind === 'recording' ? part.passages.map((passage) => time.secondsAt(passage.startTicks)) : [],
  );
  const earliest = Math.min(...starts);
  const changing = asPlayed && playedTempo(heard);
  if (changing) {
    const inSong = { beats: heard.beats.map(toSong), downbeats: heard.downbeats.map(toSong) };
    return playedFrame(inSong, changing, metre, earliest);
  }
  const tempoMap = [{ startTicks: 0, bpm: quartersPerMinute(bpm, metre) }];
  const next = createTimeMap({ tempoMap, metreMap: [{ startTicks: 0, ...metre }] });
  return { tempoMap, laterSeconds: secondsToBarLine(toSong(heard.downbeats.at(0) ?? 0), earliest, next) };
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

/** Beats that lie further than this from those of one tempo were played freely: its bars would come apart from what is heard. */
const FREELY_SECONDS = 0.12;

/**
 * What is offered at first; null where no beat was found, or those that are the song's already were taken.
 * @param asPlayed whether the tempo follows the beats, where that was chosen before
 */
export function firstTempo(tempo: ReadTempo | undefined, asPlayed?: boolean): ChosenTempo | null {
  if (!tempo || tempo.known || !(tempo.bpm > 0)) return null;
  return tempoOf(tempo, 1, heardMetre(tempo), asPlayed ?? wasPlayedFreely(tempo));
}

/** Whether the beats of one tempo would come apart from those that were heard. */
export const wasPlayedFreely = (heard: HeardBeats): boolean =>
  (playedTempo(heard)?.apartSeconds ?? 0) > FREELY_SECONDS;

/** @param asPlayed the tempo follows the beats that were heard */
export function tempoOf(tempo: ReadTempo, factor: number, metre: string, asPlayed: boolean): ChosenTempo {
  return {
    bpm: Number((offeredBpm(tempo) * factor).toFixed(2)),
    metre: METRES.get(metre)!,
    heard: countedBeats(tempo, factor),
    asPlayed,
  };
}

/**
 * A reading whose beats were put right by hand.
 * @param factor by which they were counted otherwise before
 * @param metre they are counted in
 */
export function correctedTempo(
  tempo: ReadTempo,
  factor: number,
  { beats, downbeats }: HeardBeats,
  metre: Metre,
): ReadTempo {
  const before = countedBeats(tempo, factor).beats;
  const isMoved = beats.length !== before.length || beats.some((at, i) => at !== before[i]);
  return {
    ...tempo,
    beats: [...beats],
    downbeats: [...downbeats],
    bpm: isMoved ? evenBpm(beats) : tempo.bpm * factor,
    beatsPerBar: beatsInBar(metre),
    compound: isCompound(metre),
  };
}

/** A tempo this near to what was read, or to its half or double, is what was read: its beats stay. As a share of an octave. */
const SAME_TEMPO_OCTAVES = 0.05;

/**
 * What a typed tempo makes of the beats that were read: counted by another power of two, or null: they are others, to be read anew.
 * @param bpm that they have now
 */
export function octavesToTempo(bpm: number, typedBpm: number): number | null {
  const octaves = Math.log2(typedBpm / bpm);
  const whole = Math.round(octaves);
  return Math.abs(octaves - whole) <= SAME_TEMPO_OCTAVES ? whole : null;
}

/** A tempo by octaves within what beats are looked for at. */
export function withinNear(bpm: number): number {
  if (bpm < SLOWEST_NEAR_BPM) return withinNear(2 * bpm);
  return bpm > FASTEST_NEAR_BPM ? withinNear(bpm / 2) : bpm;
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
