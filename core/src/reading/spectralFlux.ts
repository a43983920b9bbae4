import { createFrameBands, FRAMES_AT_ONCE, hannWindow } from '../signal/index.ts';
import { READING_HZ } from './melodySettings.ts';

const WINDOW_SAMPLES = 1024;
const BANDS_PER_OCTAVE = 24;
const LOWEST_HZ = 60;
const HIGHEST_HZ = 10000;
/** Frames between the compared spectra; two hops overlap little enough to see an attack at full height. */
const LAG_FRAMES = 2;

/**
 * Onset strength by spectral flux with a maximum filter along frequency, which keeps vibrato from counting as
 * change (Böck & Widmer 2013). Spectra in dB over 24 bands an octave. Four frames cost as much as one.
 */
export interface SpectralFlux {
  readonly frameSamples: number;
  /** Magnitude spectra of the frames of the last run, frameSamples / 2 bins each; none unless asked for. */
  readonly amplitudes: readonly Float32Array[];
  /**
   * Onset strength (dB per band, mean of rises) of the frames whose windows begin at the offsets, one to four in their
   * order.
   */
  run(signal: Float32Array, offsets: readonly number[]): number[];
}

export function createSpectralFlux({ withAmplitudes = false } = {}): SpectralFlux {
  const bins = WINDOW_SAMPLES / 2;
  const spectra = createFrameBands(
    WINDOW_SAMPLES,
    Array.from({ length: bins }, (_, first) => ({ first, weights: [1] })),
    { window: Float32Array.from(hannWindow(WINDOW_SAMPLES)) },
  );
  const bands = bandEdges();
  const history: Float32Array[] = Array.from({ length: LAG_FRAMES }, () =>
    new Float32Array(bands.length - 1).fill(-100),
  );

  const amplitudes = Array.from(
    { length: withAmplitudes ? FRAMES_AT_ONCE : 0 },
    () => new Float32Array(bins),
  );

  const flux = (powers: Float32Array, frame: number): number => {
    const now = new Float32Array(bands.length - 1);
    for (let b = 0; b < now.length; b++) {
      let sum = 0;
      for (let bin = bands[b]; bin < bands[b + 1]; bin++) sum += powers[FRAMES_AT_ONCE * bin + frame];
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
    run(signal, offsets) {
      spectra.take(signal, offsets);
      const powers = spectra.run();
      return offsets.map((_, f) => {
        if (amplitudes.length > 0) rootsOf(powers, f, amplitudes[f]);
        return flux(powers, f);
      });
    },
  };
}

function rootsOf(powers: Float32Array, frame: number, out: Float32Array): void {
  for (let bin = 0, at = frame; bin < out.length; bin++, at += FRAMES_AT_ONCE)
    out[bin] = Math.sqrt(powers[at]);
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
