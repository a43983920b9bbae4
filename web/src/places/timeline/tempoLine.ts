/** The line of the tempo lane: how high a tempo lies, and the corners of the line. */
import type { TempoEntry } from '@plundra/core/song';

/** The line never fills less than this share of its tempo: a change of a beat a minute is no cliff. */
const LEAST_RANGE = 0.3;
/** A ramp is drawn in so many pieces: it is straight over ticks, not over seconds. */
const RAMP_PIECES = 12;

export function scaleOf(tempoMap: readonly TempoEntry[]): { least: number; most: number } {
  let [least, most] = [Infinity, -Infinity];
  for (const { bpm } of tempoMap) [least, most] = [Math.min(least, bpm), Math.max(most, bpm)];
  const missing = Math.max(0, LEAST_RANGE * most - (most - least));
  return { least: least - missing / 2 - 1, most: most + missing / 2 + 1 };
}

/** Steps and ramps within sight as the points of a line. */
export function lineOf(
  tempoMap: readonly TempoEntry[],
  bpmAt: (ticks: number) => number,
  xAt: (ticks: number) => number,
  yOf: (bpm: number) => number,
  width: number,
): string {
  const points: string[] = [];
  const add = (x: number, bpm: number) => points.push(`${x.toFixed(1)},${yOf(bpm).toFixed(1)}`);
  tempoMap.forEach((entry, i) => {
    const next = tempoMap.at(i + 1);
    const [from, to] = [xAt(entry.startTicks), next ? xAt(next.startTicks) : width];
    if (to < 0 || from > width) return;
    add(from, entry.bpm);
    if (!next) return add(Math.max(from, width), entry.bpm);
    if (!entry.ramp) return add(to, entry.bpm);
    for (let k = 1; k < RAMP_PIECES; k++) {
      const ticks = entry.startTicks + ((next.startTicks - entry.startTicks) * k) / RAMP_PIECES;
      add(xAt(ticks), bpmAt(ticks));
    }
    add(to, next.bpm);
  });
  return points.join(' ');
}

/** Points closer than this cannot be told apart, and numbers closer than that cannot be read. */
const POINT_PIXELS = 10;
const NUMBER_PIXELS = 46;

/** Which points are drawn, from left to right, and which of them with their number; the others show as the view is widened. */
export function roomForPoints(xs: readonly number[]): { shown: boolean; numbered: boolean }[] {
  let [lastPoint, lastNumber] = [-Infinity, -Infinity];
  return xs.map((x) => {
    const shown = x - lastPoint >= POINT_PIXELS;
    const numbered = shown && x - lastNumber >= NUMBER_PIXELS;
    if (shown) lastPoint = x;
    if (numbered) lastNumber = x;
    return { shown, numbered };
  });
}
