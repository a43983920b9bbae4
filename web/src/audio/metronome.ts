import type { TimeMap } from '@plundra/core/song';
import type { BeatClick } from './engine.ts';

/** Beats from `fromSeconds` up to but not including `toSeconds`. */
export function beatClicks(time: TimeMap, fromSeconds: number, toSeconds: number): BeatClick[] {
  const clicks: BeatClick[] = [];
  const firstTicks = Math.max(0, time.ticksAt(fromSeconds));
  let { bar } = time.barAt(firstTicks);
  for (; ; bar++) {
    const start = time.barStartTicks(bar);
    if (time.secondsAt(start) >= toSeconds) return clicks;
    const end = time.barStartTicks(bar + 1);
    const step = time.beatTicksAt(start);
    for (let ticks = start; ticks < end; ticks += step) {
      const timeSeconds = time.secondsAt(ticks);
      if (timeSeconds >= fromSeconds && timeSeconds < toSeconds)
        clicks.push({ timeSeconds, downbeat: ticks === start });
    }
  }
}

/** Bars of beats that end at `atSeconds`, at the tempo and metre found there: seconds before it, first to last. */
export function countInBeats(time: TimeMap, atSeconds: number, bars = 1): number[] {
  const at = Math.round(time.ticksAt(atSeconds));
  const bar = time.barStartTicks(time.barAt(at).bar + 1) - time.barStartTicks(time.barAt(at).bar);
  const step = time.beatTicksAt(at);
  const secondsPerTick = (time.secondsAt(at + step) - time.secondsAt(at)) / step;
  const beats = bars * Math.round(bar / step);
  return Array.from({ length: beats }, (_, i) => (beats - i) * step * secondsPerTick);
}
