/**
 * Onsets of any recording, also where no single line can be read: peaks of spectral flux (Böck & Widmer 2013) above their
 * surroundings, each with how far it stands out, so that a sensitivity can be chosen afterwards. Timed by the waveform
 * where it shows the attack.
 */
import { createResampler, quantile, type Hertz, type Seconds } from '../signal/index.ts';
import { GrowingFloats } from './growing.ts';
import { ENVELOPE_HOP_SAMPLES, HOP_SAMPLES, READING_HZ } from './melodySettings.ts';
import { attackStart } from './noteStarts.ts';
import { createSpectralFlux } from './spectralFlux.ts';

export interface FoundOnset {
  seconds: Seconds;
  /** 0–1: how far it stands out, relative to the clear ones of the same recording. */
  salience: number;
}

/** What onsets are picked from. */
export interface OnsetMeasure {
  /** Spectral flux, one value every {@link HOP_SAMPLES} of {@link READING_HZ}, the first at the first sample. */
  strength: Float32Array;
  /** Peaks of the waveform, one every {@link ENVELOPE_HOP_SAMPLES}. */
  envelope: Float32Array;
}

/** Frames are measured in pairs: a stretch that begins with a pair is measured as within the whole. */
export const ONSET_FRAME_SECONDS = (2 * HOP_SAMPLES) / READING_HZ;

export interface OnsetMeter {
  /** Adds mono samples; values that are not finite count as silence. */
  push(samples: Float32Array): void;
  finish(): OnsetMeasure;
}

export interface OnsetReader {
  /** Adds mono samples; values that are not finite count as silence. */
  push(samples: Float32Array): void;
  /** In order of time, also the faintest. */
  finish(): FoundOnset[];
}

/** Surroundings over which the mean is taken, before and after (Böck, Krebs & Schedl 2012: 100 and 70 ms). */
const MEAN_BEFORE_FRAMES = 9;
const MEAN_AFTER_FRAMES = 6;
/** A peak is the largest within this many frames on each side (35 ms). */
const PEAK_FRAMES = 3;
/** Onsets closer than this are one (a sixty-fourth at 160 bpm lasts 23 ms). */
const MIN_SECONDS = 0.022;
/** Rises smaller than this (dB per band) are noise. */
const MIN_RISE = 0.35;
/** What stays below this after its rise, by itself (−80 dB) or beside the loudest (−50 dB), is noise. */
const SILENCE = 1e-4;
const QUIET_SHARE = 10 ** (-50 / 20);
/** Where the level falls to less than this within 35 ms, a sound was cut off: that is broad-band, too. */
const END_SHARE = 0.1;
/** The rise that counts as clear: this share of all peaks lies below it. */
const CLEAR_QUANTILE = 0.9;
/** The envelope is smoothed over a period of this pitch; below it only basses lie. */
const LOWEST_HZ = 80;

export function createOnsetReader(sampleRateHz: Hertz): OnsetReader {
  const meter = createOnsetMeter(sampleRateHz);
  return { push: (samples) => meter.push(samples), finish: () => pickOnsets(meter.finish()) };
}

export function createOnsetMeter(sampleRateHz: Hertz): OnsetMeter {
  const resampler = createResampler(sampleRateHz, READING_HZ);
  const flux = createSpectralFlux();
  const half = flux.frameSamples / 2;
  const strength = new GrowingFloats();
  const envelope = new GrowingFloats();
  // Silence before the first sample fills the first half window.
  let held = new Float32Array(half);

  const run = (all: boolean) => {
    let at = 0;
    const pair = 2 * HOP_SAMPLES;
    const needed = flux.frameSamples + HOP_SAMPLES;
    while (held.length - at >= needed || (all && held.length - at > half)) {
      const frame = new Float32Array(needed);
      frame.set(held.subarray(at, at + needed));
      for (const value of flux.run(frame, [0, HOP_SAMPLES])) strength.push(value);
      for (let from = half; from < half + pair; from += ENVELOPE_HOP_SAMPLES) {
        let peak = 0;
        for (let i = from; i < from + ENVELOPE_HOP_SAMPLES; i++) peak = Math.max(peak, Math.abs(frame[i]));
        envelope.push(peak);
      }
      at += pair;
    }
    held = held.slice(at);
  };
  const add = (samples: Float32Array) => {
    const joined = new Float32Array(held.length + samples.length);
    joined.set(held);
    for (let i = 0; i < samples.length; i++)
      joined[held.length + i] = Number.isFinite(samples[i]) ? samples[i] : 0;
    held = joined;
    run(false);
  };
  return {
    push(samples) {
      // What is not finite must not reach the resampler, whose kernel would spread it.
      for (let at = 0; at < samples.length; at += READING_HZ)
        add(resampler.push(samples.subarray(at, at + READING_HZ).map((x) => (Number.isFinite(x) ? x : 0))));
    },
    finish() {
      add(resampler.finish());
      run(true);
      return { strength: strength.values(), envelope: envelope.values() };
    },
  };
}

/** Onsets that are kept at a sensitivity from 0 (only the clearest) to 1 (all). */
export function keptOnsets(onsets: readonly FoundOnset[], sensitivity: number): FoundOnset[] {
  // Salience is spread over decibels already; a straight threshold feels even.
  return onsets.filter(({ salience }) => salience >= 1 - sensitivity);
}

const STRENGTHS_PER_FRAME = 2;
const ENVELOPES_PER_FRAME = (2 * HOP_SAMPLES) / ENVELOPE_HOP_SAMPLES;

/** Part of a measure, in frames of {@link ONSET_FRAME_SECONDS}; less where it ends. */
export function cutMeasure({ strength, envelope }: OnsetMeasure, from: number, to: number): OnsetMeasure {
  return {
    strength: strength.slice(from * STRENGTHS_PER_FRAME, to * STRENGTHS_PER_FRAME),
    envelope: envelope.slice(from * ENVELOPES_PER_FRAME, to * ENVELOPES_PER_FRAME),
  };
}

export function joinMeasures(measures: readonly OnsetMeasure[]): OnsetMeasure {
  const joined = { strength: new GrowingFloats(), envelope: new GrowingFloats() };
  for (const { strength, envelope } of measures) {
    joined.strength.append(strength);
    joined.envelope.append(envelope);
  }
  return { strength: joined.strength.values(), envelope: joined.envelope.values() };
}

/** In order of time from the first sample of what was measured, also the faintest. */
export function pickOnsets({ strength, envelope }: OnsetMeasure): FoundOnset[] {
  const loudest = envelope.reduce((most, value) => Math.max(most, value), 0);
  const quiet = Math.max(SILENCE, loudest * QUIET_SHARE);
  const peaks: { frame: number; rise: number }[] = [];
  for (let t = 0; t < strength.length; t++) {
    let isPeak = true;
    for (let k = Math.max(0, t - PEAK_FRAMES); k <= Math.min(strength.length - 1, t + PEAK_FRAMES); k++)
      if (strength[k] > strength[t] || (strength[k] === strength[t] && k < t)) isPeak = false;
    if (!isPeak || peakLevel(envelope, t - 1, t + 5) < quiet || isEnd(envelope, t)) continue;
    const rise = strength[t] - meanAround(strength, t);
    if (rise >= MIN_RISE) peaks.push({ frame: t, rise });
  }
  if (peaks.length === 0) return [];
  const clear = quantile(
    peaks.map(({ rise }) => rise),
    CLEAR_QUANTILE,
  );
  const onsets: FoundOnset[] = [];
  for (const { frame, rise } of peaks) {
    const near = peakPosition(strength, frame) * HOP_SAMPLES;
    const seconds = (attackStart(envelope, near, READING_HZ / LOWEST_HZ) ?? near) / READING_HZ;
    const salience = Math.sqrt(Math.min(1, rise / clear));
    const last = onsets[onsets.length - 1];
    if (last && seconds - last.seconds < MIN_SECONDS) {
      if (salience > last.salience) onsets[onsets.length - 1] = { seconds, salience };
    } else onsets.push({ seconds: Math.max(0, seconds), salience });
  }
  return onsets;
}

const isEnd = (envelope: Float32Array, t: number) =>
  peakLevel(envelope, t + 3, t + 8) < END_SHARE * peakLevel(envelope, t - 6, t);

function peakLevel(envelope: Float32Array, fromFrame: number, toFrame: number): number {
  const perFrame = HOP_SAMPLES / ENVELOPE_HOP_SAMPLES;
  let most = 0;
  for (let i = Math.max(0, fromFrame * perFrame); i < Math.min(envelope.length, toFrame * perFrame); i++)
    if (envelope[i] > most) most = envelope[i];
  return most;
}

function meanAround(strength: Float32Array, t: number): number {
  const from = Math.max(0, t - MEAN_BEFORE_FRAMES);
  const to = Math.min(strength.length - 1, t + MEAN_AFTER_FRAMES);
  let sum = 0;
  for (let k = from; k <= to; k++) sum += strength[k];
  return sum / (to - from + 1);
}

/** Flux compares with two frames earlier: the rise lies half of that before its peak. */
const FLUX_LAG_FRAMES = 0.5;

function peakPosition(strength: Float32Array, t: number): number {
  const [before, here, after] = [strength[t - 1] ?? 0, strength[t], strength[t + 1] ?? 0];
  const curvature = before - 2 * here + after;
  return t + (curvature < 0 ? (0.5 * (before - after)) / curvature : 0) - FLUX_LAG_FRAMES;
}

/** Changes whenever the same recording could give other onsets. */
export const ONSET_ALGORITHM_VERSION = 1;
