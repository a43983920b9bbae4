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
  const bandCount = bands.length - 1;
  // Those of the frames before, then those of the frames of a run.
  const levels = new Float32Array((LAG_FRAMES + FRAMES_AT_ONCE) * bandCount).fill(-100);

  const amplitudes = Array.from(
    { length: withAmplitudes ? FRAMES_AT_ONCE : 0 },
    () => new Float32Array(bins),
  );

  const setLevels = (powers: Float32Array) => {
    for (let b = 0; b < bandCount; b++) {
      let [sum0, sum1, sum2, sum3] = [0, 0, 0, 0];
      for (
        let at = FRAMES_AT_ONCE * bands[b], end = FRAMES_AT_ONCE * bands[b + 1];
        at < end;
        at += FRAMES_AT_ONCE
      ) {
        sum0 += powers[at];
        sum1 += powers[at + 1];
        sum2 += powers[at + 2];
        sum3 += powers[at + 3];
      }
      const width = bands[b + 1] - bands[b];
      const at = LAG_FRAMES * bandCount + b;
      levels[at] = decibels(sum0 / width);
      levels[at + bandCount] = decibels(sum1 / width);
      levels[at + 2 * bandCount] = decibels(sum2 / width);
      levels[at + 3 * bandCount] = decibels(sum3 / width);
    }
  };

  /** Mean rise since the frame `LAG_FRAMES` before. */
  const rise = (frame: number): number => {
    const before = frame * bandCount;
    const now = before + LAG_FRAMES * bandCount;
    let sum = 0;
    for (let b = 0; b < bandCount; b++) {
      let reference = levels[before + b];
      if (b > 0 && levels[before + b - 1] > reference) reference = levels[before + b - 1];
      if (b + 1 < bandCount && levels[before + b + 1] > reference) reference = levels[before + b + 1];
      const difference = levels[now + b] - reference;
      if (difference > 0) sum += difference;
    }
    return sum / bandCount;
  };

  return {
    frameSamples: WINDOW_SAMPLES,
    amplitudes,
    run(signal, offsets) {
      spectra.take(signal, offsets);
      const powers = spectra.run();
      setLevels(powers);
      const rises = offsets.map((_, f) => rise(f));
      levels.copyWithin(0, offsets.length * bandCount, (offsets.length + LAG_FRAMES) * bandCount);
      amplitudes.forEach((each, f) => rootsOf(powers, f, each));
      return rises;
    },
  };
}

function decibels(power: number): number {
  return 10 * Math.log10(power + 1e-9);
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
