/**
 * Front end of the chordal reader: two maps of 310 bins, three to the semitone, every 11.6 ms. Map A, with windows
 * of 46 periods, tells pitches apart; map B, with windows of 11, tells when they start. In step with
 * training/features.py; a test compares both.
 *
 * Bins are centred Hann-windowed tones (a constant-Q transform, Brown & Puckette 1992) taken from three transforms
 * a frame: 1,024 points of the signal at an eighth of the rate, 2,048 and 1,024 points at the full rate.
 */
import { createRealTransform, type Hertz } from '../../signal/index.ts';
import { midiToHz } from '../../theory/index.ts';
import { HOP_SAMPLES, READING_HZ } from '../melodySettings.ts';

export const BINS = 310;
export const BINS_PER_SEMITONE = 3;
const LOWEST_MIDI = 21 - 1 / 3;
/** Values of the maps are stored in steps of half a decibel above this. */
export const FLOOR_DB = -125;
export const STEP_DB = 0.5;

const DECIMATION = 8;
const DECIMATION_TAPS = 97;
const DECIMATION_CUTOFF_HZ = 1000;
const LOW_RATE_HZ = READING_HZ / DECIMATION;
/** Weights of a kernel below this share of its largest are left out. */
const KERNEL_FLOOR = 1e-3;

/** Transforms that serve the bins: points, and whether of the decimated signal. */
const SPECTRA = [
  { size: 1024, low: true },
  { size: 2048, low: false },
  { size: 1024, low: false },
] as const;

/** Both maps of a signal, `frames` × 2 × {@link BINS}, in {@link STEP_DB} above {@link FLOOR_DB}. */
export interface ChordalMaps {
  frames: number;
  values: Uint8Array;
}

interface Kernel {
  at: number;
  first: number;
  weights: Float32Array;
}

interface KernelBank {
  at: Int32Array;
  first: Int32Array;
  /** Where the weights of each kernel end. */
  ends: Int32Array;
  weights: Float64Array;
}

/**
 * @param samples mono at 22,050 Hz
 * @param tuningCents bins are shifted by this, so that they sit on the pitches of the recording
 */
export function computeMaps(
  samples: Float32Array,
  tuningCents: number,
  onProgress?: (share: number) => void,
): ChordalMaps {
  const frames = Math.floor(samples.length / HOP_SAMPLES) + 1;
  const kernels = kernelsFor(tuningCents).map(bankOf);
  const low = decimate(samples);
  const values = new Uint8Array(frames * 2 * BINS);
  const transforms = SPECTRA.map(({ size }) => createRealTransform(size));
  const inputs = SPECTRA.map(({ size }) => new Float32Array(size));
  for (let frame = 0; frame < frames; frame++) {
    if (frame % PROGRESS_FRAMES === 0) onProgress?.(frame / frames);
    SPECTRA.forEach((spectrum, i) => {
      const centre = spectrum.low ? (frame * HOP_SAMPLES) / DECIMATION : frame * HOP_SAMPLES;
      takeCentred(spectrum.low ? low : samples, centre, inputs[i]);
      writeBins(transforms[i].forward(inputs[i]), kernels[i], values, frame * 2 * BINS);
    });
  }
  return { frames, values };
}

const PROGRESS_FRAMES = 512;

/** The frame around `centre`, rotated so that its centre comes first; silence beyond the ends. */
export function takeCentred(samples: Float32Array, centre: number, out: Float32Array): void {
  const half = out.length / 2;
  if (centre >= half && centre + half <= samples.length) {
    out.set(samples.subarray(centre, centre + half));
    out.set(samples.subarray(centre - half, centre), half);
    return;
  }
  for (let i = 0; i < half; i++) {
    out[i] = samples[centre + i] ?? 0;
    out[half + i] = samples[centre - half + i] ?? 0;
  }
}

function writeBins(
  spectrum: ArrayLike<number>,
  { at, first, ends, weights }: KernelBank,
  values: Uint8Array,
  offset: number,
): void {
  let i = 0;
  for (let k = 0; k < at.length; k++) {
    let real = 0;
    let imaginary = 0;
    const end = ends[k];
    for (let bin = 2 * first[k]; i < end; i++, bin += 2) {
      real += weights[i] * spectrum[bin];
      imaginary += weights[i] * spectrum[bin + 1];
    }
    const decibels = DB_PER_NEPER * Math.log(real * real + imaginary * imaginary + 1e-18);
    const steps = ((decibels - FLOOR_DB) / STEP_DB + 0.5) | 0;
    values[offset + at[k]] = steps < 0 ? 0 : steps > 255 ? 255 : steps;
  }
}

const DB_PER_NEPER = 10 / Math.LN10;

/** Kernels one after the other, for the inner loop. */
function bankOf(kernels: readonly Kernel[]): KernelBank {
  const weights = new Float64Array(kernels.reduce((sum, kernel) => sum + kernel.weights.length, 0));
  const ends = new Int32Array(kernels.length);
  let used = 0;
  kernels.forEach((kernel, k) => {
    weights.set(kernel.weights, used);
    used += kernel.weights.length;
    ends[k] = used;
  });
  return {
    at: Int32Array.from(kernels, (kernel) => kernel.at),
    first: Int32Array.from(kernels, (kernel) => kernel.first),
    ends,
    weights,
  };
}

/** For each of {@link SPECTRA} the bins it serves. */
function kernelsFor(tuningCents: number): Kernel[][] {
  const kernels: Kernel[][] = SPECTRA.map(() => []);
  for (let map = 0; map < 2; map++) {
    for (let bin = 0; bin < BINS; bin++) {
      const hz = midiToHz(LOWEST_MIDI + bin / BINS_PER_SEMITONE + tuningCents / 100);
      const length =
        map === 0 ? clamp((46 * READING_HZ) / hz, 768, 8192) : clamp((11 * READING_HZ) / hz, 512, 2048);
      const kind = map === 0 ? (length > 2048 ? 0 : length > 1024 ? 1 : 2) : length > 512 ? 1 : 2;
      kernels[kind].push({ at: map * BINS + bin, ...createKernel(kind, hz, length) });
    }
  }
  return kernels;
}

/** Spectrum of a centred Hann window of `length` samples at the full rate, moved to `hz`; it is real. */
function createKernel(kind: number, hz: Hertz, length: number): Omit<Kernel, 'at'> {
  const { size, low } = SPECTRA[kind];
  const rate = low ? LOW_RATE_HZ : READING_HZ;
  const half = (length * rate) / READING_HZ / 2;
  const centre = (hz * size) / rate;
  // The main lobe of the window and seven lobes to either side hold all above the floor.
  const reach = Math.ceil((9 * size) / (2 * half));
  const low0 = Math.max(0, Math.floor(centre) - reach);
  const high = Math.min(size / 2 - 1, Math.ceil(centre) + reach);
  const last = Math.min(Math.ceil(half), size / 2) - 1;
  const sum = hannSpectrum(0, half, last);
  const weights = new Float64Array(high - low0 + 1);
  for (let bin = low0; bin <= high; bin++) {
    const turn = (2 * Math.PI * (bin - centre)) / size;
    // A sine of amplitude 1 gives 1: half of it lies at negative frequencies.
    weights[bin - low0] = (2 * hannSpectrum(turn, half, last)) / sum / size;
  }
  const floor = KERNEL_FLOOR * weights.reduce((most, value) => Math.max(most, Math.abs(value)), 0);
  let from = 0;
  let to = weights.length;
  while (Math.abs(weights[from]) < floor) from++;
  while (Math.abs(weights[to - 1]) < floor) to--;
  return { first: low0 + from, weights: Float32Array.from(weights.subarray(from, to)) };
}

/** Spectrum at `turn` radians a sample of the window 0.5 + 0.5·cos(π·n/half) over −last … last. */
function hannSpectrum(turn: number, half: number, last: number): number {
  const step = Math.PI / half;
  return 0.5 * dirichlet(turn, last) + 0.25 * (dirichlet(turn + step, last) + dirichlet(turn - step, last));
}

/** Σ cos(n·turn) over −last … last, in closed form. */
function dirichlet(turn: number, last: number): number {
  const below = Math.sin(turn / 2);
  return Math.abs(below) < 1e-9 ? 2 * last + 1 : Math.sin((last + 0.5) * turn) / below;
}

/** Every eighth sample of the low-passed signal (windowed-sinc, Hamming, no delay). */
export function decimate(samples: Float32Array): Float32Array {
  const half = (DECIMATION_TAPS - 1) / 2;
  const taps = new Float64Array(DECIMATION_TAPS);
  const cutoff = (2 * DECIMATION_CUTOFF_HZ) / READING_HZ;
  let sum = 0;
  for (let i = 0; i < DECIMATION_TAPS; i++) {
    const n = i - half;
    const sinc = n === 0 ? cutoff : Math.sin(Math.PI * cutoff * n) / (Math.PI * n);
    taps[i] = sinc * (0.54 - 0.46 * Math.cos((2 * Math.PI * i) / (DECIMATION_TAPS - 1)));
    sum += taps[i];
  }
  const out = new Float32Array(Math.ceil(samples.length / DECIMATION));
  for (let k = 0; k < out.length; k++) {
    const start = k * DECIMATION - half;
    const from = Math.max(0, -start);
    const to = Math.min(DECIMATION_TAPS, samples.length - start);
    let value = 0;
    for (let i = from; i < to; i++) value += taps[i] * samples[start + i];
    out[k] = value / sum;
  }
  return out;
}

function clamp(value: number, low: number, high: number): number {
  return Math.min(high, Math.max(low, value));
}
