/**
 * When what is heard of a passage at another speed than it was recorded, for its own sake or because it follows the song's
 * tempo. How it sounds: warpSound.ts.
 */
import type { Seconds } from '../signal/index.ts';
import { createPassageTime, type TimeMap, type WarpedWindow } from '../song/index.ts';
import type { StretchSpec } from './stretchSound.ts';

/** An instant of the recording, and when it is heard after the start of the passage. */
export interface WarpPoint {
  fromSeconds: Seconds;
  toSeconds: Seconds;
}

export interface WarpSpec {
  /** Ascending in both, from the first moment of the passage to its last; between two, time runs evenly. */
  points: readonly WarpPoint[];
  how: StretchSpec['how'];
}

/** Times are looked at this often, and where the speed changes until it is known to a millisecond when. */
const LOOK_SECONDS = 0.125;
const FINEST_SECONDS = 0.001;
/** What lies nearer to a straight line than this is on it. */
const STRAIGHT_SECONDS = 1e-4;
/** So much more is made behind the end, for the sound to fade into what follows. */
const MORE_SECONDS = 0.05;

export function warpOf(window: WarpedWindow, time: TimeMap, how: StretchSpec['how']): WarpSpec {
  const { offsetSeconds, durationSeconds, startTicks } = window;
  const { toSong } = createPassageTime(window, time);
  const start = time.secondsAt(startTicks);
  const pointAt = (fromSeconds: Seconds): WarpPoint => ({
    fromSeconds,
    toSeconds: toSong(fromSeconds) - start,
  });
  const count = Math.max(1, Math.ceil(durationSeconds / LOOK_SECONDS));
  const all = [pointAt(offsetSeconds)];
  for (let i = 1; i <= count; i++)
    lookCloser(all, pointAt(offsetSeconds + (durationSeconds * i) / count), pointAt);
  return { points: straightened(all), how };
}

/** Adds what lies between the last point and another, as finely as it bends. */
function lookCloser(points: WarpPoint[], to: WarpPoint, pointAt: (fromSeconds: Seconds) => WarpPoint): void {
  const from = points[points.length - 1];
  const middle = pointAt((from.fromSeconds + to.fromSeconds) / 2);
  const bend = Math.abs((from.toSeconds + to.toSeconds) / 2 - middle.toSeconds);
  if (bend > STRAIGHT_SECONDS / 4 && to.fromSeconds - from.fromSeconds > FINEST_SECONDS) {
    lookCloser(points, middle, pointAt);
    lookCloser(points, to, pointAt);
  } else points.push(to);
}

/** Without the points between which nothing bends: each line goes on as long as all on it lie near enough. */
function straightened(all: readonly WarpPoint[]): WarpPoint[] {
  const kept = [all[0]];
  let [least, most] = [-Infinity, Infinity];
  for (let i = 1; i < all.length; i++) {
    const from = kept[kept.length - 1];
    const slope = (to: WarpPoint, more: Seconds) =>
      (to.toSeconds + more - from.toSeconds) / (to.fromSeconds - from.fromSeconds);
    const straight = slope(all[i], 0);
    if (straight < least || straight > most) {
      kept.push(all[i - 1]);
      [least, most] = [-Infinity, Infinity];
      i--;
      continue;
    }
    least = Math.max(least, slope(all[i], -STRAIGHT_SECONDS));
    most = Math.min(most, slope(all[i], STRAIGHT_SECONDS));
  }
  return [...kept, all[all.length - 1]];
}

/** The points of a passage, and one more a little behind its end. */
export function pointsWithMore({ points }: WarpSpec): WarpPoint[] {
  const end = points[points.length - 1];
  const before = points[points.length - 2];
  const slope = (end.toSeconds - before.toSeconds) / (end.fromSeconds - before.fromSeconds);
  return [
    ...points,
    { fromSeconds: end.fromSeconds + MORE_SECONDS / slope, toSeconds: end.toSeconds + MORE_SECONDS },
  ];
}

/** How long the sound of a passage is, a little longer than the passage lasts. */
export const warpedSamples = ({ points }: WarpSpec, sampleRateHz: number): number =>
  Math.round((points[points.length - 1].toSeconds + MORE_SECONDS) * sampleRateHz);

/** When an instant of the recording is heard after the start of the passage. */
export function heardAt(points: readonly WarpPoint[], recordedSeconds: Seconds): Seconds {
  const found = points.findIndex(({ fromSeconds }) => fromSeconds > recordedSeconds);
  const after = found < 0 ? points.length - 1 : Math.max(1, found);
  const [a, b] = [points[after - 1], points[after]];
  const share = (recordedSeconds - a.fromSeconds) / (b.fromSeconds - a.fromSeconds);
  return a.toSeconds + share * (b.toSeconds - a.toSeconds);
}
