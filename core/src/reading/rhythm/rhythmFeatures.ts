/**
 * What the beat network hears: loudness of eight bands and how it rises, and how much the harmony changes. All of it is
 * relative to the recording's own level, so that soft and loud recordings look alike.
 */
import { createFrameBands, FRAMES_AT_ONCE, hannWindow, quantile, type Band } from '../../signal/index.ts';
import { READING_HZ } from '../melodySettings.ts';

/** 23 ms; frame t is centred on sample t · hop. */
export const RHYTHM_HOP_SAMPLES = 512;
export const RHYTHM_HOP_SECONDS = RHYTHM_HOP_SAMPLES / READING_HZ;

const EDGES_HZ = [30, 120, 250, 500, 1000, 2000, 4000, 7000, 10800];
export const RHYTHM_BANDS = EDGES_HZ.length - 1;
const BANDS = RHYTHM_BANDS;
/** Levels, rises, change of harmony. */
export const RHYTHM_INPUTS = 2 * BANDS + 1;

const WINDOW_SAMPLES = 1024;
/** Softer than this below the loudest is silence. */
const RANGE_DB = 60;
/** A rise is counted over so many frames. */
const RISE_FRAMES = 2;

const CHROMA_WINDOW_SAMPLES = 4096;
/** Chroma is taken at every second frame. */
const CHROMA_EVERY = 2;
const CHROMA_HZ = [130, 2100] as const;
/** Before and after are compared over so many of them: 0.56 s. */
const CHANGE_REACH = 12;

/** @param samples mono at 22,050 Hz. @returns frames × {@link RHYTHM_INPUTS}, about 0–1 */
export function rhythmFeatures(samples: Float32Array): Float32Array {
  const frames = Math.floor(samples.length / RHYTHM_HOP_SAMPLES) + 1;
  const levels = bandLevels(samples, frames);
  const change = harmonyChange(samples, frames);
  const out = new Float32Array(frames * RHYTHM_INPUTS);
  for (let t = 0; t < frames; t++) {
    const at = t * RHYTHM_INPUTS;
    for (let band = 0; band < BANDS; band++) {
      const level = levels[t * BANDS + band];
      const before = t >= RISE_FRAMES ? levels[(t - RISE_FRAMES) * BANDS + band] : 0;
      out[at + band] = level;
      out[at + BANDS + band] = 2 * Math.max(0, level - before);
    }
    out[at + 2 * BANDS] = change[t];
  }
  return out;
}

/** Loudness of each band in each frame: 0 silence … 1 as loud as the recording gets. */
function bandLevels(samples: Float32Array, frames: number): Float32Array {
  const binHz = READING_HZ / WINDOW_SAMPLES;
  const bins = Array.from({ length: WINDOW_SAMPLES / 2 }, (_, first) => ({ first, weights: [1] }));
  const spectra = createFrameBands(WINDOW_SAMPLES, bins, {
    window: Float32Array.from(hannWindow(WINDOW_SAMPLES)),
  });
  const edges = EDGES_HZ.map((hz) => Math.round(hz / binHz));
  const powers = new Float32Array(frames * BANDS);
  for (let frame = 0; frame < frames; frame += FRAMES_AT_ONCE) {
    const count = Math.min(FRAMES_AT_ONCE, frames - frame);
    spectra.take(samples, offsetsOf(frame, count, 1, WINDOW_SAMPLES));
    const power = spectra.run();
    for (let f = 0; f < count; f++)
      for (let band = 0; band < BANDS; band++) {
        let sum = 0;
        for (let bin = edges[band]; bin < edges[band + 1]; bin++) sum += power[FRAMES_AT_ONCE * bin + f];
        powers[(frame + f) * BANDS + band] = sum;
      }
  }
  const loudest = Math.max(1e-9, quantile(powers, 0.995));
  return powers.map((power) => Math.max(0, 1 + (10 * Math.log10(power / loudest + 1e-12)) / RANGE_DB));
}

/** How much the pitch classes that sound after a frame differ from those before it, 0–1. */
function harmonyChange(samples: Float32Array, frames: number): Float32Array {
  const count = Math.ceil(frames / CHROMA_EVERY);
  const binHz = READING_HZ / CHROMA_WINDOW_SAMPLES;
  const firstBin = Math.ceil(CHROMA_HZ[0] / binHz);
  const lastBin = Math.floor(CHROMA_HZ[1] / binHz);
  const bins: Band[] = [];
  const classes: number[] = [];
  for (let bin = firstBin; bin <= lastBin; bin++) {
    bins.push({ first: bin, weights: [1] });
    classes.push(((Math.round(12 * Math.log2((bin * binHz) / 440)) % 12) + 12) % 12);
  }
  const spectra = createFrameBands(CHROMA_WINDOW_SAMPLES, bins, {
    window: Float32Array.from(hannWindow(CHROMA_WINDOW_SAMPLES)),
  });
  const sums = new Float32Array((count + 1) * 12);
  for (let first = 0; first < count; first += FRAMES_AT_ONCE) {
    const some = Math.min(FRAMES_AT_ONCE, count - first);
    spectra.take(samples, offsetsOf(first, some, CHROMA_EVERY, CHROMA_WINDOW_SAMPLES));
    const power = spectra.run();
    for (let f = 0; f < some; f++) {
      const chroma = new Float32Array(12);
      classes.forEach((pitchClass, i) => (chroma[pitchClass] += Math.sqrt(power[FRAMES_AT_ONCE * i + f])));
      const total = chroma.reduce((sum, value) => sum + value, 1e-6);
      const at = (first + f) * 12;
      for (let p = 0; p < 12; p++) sums[at + 12 + p] = sums[at + p] + chroma[p] / total;
    }
  }
  const mean = (from: number, to: number, p: number) =>
    to > from ? (sums[to * 12 + p] - sums[from * 12 + p]) / (to - from) : 0;
  const change = Float32Array.from({ length: count }, (_, t) => {
    const from = Math.max(0, t - CHANGE_REACH);
    const to = Math.min(count, t + CHANGE_REACH);
    let sum = 0;
    for (let p = 0; p < 12; p++) sum += Math.abs(mean(t, to, p) - mean(from, t, p));
    return t === 0 ? 0 : sum / 2;
  });
  return Float32Array.from({ length: frames }, (_, t) => change[Math.floor(t / CHROMA_EVERY)]);
}

/** Where the windows of frames begin that are centred on their samples. */
function offsetsOf(first: number, count: number, every: number, windowSamples: number): number[] {
  return Array.from(
    { length: count },
    (_, f) => (first + f) * every * RHYTHM_HOP_SAMPLES - windowSamples / 2,
  );
}
