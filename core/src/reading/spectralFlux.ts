import { createTransform, hannWindow } from '../signal/index.ts';
import { READING_HZ } from './melodySettings.ts';

const WINDOW_SAMPLES = 1024;
const BANDS_PER_OCTAVE = 24;
const LOWEST_HZ = 60;
const HIGHEST_HZ = 10000;
/** Frames between the compared spectra; two hops overlap little enough to see an attack at full height. */
const LAG_FRAMES = 2;

/**
 * Onset strength by spectral flux with a maximum filter along frequency, which keeps vibrato from counting as
 * change (Böck & Widmer 2013). Spectra in dB over 24 bands an octave. Feed frames in pairs: one complex
 * transform serves two real frames.
 */
export interface SpectralFlux {
  readonly frameSamples: number;
  /** Magnitude spectra of the last pair, frameSamples / 2 + 1 bins each. */
  readonly amplitudes: readonly [Float32Array, Float32Array];
  /** Onset strength (dB per band, mean of rises) of the frames centred in the windows at the two offsets. */
  pair(signal: Float32Array, first: number, second: number): [number, number];
}

export function createSpectralFlux(): SpectralFlux {
  const transform = createTransform(WINDOW_SAMPLES);
  const window = hannWindow(WINDOW_SAMPLES);
  const input = transform.createComplex();
  const spectrum = transform.createComplex();
  const bands = bandEdges();
  const history: Float32Array[] = Array.from({ length: LAG_FRAMES }, () =>
    new Float32Array(bands.length - 1).fill(-100),
  );

  const bins = WINDOW_SAMPLES / 2 + 1;
  const amplitudes: [Float32Array, Float32Array] = [new Float32Array(bins), new Float32Array(bins)];

  const flux = (amplitude: Float32Array): number => {
    const now = new Float32Array(bands.length - 1);
    for (let b = 0; b < now.length; b++) {
      let sum = 0;
      for (let bin = bands[b]; bin < bands[b + 1]; bin++) sum += amplitude[bin] ** 2;
      now[b] = 10 * Math.log10(sum / (bands[b + 1] - bands[b]) + 1e-9);
    }
    const before = history.shift()!;
    history.push(now);
    let rise = 0;
    for (let b = 0; b < now.length; b++) {
      let reference = before[b];
      if (b > 0 && before[b - 1] > reference) reference = before[b - 1];
      if (b + 1 < now.length && before[b + 1] > reference) reference = before[b + 1];
      const difference = now[b] - reference;
      if (difference > 0) rise += difference;
    }
    return rise / now.length;
  };

  return {
    frameSamples: WINDOW_SAMPLES,
    amplitudes,
    pair(signal, first, second) {
      for (let i = 0; i < WINDOW_SAMPLES; i++) {
        input[2 * i] = signal[first + i] * window[i];
        input[2 * i + 1] = signal[second + i] * window[i];
      }
      transform.forward(spectrum, input);
      // Even part of the spectrum is the first frame, odd part the second.
      for (let bin = 0; bin < bins; bin++) {
        const mirror = bin === 0 ? 0 : WINDOW_SAMPLES - bin;
        const re = spectrum[2 * bin];
        const im = spectrum[2 * bin + 1];
        const mirrorRe = spectrum[2 * mirror];
        const mirrorIm = spectrum[2 * mirror + 1];
        amplitudes[0][bin] = Math.sqrt((re + mirrorRe) ** 2 + (im - mirrorIm) ** 2) / 2;
        amplitudes[1][bin] = Math.sqrt((re - mirrorRe) ** 2 + (im + mirrorIm) ** 2) / 2;
      }
      return [flux(amplitudes[0]), flux(amplitudes[1])];
    },
  };
}

/** First bin of each band and one past the last; bands narrower than a bin are merged. */
function bandEdges(): Int32Array {
  const edges: number[] = [];
  for (let hz = LOWEST_HZ; hz < HIGHEST_HZ; hz *= 2 ** (1 / BANDS_PER_OCTAVE)) {
    const bin = Math.max(1, Math.round((hz * WINDOW_SAMPLES) / READING_HZ));
    if (edges[edges.length - 1] !== bin) edges.push(bin);
  }
  return Int32Array.from(edges);
}
