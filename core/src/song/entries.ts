/** Entries of which each holds until the next, as in the maps of tempo and metre. */
import type { Ticks } from '../signal/index.ts';
import type { MetreEntry } from './schema.ts';
import type { Metre } from './timeMap.ts';

/** A map starts with the song, also where its first entry would have moved. */
export function fromZero<T extends { startTicks: Ticks }>([first, ...rest]: readonly T[]): T[] {
  return [{ ...first, startTicks: 0 }, ...rest];
}

/** Whether entries that were moved stand where they did. */
export function samePlaces(
  a: readonly { startTicks: Ticks }[],
  b: readonly { startTicks: Ticks }[],
): boolean {
  return a.length === b.length && a.every(({ startTicks }, i) => startTicks === b[i].startTicks);
}

/** A map of metres with another from a place on, until the next; null takes the change there away. */
export function withMetreAt(
  map: readonly MetreEntry[],
  startTicks: Ticks,
  metre: Metre | null,
): MetreEntry[] {
  const others = map.filter((each) => each.startTicks !== startTicks || (startTicks === 0 && !metre));
  if (!metre) return others;
  const { beats, unit } = metre;
  return [...others, { startTicks, beats, unit }].sort((a, b) => a.startTicks - b.startTicks);
}
