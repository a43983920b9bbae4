/** Where beats that were heard lie on the screen and in the song, and what they are called. Pure. */
import type { Seconds } from '@plundra/core/signal';
import { beatTicksOf, firstDownbeat, type HeardBeats, type Metre } from '@plundra/core/song';
import type { BeatClick } from '../../../audio/engine.ts';

/** How near to a beat the pointer must be to take hold of it. */
const HOLD_PIXELS = 6;
/** A beat that is dragged goes to an onset this near. */
const ONSET_PIXELS = 7;
const TICKS_PER_WHOLE = 3840;

/** In 6/8 there are two, of a dotted quarter each. */
export const beatsInBar = (metre: Metre): number =>
  ((TICKS_PER_WHOLE / metre.unit) * metre.beats) / beatTicksOf(metre);

/** Clicks on the beats from one time of the song up to but not including another. */
export function clicksOf(
  { beats, downbeats }: HeardBeats,
  toSong: (recorded: Seconds) => Seconds,
  from: Seconds,
  to: Seconds,
): BeatClick[] {
  const bars = new Set(downbeats);
  return beats
    .map((at) => ({ timeSeconds: toSong(at), downbeat: bars.has(at) }))
    .filter(({ timeSeconds }) => timeSeconds >= from && timeSeconds < to);
}

/** The beat that lies nearest to a place on the screen, if it can be taken hold of there. */
export function beatNear(xs: readonly number[], x: number): number | undefined {
  return nearest(xs, x, HOLD_PIXELS);
}

/** Where a beat goes that is dragged to a place: to the onset beside it, if there is one. */
export function draggedTo(
  x: number,
  onsets: readonly Seconds[],
  xOfRecorded: (seconds: Seconds) => number,
  recordedAt: (x: number) => Seconds,
): Seconds {
  const index = nearest(onsets.map(xOfRecorded), x, ONSET_PIXELS);
  return index === undefined ? recordedAt(x) : onsets[index];
}

function nearest(xs: readonly number[], x: number, within: number): number | undefined {
  const best = xs.reduce((a, each, i) => (Math.abs(each - x) < Math.abs(xs[a] - x) ? i : a), 0);
  return xs.length > 0 && Math.abs(xs[best] - x) <= within ? best : undefined;
}

/** Counted from the first bar line; beats before it are of bar 0. */
export function placeOfBeat(heard: HeardBeats, index: number, perBar: number): { bar: number; beat: number } {
  const since = index - firstDownbeat(heard);
  const bar = Math.floor(since / perBar);
  return { bar: bar + 1, beat: since - bar * perBar + 1 };
}
