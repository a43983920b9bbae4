/** The keys of a song one after another, in seconds of the song. */
import { keyChangesOf, type Keyed, type TimeMap } from '@plundra/core/song';
import type { Key } from '@plundra/core/theory';

export interface KeySpan {
  fromSeconds: number;
  /** Infinity for the last. */
  toSeconds: number;
  key: Key | null;
}

export function keySpansOf(song: Keyed, time: TimeMap): KeySpan[] {
  const entries = [{ startTicks: 0, key: song.key }, ...keyChangesOf(song)];
  return entries.map(({ startTicks, key }, i) => ({
    fromSeconds: i === 0 ? -Infinity : time.secondsAt(startTicks),
    toSeconds: i + 1 < entries.length ? time.secondsAt(entries[i + 1].startTicks) : Infinity,
    key,
  }));
}

/** The key at a time; spans as {@link keySpansOf} gives them. */
export function keyIn(spans: readonly KeySpan[], seconds: number): Key | null {
  return spans.findLast(({ fromSeconds }) => fromSeconds <= seconds)?.key ?? null;
}
