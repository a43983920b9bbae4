import { createRowFilter, MAX_FILTER_OUTPUTS } from './rowFilter.ts';
import type { Hertz } from './units.ts';

/** Zero crossings of the interpolation kernel on each side; sets the steepness of the band edge. */
const ZERO_CROSSINGS = 16;
/** Ratios of whole numbers up to this (all common rates) get a kernel for each position that occurs. */
const MAX_EXACT_PHASES = 1024;
/** For other ratios: positions of the kernel kept in the table; linear interpolation runs between them. */
const PHASES = 256;
/** Kaiser window shape: about −90 dB side lobes (Kaiser 1974). */
const KAISER_BETA = 9;

/** Takes audio in pieces of any length and gives it back at another rate. */
export interface StreamResampler {
  /** Adds samples and returns what can be computed so far. */
  push(input: Float32Array): Float32Array;
  /** Returns the rest. The total output length is ceil(total input · outputHz / inputHz). */
  finish(): Float32Array;
}

/**
 * Band-limited resampling by a Kaiser-windowed sinc kernel (Smith, "Digital Audio Resampling"), cut at 95 %
 * of the lower Nyquist frequency so that the transition band does not fold back. Linear phase without delay.
 */
export function createResampler(inputHz: Hertz, outputHz: Hertz): StreamResampler {
  if (!(inputHz > 0) || !(outputHz > 0))
    throw new RangeError('createResampler: both rates must be above 0 Hz.');
  if (inputHz === outputHz) return { push: (input) => input.slice(), finish: () => new Float32Array(0) };

  const step = inputHz / outputHz;
  const cutoff = 0.95 * Math.min(1, outputHz / inputHz);
  const halfWidth = Math.ceil(ZERO_CROSSINGS / cutoff);
  const taps = 2 * halfWidth;
  const exactPhases = outputHz / greatestCommonDivisor(inputHz, outputHz);
  const isExact = exactPhases <= MAX_EXACT_PHASES;
  const phases = isExact ? exactPhases : PHASES;
  const filter = createRowFilter(kernelTable(cutoff, halfWidth, phases), taps);

  // `held` starts with zeros, so that the first output sees silence before the first input.
  let held: Float32Array<ArrayBufferLike> = new Float32Array(halfWidth);
  let heldStart = -halfWidth;
  let inputCount = 0;
  let outputCount = 0;
  const firsts = new Int32Array(MAX_FILTER_OUTPUTS);
  const rows = new Int32Array(MAX_FILTER_OUTPUTS);
  const mixes = new Float32Array(MAX_FILTER_OUTPUTS);

  const run = (limit: number): Float32Array => {
    const produced = new Float32Array(Math.max(0, limit - outputCount));
    for (let from = 0; from < produced.length; from += MAX_FILTER_OUTPUTS) {
      const count = Math.min(MAX_FILTER_OUTPUTS, produced.length - from);
      if (phases === 1) {
        // Every so many samples, as from 44.1 to 22.05 kHz: all are of one row.
        const first = (outputCount + from) * step - halfWidth + 1 - heldStart;
        for (let n = 0; n < count; n++) firsts[n] = first + n * step;
      } else {
        for (let n = 0; n < count; n++) {
          const position = (outputCount + from + n) * step;
          // A position that falls on a phase must not be rounded to just below it.
          const whole = Math.floor(isExact ? position + 1e-7 : position);
          const phasePosition = (position - whole) * phases;
          rows[n] = isExact ? Math.round(phasePosition) : Math.floor(phasePosition);
          mixes[n] = isExact ? 0 : phasePosition - rows[n];
          firsts[n] = whole - halfWidth + 1 - heldStart;
        }
      }
      const out = produced.subarray(from, from + count);
      filter(held, firsts, rows, out);
      if (isExact) continue;
      const before = out.slice();
      for (let n = 0; n < count; n++) rows[n]++;
      filter(held, firsts, rows, out);
      for (let n = 0; n < count; n++) out[n] = before[n] + (out[n] - before[n]) * mixes[n];
    }
    outputCount += produced.length;
    const keepFrom = Math.floor(outputCount * step) - halfWidth - heldStart;
    if (keepFrom > 0) {
      held = held.subarray(Math.min(keepFrom, held.length)).slice();
      heldStart += keepFrom;
    }
    return produced;
  };

  return {
    push(input) {
      held = concat(held, input);
      inputCount += input.length;
      return run(Math.max(0, Math.ceil((inputCount - halfWidth) / step)));
    },
    finish() {
      held = concat(held, new Float32Array(taps + 2));
      return run(Math.ceil(inputCount / step));
    },
  };
}

/** Resamples a whole signal at once; see {@link createResampler}. */
export function resample(input: Float32Array, inputHz: Hertz, outputHz: Hertz): Float32Array {
  const resampler = createResampler(inputHz, outputHz);
  return concat(resampler.push(input), resampler.finish());
}

function greatestCommonDivisor(a: number, b: number): number {
  if (!Number.isInteger(a) || !Number.isInteger(b)) return NaN;
  return b === 0 ? a : greatestCommonDivisor(b, a % b);
}

function kernelTable(cutoff: number, halfWidth: number, phases: number): Float32Array {
  const taps = 2 * halfWidth;
  const table = new Float32Array((phases + 1) * taps);
  const norm = besselI0(KAISER_BETA);
  for (let phase = 0; phase <= phases; phase++) {
    let sum = 0;
    for (let k = 0; k < taps; k++) {
      const distance = k - (halfWidth - 1) - phase / phases;
      const along = distance / halfWidth;
      const window = Math.abs(along) >= 1 ? 0 : besselI0(KAISER_BETA * Math.sqrt(1 - along * along)) / norm;
      const x = Math.PI * cutoff * distance;
      const value = cutoff * (x === 0 ? 1 : Math.sin(x) / x) * window;
      table[phase * taps + k] = value;
      sum += value;
    }
    // Unity gain at 0 Hz in every phase keeps a constant input constant.
    for (let k = 0; k < taps; k++) table[phase * taps + k] /= sum;
  }
  return table;
}

/** Modified Bessel function of the first kind, order 0, by its power series. */
function besselI0(x: number): number {
  let sum = 1;
  let term = 1;
  for (let k = 1; k < 40; k++) {
    term *= (x / (2 * k)) ** 2;
    sum += term;
  }
  return sum;
}

function concat(a: Float32Array, b: Float32Array): Float32Array {
  const joined = new Float32Array(a.length + b.length);
  joined.set(a);
  joined.set(b, a.length);
  return joined;
}
