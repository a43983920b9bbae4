/**
 * Front end of the chordal reader: two maps of 310 bins, three to the semitone, every 11.6 ms. Map A, with windows
 * of 46 periods, tells pitches apart; map B, with windows of 11, tells when they start. In step with
 * training/features.py; a test compares both.
 *
 * Bins are centred Hann-windowed tones (a constant-Q transform, Brown & Puckette 1992) taken from three transforms
 * a frame: 1,024 points of the signal at an eighth of the rate, 2,048 and 1,024 points at the full rate.
 */
import {
  createFrameBands,
  createRowFilter,
  FRAMES_AT_ONCE,
  MAX_FILTER_OUTPUTS,
  type Band,
  type Hertz,
} from '../../signal/index.ts';
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

/** A bin of the maps: its place among the values of a frame, and the spectrum of its kernel. */
interface Kernel extends Band {
  at: number;
}

/** Frames of a recording; frame t is centred on sample t · 256. @param samples mono at 22,050 Hz */
export function framesOf(samples: Float32Array): number {
  return Math.floor(samples.length / HOP_SAMPLES) + 1;
}

export interface MapsSettings {
  /** Only every so many of {@link framesOf} is computed, the first included. */
  every?: number;
  onProgress?: (share: number) => void;
}

/**
 * @param samples mono at 22,050 Hz
 * @param low the same by {@link decimate}
 * @param tuningCents bins are shifted by this, so that they sit on the pitches of the recording
 */
export function computeMaps(
  samples: Float32Array,
  low: Float32Array,
  tuningCents: number,
  { every = 1, onProgress }: MapsSettings = {},
): ChordalMaps {
  const frames = Math.ceil(framesOf(samples) / every);
  const kernels = kernelsFor(tuningCents);
  const values = new Uint8Array(frames * 2 * BINS);
  const places = kernels.map((bank) => Int32Array.from(bank, ({ at }) => at));
  const steps = stepsOfPowers();
  const bands = SPECTRA.map(({ size }, i) => createFrameBands(size, kernels[i], { centred: true }));
  for (let frame = 0; frame < frames; frame += FRAMES_AT_ONCE) {
    if (frame % PROGRESS_FRAMES === 0) onProgress?.(frame / frames);
    SPECTRA.forEach((spectrum, i) => {
      const signal = spectrum.low ? low : samples;
      const hop = (every * HOP_SAMPLES) / (spectrum.low ? DECIMATION : 1);
      const first = frame * hop - spectrum.size / 2;
      bands[i].take(signal, [first, first + hop, first + 2 * hop, first + 3 * hop]);
      const powers = bands[i].run();
      const bits = new Uint32Array(powers.buffer, powers.byteOffset, powers.length);
      const end = Math.min(FRAMES_AT_ONCE, frames - frame);
      for (let f = 0; f < end; f++) writeBins(bits, f, places[i], steps, values, (frame + f) * 2 * BINS);
    });
  }
  return { frames, values };
}

const PROGRESS_FRAMES = 512;

/** Powers of every fourth place from `f` on as steps of the maps. */
function writeBins(
  bits: Uint32Array,
  f: number,
  places: Int32Array,
  steps: Uint8Array,
  values: Uint8Array,
  offset: number,
): void {
  for (let k = 0; k < places.length; k++)
    values[offset + places[k]] = steps[bits[FRAMES_AT_ONCE * k + f] >>> DROPPED_BITS];
}

/** Of a power as a float of 32 bits so many are left out before its step is looked up: 0.004 dB. */
export const DROPPED_BITS = 13;
let stepsTable: Uint8Array | undefined;

/** The step of the maps for the upper bits of every power; a logarithm for each bin would cost more than its transform. */
export function stepsOfPowers(): Uint8Array {
  if (stepsTable) return stepsTable;
  const bits = new Uint32Array(1);
  const power = new Float32Array(bits.buffer);
  stepsTable = new Uint8Array(2 ** (31 - DROPPED_BITS));
  for (let i = 0; i < stepsTable.length; i++) {
    bits[0] = (i + 0.5) * 2 ** DROPPED_BITS;
    const decibels = 10 * Math.log10(power[0] + 1e-18);
    stepsTable[i] = Math.min(255, Math.max(0, Math.round((decibels - FLOOR_DB) / STEP_DB))) || 0;
  }
  return stepsTable;
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
  const taps = new Float64Array(half + 1);
  const cutoff = (2 * DECIMATION_CUTOFF_HZ) / READING_HZ;
  let sum = 0;
  for (let n = 0; n <= half; n++) {
    const sinc = n === 0 ? cutoff : Math.sin(Math.PI * cutoff * n) / (Math.PI * n);
    taps[n] = sinc * (0.54 + 0.46 * Math.cos((Math.PI * n) / half));
    sum += n === 0 ? taps[0] : 2 * taps[n];
  }
  for (let n = 0; n <= half; n++) taps[n] /= sum;
  const table = Float32Array.from({ length: DECIMATION_TAPS }, (_, k) => taps[Math.abs(k - half)]);
  const out = new Float32Array(Math.ceil(samples.length / DECIMATION));
  const padded = new Float32Array(samples.length + 2 * half + DECIMATION);
  padded.set(samples, half);
  const filter = createRowFilter(table, DECIMATION_TAPS);
  const firsts = new Int32Array(MAX_FILTER_OUTPUTS);
  const rows = new Int32Array(MAX_FILTER_OUTPUTS);
  for (let from = 0; from < out.length; from += MAX_FILTER_OUTPUTS) {
    const part = out.subarray(from, from + MAX_FILTER_OUTPUTS);
    for (let n = 0; n < part.length; n++) firsts[n] = (from + n) * DECIMATION;
    filter(padded, firsts, rows, part);
  }
  return out;
}

function clamp(value: number, low: number, high: number): number {
  return Math.min(high, Math.max(low, value));
}
