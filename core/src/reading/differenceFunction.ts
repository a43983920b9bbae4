import { createTransform, nextPowerOfTwo } from '../signal/index.ts';
import { HOP_SAMPLES } from './melodySettings.ts';

/**
 * Cumulative mean normalised difference d'(τ) of de Cheveigné & Kawahara 2002 (eqs. 6 and 8) of frames one hop apart.
 * The window is a sum of blocks of one hop, and so is its correlation: each block is correlated once by FFT and serves
 * every frame whose window it lies in. Two blocks share the inverse transform, so a frame costs one and a half complex
 * transforms of hop + longest lag.
 */
export interface DifferenceFunction {
  /** Samples a frame needs: window + longest lag. */
  readonly frameSamples: number;
  readonly longestLag: number;
  /**
   * Writes d' for lags 0…longestLag of frame number `frame`, whose window starts at sample `offset` of `signal`, and of
   * the frame after it. Frames are numbered from 0 through the whole stream.
   */
  pair(
    signal: Float32Array,
    offset: number,
    frame: number,
    outFirst: Float32Array,
    outSecond: Float32Array,
  ): void;
}

/** `windowSamples`: a multiple of the hop. */
export function createDifferenceFunction(windowSamples: number, longestLag: number): DifferenceFunction {
  const blocks = windowSamples / HOP_SAMPLES;
  if (!Number.isInteger(blocks))
    throw new RangeError(`createDifferenceFunction: the window must be a multiple of ${HOP_SAMPLES}.`);
  const frameSamples = windowSamples + longestLag;
  const correlator = createBlockCorrelator(longestLag);
  // Block k starts with frame k; a pair of frames needs blocks + 1 of them.
  const kept = blocks + 2;
  const correlations = Array.from({ length: kept }, () => new Float64Array(longestLag + 1));
  const holds = new Int32Array(kept).fill(-1);
  const summed = new Float64Array(longestLag + 1);
  const squares = new Float64Array(frameSamples + HOP_SAMPLES + 1);

  const prepare = (signal: Float32Array, offset: number, frame: number) => {
    let waiting = -1;
    for (let block = frame; block <= frame + blocks; block++) {
      if (holds[block % kept] === block) continue;
      holds[block % kept] = block;
      if (waiting < 0) {
        waiting = block;
        continue;
      }
      const at = (which: number) => offset + (which - frame) * HOP_SAMPLES;
      correlator(signal, at(waiting), at(block), correlations[waiting % kept], correlations[block % kept]);
      waiting = -1;
    }
    if (waiting >= 0) {
      const at = offset + (waiting - frame) * HOP_SAMPLES;
      correlator(signal, at, at, correlations[waiting % kept], correlations[waiting % kept]);
    }
  };

  const normalise = (frame: number, from: number, out: Float32Array) => {
    summed.fill(0);
    for (let block = frame; block < frame + blocks; block++) {
      const part = correlations[block % kept];
      for (let lag = 0; lag <= longestLag; lag++) summed[lag] += part[lag];
    }
    const own = squares[from + windowSamples] - squares[from];
    let running = 0;
    out[0] = 1;
    for (let lag = 1; lag <= longestLag; lag++) {
      const shifted = squares[from + lag + windowSamples] - squares[from + lag];
      const difference = Math.max(0, own + shifted - 2 * summed[lag]);
      running += difference;
      out[lag] = running > 0 ? (difference * lag) / running : 1;
    }
  };

  return {
    frameSamples,
    longestLag,
    pair(signal, offset, frame, outFirst, outSecond) {
      prepare(signal, offset, frame);
      let sum = 0;
      for (let i = 0; i < frameSamples + HOP_SAMPLES; i++) {
        sum += signal[offset + i] * signal[offset + i];
        squares[i + 1] = sum;
      }
      normalise(frame, 0, outFirst);
      normalise(frame + 1, HOP_SAMPLES, outSecond);
    },
  };
}

/** Correlates the hop of samples at two offsets with what follows each, for lags 0…longestLag. */
function createBlockCorrelator(longestLag: number) {
  const reach = HOP_SAMPLES + longestLag;
  const size = nextPowerOfTwo(reach);
  const transform = createTransform(size);
  const input = transform.createComplex();
  const spectrum = transform.createComplex();
  const product = transform.createComplex();
  const correlation = transform.createComplex();

  const accumulate = (signal: Float32Array, offset: number, second: boolean) => {
    // Real part: block and what follows; imaginary part: the block alone.
    for (let i = 0; i < reach; i++) {
      input[2 * i] = signal[offset + i];
      input[2 * i + 1] = i < HOP_SAMPLES ? signal[offset + i] : 0;
    }
    for (let i = 2 * reach; i < 2 * size; i++) input[i] = 0;
    transform.forward(spectrum, input);
    crossSpectrum(spectrum, size, product, second);
  };

  return (
    signal: Float32Array,
    first: number,
    second: number,
    outFirst: Float64Array,
    outSecond: Float64Array,
  ): void => {
    accumulate(signal, first, false);
    accumulate(signal, second, true);
    transform.inverse(correlation, product);
    for (let lag = 0; lag <= longestLag; lag++) {
      outFirst[lag] = correlation[2 * lag];
      outSecond[lag] = correlation[2 * lag + 1];
    }
  };
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
