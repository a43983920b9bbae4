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
