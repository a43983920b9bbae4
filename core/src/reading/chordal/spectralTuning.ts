/** How far a recording is from A4 = 440 Hz, from the peaks of its spectrum, before any note is known. */
import { createRealTransform } from '../../signal/index.ts';
import { hzToMidi } from '../../theory/index.ts';
import { READING_HZ } from '../melodySettings.ts';

const SIZE = 1024;
const RATE_HZ = READING_HZ / 8;
/** A spectrum every 93 ms is enough for something that stays. */
const HOP = 256;
/** Below, peaks are too broad for cents; above, strings and hammers are no longer harmonic. */
const LOWEST_HZ = 110;
const HIGHEST_HZ = 1000;
/** Peaks this far below the loudest of their frame, and frames this far below the loudest frame, do not count. */
const PEAK_RANGE_DB = 34;
const FRAME_RANGE_DB = 40;
const SILENCE_DB = -90;

/**
 * Cents, −50…50, by which the pitches of `low` (mono, an eighth of 22,050 Hz) lie above equal temperament: the circular
 * mean of the distances of all spectral peaks, weighted by amplitude. 0 when nothing sounds.
 */
export function estimateSpectralTuning(low: Float32Array): number {
  const transform = createRealTransform(SIZE);
  const frame = new Float32Array(SIZE);
  const power = new Float64Array(SIZE / 2);
  const frames: { loudestDb: number; x: number; y: number }[] = [];
  for (let centre = 0; centre < low.length; centre += HOP) {
    // Rotated, so that the centre comes first: neighbouring bins then have one phase.
    for (let i = 0; i < SIZE; i++) {
      const at = centre + (i < SIZE / 2 ? i : i - SIZE);
      frame[i] = at >= 0 && at < low.length ? low[at] : 0;
    }
    hannPower(transform.forward(frame), power);
    frames.push(peaksOf(power));
  }
  const top = frames.reduce((most, { loudestDb }) => Math.max(most, loudestDb), SILENCE_DB);
  let x = 0;
  let y = 0;
  for (const each of frames) {
    if (each.loudestDb < top - FRAME_RANGE_DB || each.loudestDb <= SILENCE_DB) continue;
    x += each.x;
    y += each.y;
  }
  if (x === 0 && y === 0) return 0;
  return (Math.atan2(y, x) / (2 * Math.PI)) * 100;
}

/** Power of a Hann-windowed frame from the transform of the bare one, whose centre comes first. */
function hannPower(spectrum: ArrayLike<number>, power: Float64Array): void {
  for (let bin = 1; bin < power.length - 1; bin++) {
    const at = 2 * bin;
    const real = 0.5 * spectrum[at] + 0.25 * (spectrum[at - 2] + spectrum[at + 2]);
    const imaginary = 0.5 * spectrum[at + 1] + 0.25 * (spectrum[at - 1] + spectrum[at + 3]);
    power[bin] = ((real * real + imaginary * imaginary) * 16) / (SIZE * SIZE) + 1e-20;
  }
}

function peaksOf(power: Float64Array): { loudestDb: number; x: number; y: number } {
  const first = Math.ceil((LOWEST_HZ * SIZE) / RATE_HZ);
  const last = Math.floor((HIGHEST_HZ * SIZE) / RATE_HZ);
  let loudest = 1e-20;
  for (let bin = first; bin <= last; bin++) loudest = Math.max(loudest, power[bin]);
  const floor = loudest * 10 ** (-PEAK_RANGE_DB / 10);
  let x = 0;
  let y = 0;
  for (let bin = first; bin <= last; bin++) {
    if (power[bin] < floor || power[bin] <= power[bin - 1] || power[bin] < power[bin + 1]) continue;
    const before = Math.log(power[bin - 1]);
    const at = Math.log(power[bin]);
    const after = Math.log(power[bin + 1]);
    const shift = (0.5 * (before - after)) / (before - 2 * at + after);
    const midi = hzToMidi(((bin + shift) * RATE_HZ) / SIZE);
    const angle = 2 * Math.PI * midi;
    const weight = Math.sqrt(power[bin]);
    x += Math.cos(angle) * weight;
    y += Math.sin(angle) * weight;
  }
  return { loudestDb: 10 * Math.log10(loudest), x, y };
}
