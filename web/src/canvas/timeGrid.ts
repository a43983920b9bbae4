/** Which lines and numbers the bar ruler shows in a view; nothing is drawn here. */
import type { TimeMap } from '@plundra/core/song';
import { secondsOf, xOf, type TimeView } from './view.ts';

export interface GridLine {
  x: number;
  weight: 'bar' | 'beat' | 'step';
  /** Bar number where it is shown. */
  label?: string;
}

const MIN_LABEL_PIXELS = 44;
const MIN_BAR_PIXELS = 5;
const MIN_BEAT_PIXELS = 14;
const MIN_STEP_PIXELS = 12;

export function gridLines(view: TimeView, width: number, time: TimeMap, stepTicks: number): GridLine[] {
  const lines: GridLine[] = [];
  const firstBar = Math.max(1, time.barAt(Math.max(0, time.ticksAt(view.startSeconds))).bar);
  const lastSeconds = secondsOf(view, width);
  let lastLabelX = -Infinity;
  let stride: number;
  for (let bar = firstBar; ; bar = Math.floor((bar - 1) / stride) * stride + stride + 1) {
    const startTicks = time.barStartTicks(bar);
    const startSeconds = time.secondsAt(startTicks);
    if (startSeconds > lastSeconds) break;
    const x = xOf(view, startSeconds);
    const endTicks = time.barStartTicks(bar + 1);
    const barPixels = xOf(view, time.secondsAt(endTicks)) - x;
    if (barPixels <= 0) break;
    const labelled =
      x - lastLabelX >= MIN_LABEL_PIXELS && (barPixels >= MIN_LABEL_PIXELS || (bar - 1) % 4 === 0);
    if (labelled) lastLabelX = x;
    // Of bars that lie too close every fourth is shown, or every sixteenth, and so on.
    stride =
      barPixels >= MIN_BAR_PIXELS ? 1 : 4 ** Math.ceil(Math.log(MIN_BAR_PIXELS / barPixels) / Math.log(4));
    if ((bar - 1) % stride === 0) lines.push({ x, weight: 'bar', ...(labelled && { label: String(bar) }) });
    if (stride === 1) addInside(lines, view, time, startTicks, endTicks, barPixels, stepTicks);
  }
  return lines;
}

function addInside(
  lines: GridLine[],
  view: TimeView,
  time: TimeMap,
  start: number,
  end: number,
  barPixels: number,
  stepTicks: number,
): void {
  const beatTicks = time.beatTicksAt(start);
  const perTick = barPixels / (end - start);
  const step =
    stepTicks > 0 && stepTicks < beatTicks && stepTicks * perTick >= MIN_STEP_PIXELS ? stepTicks : 0;
  if (beatTicks * perTick >= MIN_BEAT_PIXELS) {
    for (let at = start + beatTicks; at < end; at += beatTicks)
      lines.push({ x: xOf(view, time.secondsAt(at)), weight: 'beat' });
  }
  if (step === 0) return;
  for (let at = start + step; at < end; at += step) {
    if ((at - start) % beatTicks !== 0) lines.push({ x: xOf(view, time.secondsAt(at)), weight: 'step' });
  }
}
