/** Waveform pictures: picks the resolution for a zoom and gives one low and high value for each pixel column. */
import type { PeakLevel } from '@plundra/core/signal';

export interface WaveformSpan {
  /** Seconds of the recording at the left and right edge. */
  fromSeconds: number;
  toSeconds: number;
  columns: number;
}

/** `[low0, high0, …]` in −1…1 for each column; zeros outside the recording. */
export function waveformColumns(
  levels: readonly PeakLevel[],
  sampleRateHz: number,
  span: WaveformSpan,
): Float32Array {
  const { fromSeconds, toSeconds, columns } = span;
  const out = new Float32Array(columns * 2);
  const framesPerColumn = ((toSeconds - fromSeconds) * sampleRateHz) / columns;
  const level = [...levels].reverse().find((each) => each.framesPerPair <= framesPerColumn) ?? levels[0];
  if (!level) return out;
  const pairCount = level.pairs.length / 2;
  for (let column = 0; column < columns; column++) {
    const start = (fromSeconds * sampleRateHz + column * framesPerColumn) / level.framesPerPair;
    const first = Math.max(0, Math.floor(start));
    const last = Math.min(
      pairCount,
      Math.max(first + 1, Math.ceil(start + framesPerColumn / level.framesPerPair)),
    );
    let low = 0;
    let high = 0;
    for (let i = first; i < last && start >= 0; i++) {
      if (level.pairs[i * 2] < low) low = level.pairs[i * 2];
      if (level.pairs[i * 2 + 1] > high) high = level.pairs[i * 2 + 1];
    }
    out[column * 2] = low / 127;
    out[column * 2 + 1] = high / 127;
  }
  return out;
}

/** So many columns are drawn as if time ran evenly in them. */
const EVEN_COLUMNS = 32;

/** Columns of a waveform whose time may run unevenly. `secondsAt`: of the recording, at the left edge of a column. */
export function waveformAlong(
  levels: readonly PeakLevel[],
  sampleRateHz: number,
  columns: number,
  secondsAt: (column: number) => number,
): Float32Array {
  const [from, middle, to] = [secondsAt(0), secondsAt(columns / 2), secondsAt(columns)];
  const isEven = Math.abs(from + to - 2 * middle) < 1e-6;
  if (isEven) return waveformColumns(levels, sampleRateHz, { fromSeconds: from, toSeconds: to, columns });
  const out = new Float32Array(columns * 2);
  for (let first = 0; first < columns; first += EVEN_COLUMNS) {
    const last = Math.min(columns, first + EVEN_COLUMNS);
    const span = { fromSeconds: secondsAt(first), toSeconds: secondsAt(last), columns: last - first };
    out.set(waveformColumns(levels, sampleRateHz, span), first * 2);
  }
  return out;
}

/** Fills a waveform into a box; `top` and `height` in pixels. */
export function drawWaveform(
  context: CanvasRenderingContext2D,
  columns: Float32Array,
  x: number,
  top: number,
  height: number,
  colour: string,
): void {
  const middle = top + height / 2;
  const scale = height / 2;
  context.fillStyle = colour;
  context.beginPath();
  for (let i = 0; i < columns.length / 2; i++) {
    const low = middle - columns[i * 2] * scale;
    const high = middle - columns[i * 2 + 1] * scale;
    context.rect(x + i, high, 1, Math.max(0.6, low - high));
  }
  context.fill();
}
