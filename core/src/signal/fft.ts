import FFT from 'fft.js';

/**
 * Discrete Fourier transform of a fixed power-of-two size on interleaved complex arrays
 * `[re0, im0, re1, im1, …]` of length 2·size, unscaled forward and scaled (1/size) inverse.
 */
export interface Transform {
  readonly size: number;
  createComplex(): number[];
  forward(out: number[], input: number[]): void;
  inverse(out: number[], input: number[]): void;
}

/** Prepares a transform. `size`: power of two, at least 4. Throws for other sizes. */
export function createTransform(size: number): Transform {
  const fft = new FFT(size);
  return {
    size,
    createComplex: () => fft.createComplexArray() as number[],
    forward: (out, input) => fft.transform(out, input),
    inverse: (out, input) => fft.inverseTransform(out, input),
  };
}

/** Transform of real frames of a fixed size. */
export interface RealTransform {
  /** Interleaved complex bins 0…size/2 − 1 (and rubbish after them); the same array at every call. */
  forward(input: ArrayLike<number>): ArrayLike<number>;
}

/** `size`: power of two, at least 4. Throws for other sizes. */
export function createRealTransform(size: number): RealTransform {
  const fft = new FFT(size);
  const out = fft.createComplexArray() as number[];
  return {
    forward(input) {
      fft.realTransform(out, input);
      return out;
    },
  };
}

/** Smallest power of two that is at least `n`. */
export function nextPowerOfTwo(n: number): number {
  let size = 1;
  while (size < n) size *= 2;
  return size;
}

/** Symmetric-periodic Hann window of `size` points. */
export function hannWindow(size: number): Float32Array {
  const window = new Float32Array(size);
  for (let i = 0; i < size; i++) window[i] = 0.5 - 0.5 * Math.cos((2 * Math.PI * i) / size);
  return window;
}
