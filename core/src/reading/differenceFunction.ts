import { createTransform, type Transform } from '../signal/index.ts';

/**
 * Cumulative mean normalised difference d'(τ) of de Cheveigné & Kawahara 2002 (eqs. 6 and 8), with the
 * correlation computed by FFT. Two frames share the inverse transform, so a frame costs one and a half
 * complex transforms.
 */
export interface DifferenceFunction {
  /** Samples a frame needs: window + longest lag. */
  readonly frameSamples: number;
  readonly longestLag: number;
  /** Reads two frames from `signal` at sample offsets `first` and `second`, writes d' for lags 0…longestLag. */
  pair(
    signal: Float32Array,
    first: number,
    second: number,
    outFirst: Float32Array,
    outSecond: Float32Array,
  ): void;
}

export function createDifferenceFunction(windowSamples: number, longestLag: number): DifferenceFunction {
  const frameSamples = windowSamples + longestLag;
  let size = 4;
  while (size < frameSamples) size *= 2;
  const transform = createTransform(size);
  const input = transform.createComplex();
  const spectrum = transform.createComplex();
  const product = transform.createComplex();
  const correlation = transform.createComplex();
  const squares = new Float64Array(frameSamples + 1);

  const accumulate = (signal: Float32Array, offset: number, second: boolean) => {
    packFrame(signal, offset, windowSamples, frameSamples, size, input);
    transform.forward(spectrum, input);
    crossSpectrum(spectrum, size, product, second);
  };

  const normalise = (signal: Float32Array, offset: number, part: 0 | 1, out: Float32Array) => {
    squares[0] = 0;
    for (let i = 0; i < frameSamples; i++) squares[i + 1] = squares[i] + signal[offset + i] ** 2;
    const own = squares[windowSamples];
    let running = 0;
    out[0] = 1;
    for (let lag = 1; lag <= longestLag; lag++) {
      const shifted = squares[Math.min(frameSamples, lag + windowSamples)] - squares[lag];
      const difference = Math.max(0, own + shifted - 2 * correlation[2 * lag + part]);
      running += difference;
      out[lag] = running > 0 ? (difference * lag) / running : 1;
    }
  };

  return {
    frameSamples,
    longestLag,
    pair(signal, first, second, outFirst, outSecond) {
      accumulate(signal, first, false);
      accumulate(signal, second, true);
      transform.inverse(correlation, product);
      normalise(signal, first, 0, outFirst);
      normalise(signal, second, 1, outSecond);
    },
  };
}

/** Real part: the whole frame; imaginary part: its first `windowSamples`. */
function packFrame(
  signal: Float32Array,
  offset: number,
  windowSamples: number,
  frameSamples: number,
  size: Transform['size'],
  input: number[],
): void {
  for (let i = 0; i < size; i++) {
    input[2 * i] = i < frameSamples ? signal[offset + i] : 0;
    input[2 * i + 1] = i < windowSamples ? signal[offset + i] : 0;
  }
}

/**
 * From Z = FFT(a + i·b): A = (Z(k) + Z*(−k))/2, B = (Z(k) − Z*(−k))/2i; writes A·B* (the cross-correlation's
 * spectrum) or adds i·A·B*, so that one inverse transform gives both correlations.
 */
function crossSpectrum(spectrum: number[], size: number, product: number[], second: boolean): void {
  for (let k = 0; k < size; k++) {
    const mirror = k === 0 ? 0 : size - k;
    const re = spectrum[2 * k];
    const im = spectrum[2 * k + 1];
    const mirrorRe = spectrum[2 * mirror];
    const mirrorIm = spectrum[2 * mirror + 1];
    const aRe = (re + mirrorRe) / 2;
    const aIm = (im - mirrorIm) / 2;
    const bRe = (im + mirrorIm) / 2;
    const bIm = (mirrorRe - re) / 2;
    const cRe = aRe * bRe + aIm * bIm;
    const cIm = aIm * bRe - aRe * bIm;
    if (second) {
      product[2 * k] -= cIm;
      product[2 * k + 1] += cRe;
    } else {
      product[2 * k] = cRe;
      product[2 * k + 1] = cIm;
    }
  }
}
