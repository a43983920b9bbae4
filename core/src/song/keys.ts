/** The key of every place of a song: that of its start, and those it goes to. */
import type { Ticks } from '../signal/index.ts';
import type { Key } from '../theory/index.ts';
import { fromZero } from './entries.ts';
import type { KeyChange, Song } from './schema.ts';

export type Keyed = Pick<Song, 'key' | 'keyChanges'>;

const NONE: readonly KeyChange[] = [];
export const keyChangesOf = (song: Pick<Song, 'keyChanges'>): readonly KeyChange[] => song.keyChanges ?? NONE;

/** The key in force at a tick; null where none is set yet. */
export function keyAt({ key, keyChanges }: Keyed, ticks: Ticks): Key | null {
  return keyChanges?.findLast(({ startTicks }) => startTicks <= ticks)?.key ?? key;
}

/** From where the key in force at a tick holds, and until where: Infinity for the last. */
export function keySpanAt(song: Keyed, ticks: Ticks): { startTicks: Ticks; endTicks: Ticks } {
  const changes = keyChangesOf(song);
  return {
    startTicks: changes.findLast(({ startTicks }) => startTicks <= ticks)?.startTicks ?? 0,
    endTicks: changes.find(({ startTicks }) => startTicks > ticks)?.startTicks ?? Infinity,
  };
}

/** What sets the key from a tick on, until the next change; null takes the change there away. */
export function withKeyAt(song: Keyed, startTicks: Ticks, key: Key | null): Partial<Keyed> {
  if (startTicks <= 0) return { key };
  const others = keyChangesOf(song).filter((each) => each.startTicks !== startTicks);
  const all = key ? [...others, { startTicks, key }] : others;
  return { keyChanges: all.sort((a, b) => a.startTicks - b.startTicks) };
}

/** Keys whose places move as entries do of which each holds until the next: the first becomes that of the start. */
export function movedKeys(
  song: Keyed,
  map: <T extends { startTicks: Ticks }>(entries: readonly T[]) => T[],
): Required<Keyed> {
  const all: { startTicks: Ticks; key: Key | null }[] = [
    { startTicks: 0, key: song.key },
    ...keyChangesOf(song),
  ];
  const [first, ...rest] = fromZero(map(all));
  return {
    key: first.key,
    keyChanges: rest.flatMap(({ startTicks, key }) => (key ? [{ startTicks, key }] : [])),
  };
}
