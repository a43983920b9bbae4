/**
 * When what is heard of a passage at another speed than it was recorded, for its own sake or because it follows the song's
 * tempo. How it sounds: warpSound.ts.
 */
import { sampledCurve, straightened, type Seconds } from '../signal/index.ts';
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
  const curve = sampledCurve(
    (recorded) => toSong(recorded) - start,
    [offsetSeconds, offsetSeconds + durationSeconds],
    { every: LOOK_SECONDS, finest: FINEST_SECONDS, bend: STRAIGHT_SECONDS / 4 },
  );
  const points = straightened(curve, STRAIGHT_SECONDS);
  return { points: points.map(({ x, y }) => ({ fromSeconds: x, toSeconds: y })), how };
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
