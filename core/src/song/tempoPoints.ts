/** The tempo map as points that are added, moved and taken away; each keeps its place between its neighbours. */
import type { Ticks } from '../signal/index.ts';
import { MAX_MAP_ENTRIES, MAX_TICKS, type Song, type TempoEntry } from './schema.ts';
import { createTimeMap } from './timeMap.ts';

export const SLOWEST_BPM = 10;
export const FASTEST_BPM = 400;
const held = (bpm: number) => Math.max(SLOWEST_BPM, Math.min(FASTEST_BPM, bpm));

/** A point at a tick with the tempo there is: nothing changes yet, also inside a ramp. The same map where one stands there. */
export function withTempoPoint(
  song: Pick<Song, 'tempoMap' | 'metreMap'>,
  startTicks: Ticks,
): Song['tempoMap'] {
  const { tempoMap } = song;
  const at = tempoMap.findLastIndex((entry) => entry.startTicks <= startTicks);
  if (at < 0 || tempoMap[at].startTicks === startTicks || tempoMap.length >= MAX_MAP_ENTRIES) return tempoMap;
  const bpm = createTimeMap(song).quartersPerMinuteAt(startTicks);
  const ramp = tempoMap[at].ramp && at + 1 < tempoMap.length;
  return tempoMap.toSpliced(at + 1, 0, { startTicks, bpm, ...(ramp && { ramp: true as const }) });
}

/** The first stays at the start of the song. */
export function movedTempoPoint(
  tempoMap: readonly TempoEntry[],
  index: number,
  to: Partial<Pick<TempoEntry, 'startTicks' | 'bpm'>>,
): TempoEntry[] {
  const entry = tempoMap[index];
  const [before, after] = [tempoMap[index - 1], tempoMap.at(index + 1)];
  const startTicks =
    index === 0
      ? 0
      : Math.max(
          before.startTicks + 1,
          Math.min((after?.startTicks ?? MAX_TICKS + 1) - 1, Math.round(to.startTicks ?? entry.startTicks)),
        );
  return tempoMap.with(index, { ...entry, startTicks, bpm: held(to.bpm ?? entry.bpm) });
}

/** Whether the tempo goes evenly to that of the next point. */
export function withRamp(tempoMap: readonly TempoEntry[], index: number, ramp: boolean): TempoEntry[] {
  const { ramp: _, ...entry } = tempoMap[index];
  return tempoMap.with(index, ramp ? { ...entry, ramp: true } : entry);
}

/** The same map where it is the first, which a song must have. */
export function withoutTempoPoint(tempoMap: readonly TempoEntry[], index: number): TempoEntry[] {
  return index === 0 ? [...tempoMap] : tempoMap.toSpliced(index, 1);
}
