/**
 * Spectra of four frames at once, and the power of bands of each: the compiled transform (core/kernel/signal.as),
 * several times as fast as one frame after the other.
 */
import { createSignalKernel } from './signalKernel.ts';

/** Frames that are transformed together. */
export const FRAMES_AT_ONCE = 4;

/** Weights of neighbouring bins of a spectrum, from bin `first` on. */
export interface Band {
  first: number;
  weights: ArrayLike<number>;
}

export interface FrameBands {
  /** Sample i of frame f at 4·i + f; to be filled anew before each run. */
  readonly input: Float32Array;
  /** Fills the input: frames begin at the offsets, one to four; silence beyond the ends of the signal. */
  take(signal: Float32Array, offsets: readonly number[]): void;
  /** Power of the weighted sum of each band, of frame f at 4·band + f; the same array at every call. */
  run(): Float32Array;
}

export interface FrameSettings {
  /** What frames that are taken are multiplied by. */
  window?: Float32Array;
  /** The second half of a frame that is taken comes first, so that phases are those at its centre. */
  centred?: boolean;
}

/**
 * @param size of the frames: a power of two, at least 8
 * @param bands within bins 0 … size/2 − 1
 */
export function createFrameBands(
  size: number,
  bands: readonly Band[],
  { window, centred = false }: FrameSettings = {},
): FrameBands {
  if (size < 8 || (size & (size - 1)) !== 0)
    throw new RangeError(`createFrameBands: ${size} is no power of two of at least 8.`);
  for (const { first, weights } of bands)
    if (first < 0 || first + weights.length > size / 2)
      throw new RangeError('createFrameBands: a band reaches beyond the spectrum.');
  const weightCount = bands.reduce((sum, { weights }) => sum + weights.length, 0);
  const sizes = {
    input: FRAMES_AT_ONCE * size,
    work: FRAMES_AT_ONCE * size,
    frames: FRAMES_AT_ONCE * size,
    window: window ? size : 0,
    out: FRAMES_AT_ONCE * bands.length,
    turns: size,
    firsts: bands.length,
    ends: bands.length,
    weights: weightCount,
  };
  const kernel = createSignalKernel(Object.values(sizes).reduce((sum, count) => sum + count, 0));
  const { memory, place } = kernel;
  const at = {
    input: place(sizes.input),
    work: place(sizes.work),
    frames: place(sizes.frames),
    window: place(sizes.window),
    out: place(sizes.out),
    turns: place(sizes.turns),
    firsts: place(sizes.firsts),
    ends: place(sizes.ends),
    weights: place(sizes.weights),
  };
  if (window) new Float32Array(memory.buffer, at.window, sizes.window).set(window);
  const frames = new Float32Array(memory.buffer, at.frames, sizes.frames);
  const turns = new Float32Array(memory.buffer, at.turns, sizes.turns);
  for (let k = 0; k < size / 2; k++) {
    turns[2 * k] = Math.cos((2 * Math.PI * k) / size);
    turns[2 * k + 1] = -Math.sin((2 * Math.PI * k) / size);
  }
  const weights = new Float32Array(memory.buffer, at.weights, sizes.weights);
  const ends = new Int32Array(memory.buffer, at.ends, sizes.ends);
  new Int32Array(memory.buffer, at.firsts, sizes.firsts).set(bands.map(({ first }) => first));
  let end = 0;
  bands.forEach((band, i) => {
    weights.set(band.weights, end);
    end += band.weights.length;
    ends[i] = end;
  });
  const out = new Float32Array(memory.buffer, at.out, sizes.out);
  return {
    input: new Float32Array(memory.buffer, at.input, sizes.input),
    take(signal, offsets) {
      offsets.forEach((offset, f) => {
        const frame = frames.subarray(f * size, (f + 1) * size);
        if (!centred) return copyFrom(signal, offset, frame);
        copyFrom(signal, offset + size / 2, frame.subarray(0, size / 2));
        copyFrom(signal, offset, frame.subarray(size / 2));
      });
      frames.fill(0, offsets.length * size);
      kernel.interleave(at.frames, size, window ? at.window : 0, at.input);
    },
    run() {
      const bins = kernel.realTransform(at.input, size, at.turns, at.work);
      kernel.bandPowers(bins, bands.length, at.firsts, at.ends, at.weights, at.out);
      return out;
    },
  };
}

/** Fills `out` from place `offset` of the signal on; silence beyond its ends. */
function copyFrom(signal: Float32Array, offset: number, out: Float32Array): void {
  const from = Math.max(0, offset);
  const to = Math.min(signal.length, offset + out.length);
  if (to - from < out.length) out.fill(0);
  if (to > from) out.set(signal.subarray(from, to), from - offset);
}
