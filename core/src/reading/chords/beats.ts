/**
 * Tempo and beats: the tempo from the autocorrelation of onset strength, beats by dynamic programming over it (Ellis
 * 2007, "Beat tracking by dynamic programming"). Differences: the tempo looks at four multiples of a beat and prefers
 * what people tap; beats are refined to the strongest rise within 35 ms.
 */
import { clamp, FRAMES_AT_ONCE, quantile, type Seconds } from '../../signal/index.ts';
import { KEYS, LOWEST_KEY, type Activations } from '../chordal/index.ts';
import { HOP_SAMPLES, READING_HZ } from '../melodySettings.ts';
import { readPulse, RHYTHM_HOP_SECONDS, type Pulse } from '../rhythm/index.ts';
import { createSpectralFlux } from '../spectralFlux.ts';

export interface Beats {
  /** Beats a minute. */
  bpm: number;
  /** In order; empty when nothing sounds. */
  seconds: Seconds[];
}

const HOP_SECONDS = HOP_SAMPLES / READING_HZ;
/** Tempi that are looked for; a slower beat is felt as two or three (London 2004, "Hearing in Time": up to some 1.3 s). */
const SLOWEST_BPM = 44;
const FASTEST_BPM = 220;
/** People prefer to tap around this, with a spread of so many octaves (after Ellis 2007 and Moelants 2002). */
const PREFERRED_BPM = 104;
const PREFERENCE_OCTAVES = 0.9;
/** How much a beat may differ from the period, with strength in standard deviations: larger is stiffer. */
const STIFFNESS = 100;
/** The mean around a frame is taken off its strength: this far to each side. */
const SURROUNDING_FRAMES = 20;
/** So many tempi are tried out. */
const CANDIDATES = 8;
/** Weights of one to four beats apart. */
const MULTIPLES = [1, 0.8, 0.5, 0.6];

/** How much the spectral flux, starts of notes, starts of low notes and changes of harmony say. */
export const PART_WEIGHTS = [1, 0.5, 1, 1] as const;
/** Up to here a note is a low one (E3). */
const BASS_KEYS = 52 - LOWEST_KEY;
/** Harmony before and after is compared over so many frames: 0.28 s. */
const HARMONY_FRAMES = 24;

export interface BeatEvidence {
  /** How much speaks for a beat in each frame. */
  strength: Float32Array;
  /** Its parts, in the order of {@link PART_WEIGHTS}; then how likely the beat network finds a beat and a bar line. */
  parts: readonly Float32Array[];
  /** What the beat network makes of the recording. */
  pulse: Pulse;
}

/**
 * What speaks for a beat in each frame: attacks, and starts of notes, above all low ones, and changes of harmony, which
 * tell the beat from what is played between two.
 */
export function beatEvidence(samples: Float32Array, activations: Activations): BeatEvidence {
  return evidenceWith(beatParts(samples, activations), readPulse(samples));
}

/** The parts that come from no network of beats. */
export function beatParts(samples: Float32Array, activations: Activations): Float32Array[] {
  const flux = onsetStrength(samples);
  const { onset, active, frames } = activations;
  const notes = new Float32Array(flux.length);
  const low = new Float32Array(flux.length);
  const chroma = new Float32Array((frames + 1) * 12);
  for (let frame = 0; frame < Math.min(frames, flux.length); frame++) {
    const sums = chroma.subarray((frame + 1) * 12, (frame + 2) * 12);
    sums.set(chroma.subarray(frame * 12, (frame + 1) * 12));
    for (let key = 0; key < KEYS; key++) {
      const starts = onset[frame * KEYS + key] / 255;
      if (starts > 0.05) {
        notes[frame] += starts;
        if (key < BASS_KEYS) low[frame] += starts;
      }
      sums[(key + LOWEST_KEY) % 12] += active[frame * KEYS + key] / 255;
    }
  }
  const change = new Float32Array(flux.length);
  for (let t = 1; t < Math.min(frames, flux.length); t++) {
    const from = Math.max(0, t - HARMONY_FRAMES);
    const to = Math.min(frames, t + HARMONY_FRAMES);
    let sum = 0;
    for (let p = 0; p < 12; p++) {
      const before = (chroma[t * 12 + p] - chroma[from * 12 + p]) / (t - from);
      const after = (chroma[to * 12 + p] - chroma[t * 12 + p]) / (to - t);
      sum += Math.abs(Math.min(1, after) - Math.min(1, before));
    }
    change[t] = sum;
  }
  return [flux, scaled(notes), scaled(low), scaled(peaksOf(change))];
}

export function evidenceWith(parts: readonly Float32Array[], pulse: Pulse): BeatEvidence {
  const strength = parts[0].map((_, t) => parts.reduce((sum, part, i) => sum + PART_WEIGHTS[i] * part[t], 0));
  const { beat, downbeat } = pulse.likelihood;
  return {
    strength,
    parts: [...parts, finer(beat, strength.length), finer(downbeat, strength.length)],
    pulse,
  };
}

/** Values of the rhythm network's frames, straight between them, at the readers' finer frames. */
function finer(values: Float32Array, frames: number): Float32Array {
  return Float32Array.from({ length: frames }, (_, t) => {
    const place = (t * HOP_SECONDS) / RHYTHM_HOP_SECONDS;
    const low = Math.min(values.length - 1, Math.floor(place));
    const high = Math.min(values.length - 1, low + 1);
    return values[low] + (place - low) * (values[high] - values[low]);
  });
}

/** Largest within 0.14 s to each side; the rest is none. */
function peaksOf(values: Float32Array): Float32Array {
  const reach = HARMONY_FRAMES / 2;
  return values.map((value, t) => {
    for (let i = Math.max(0, t - reach); i <= Math.min(values.length - 1, t + reach); i++)
      if (values[i] > value) return 0;
    return value;
  });
}

function scaled(values: Float32Array): Float32Array {
  const most = quantile(values, 0.99);
  return most > 0 ? values.map((value) => Math.min(1.5, value / most)) : values;
}

/** Onset strength of mono samples at 22,050 Hz, a value every 11.6 ms, noise and level taken off. */
export function onsetStrength(samples: Float32Array): Float32Array {
  const flux = createSpectralFlux();
  const half = flux.frameSamples / 2;
  const frames = Math.floor(samples.length / HOP_SAMPLES) + 1;
  const raw = new Float32Array(frames);
  const padded = new Float32Array(samples.length + flux.frameSamples + 2 * HOP_SAMPLES);
  padded.set(samples, half);
  for (let frame = 0; frame < frames; frame += FRAMES_AT_ONCE) {
    const offsets = Array.from({ length: Math.min(FRAMES_AT_ONCE, frames - frame) }, (_, i) =>
      Math.min((frame + i) * HOP_SAMPLES, padded.length - flux.frameSamples),
    );
    raw.set(flux.run(padded, offsets), frame);
  }
  return prominence(raw);
}

function prominence(raw: Float32Array): Float32Array {
  const sums = new Float64Array(raw.length + 1);
  raw.forEach((value, i) => (sums[i + 1] = sums[i] + value));
  const result = raw.map((value, i) => {
    const from = Math.max(0, i - SURROUNDING_FRAMES);
    const to = Math.min(raw.length, i + SURROUNDING_FRAMES + 1);
    return Math.max(0, value - (sums[to] - sums[from]) / (to - from));
  });
  // One crash must not outweigh a whole bar.
  const most = quantile(result, 0.99);
  if (most > 0) for (let i = 0; i < result.length; i++) result[i] = Math.min(1.5, result[i] / most);
  return result;
}

/** Tempi beside each favoured one that are tried too: music is heard in twos and threes. */
const RELATED = [2, 1 / 2, 3, 1 / 3, 3 / 2, 2 / 3];
/** Of so many of the favoured tempi. */
const RELATED_OF = 3;
/** Tempi closer than this are one. */
const SAME_TEMPO = 1.04;

/** Fewer beats of the network are no way to beat time. */
const MIN_BEATS = 4;

/**
 * Ways to beat time to a recording: what the beat network finds, with every second of its beats and with one between each two;
 * tempi of different levels that the evidence favours; and each of them half a beat later.
 */
export function beatCandidates({ strength, pulse }: BeatEvidence): Beats[] {
  const { beats } = pulse;
  const ways =
    beats.length < MIN_BEATS
      ? []
      : [beats, between(beats), everyOther(beats, 0), everyOther(beats, 1), withBetween(beats)];
  return [...ways.map((seconds) => ({ bpm: tempoOf(seconds), seconds })), ...favouredBeats(strength)];
}

function tempoOf(seconds: readonly Seconds[]): number {
  return seconds.length < 2 ? 0 : (60 * (seconds.length - 1)) / (seconds[seconds.length - 1] - seconds[0]);
}

function favouredBeats(strength: Float32Array): Beats[] {
  const favoured = tempoCandidates(strength);
  const tempi = [...favoured];
  for (const bpm of favoured.slice(0, RELATED_OF))
    for (const factor of RELATED) {
      const other = bpm * factor;
      const known = tempi.some((each) => Math.max(each / other, other / each) < SAME_TEMPO);
      if (!known && other >= SLOWEST_BPM && other <= FASTEST_BPM) tempi.push(other);
    }
  const found = tempi.map((bpm) => beatsAt(strength, bpm));
  // Beats may have been drawn to a tempo that is not looked for.
  const fitting = found.filter(({ bpm }) => bpm >= SLOWEST_BPM && bpm <= FASTEST_BPM);
  return (fitting.length > 0 ? fitting : found).flatMap((beats) => [
    beats,
    { bpm: beats.bpm, seconds: between(beats.seconds) },
  ]);
}

export function everyOther(seconds: readonly Seconds[], first: 0 | 1): Seconds[] {
  return seconds.filter((_, i) => i % 2 === first);
}

/** Twice as many. */
export function withBetween(seconds: readonly Seconds[]): Seconds[] {
  return [...seconds, ...between(seconds)].sort((a, b) => a - b);
}

/** Half-way between each two. */
export function between(seconds: readonly Seconds[]): Seconds[] {
  return seconds.slice(1).map((each, i) => (each + seconds[i]) / 2);
}

function spreadOf(values: Float32Array): { mean: number; deviation: number } {
  let [sum, energy] = [0, 0];
  for (const value of values) {
    sum += value;
    energy += value * value;
  }
  const mean = sum / Math.max(1, values.length);
  return { mean, deviation: Math.sqrt(Math.max(1e-12, energy / Math.max(1, values.length) - mean * mean)) };
}

function beatsAt(strength: Float32Array, bpm: number): Beats {
  const period = 60 / bpm / HOP_SECONDS;
  const { deviation } = spreadOf(strength);
  const score = new Float32Array(strength.length);
  const before = new Int32Array(strength.length).fill(-1);
  const shortest = Math.max(1, Math.round(period / 2));
  const longest = Math.round(2 * period);
  const penalty = Float32Array.from(
    { length: longest + 1 },
    (_, lag) => deviation * STIFFNESS * Math.log(Math.max(1, lag) / period) ** 2,
  );
  // From the period outwards to both sides: a place too far off cannot beat the best score so far.
  const middle = clamp(Math.round(period), shortest, longest);
  let highest = 0;
  for (let t = 0; t < strength.length; t++) {
    let [best, from] = [0, -1];
    for (let lag = Math.min(middle, t); lag >= shortest && highest - penalty[lag] > best; lag--) {
      const value = score[t - lag] - penalty[lag];
      if (value > best) [best, from] = [value, t - lag];
    }
    for (let lag = middle + 1; lag <= longest && lag <= t && highest - penalty[lag] > best; lag++) {
      const value = score[t - lag] - penalty[lag];
      if (value > best) [best, from] = [value, t - lag];
    }
    before[t] = from;
    score[t] = strength[t] + best;
    if (score[t] > highest) highest = score[t];
  }
  let last = strength.length - 1;
  for (let t = Math.max(0, Math.floor(strength.length - period)); t < strength.length; t++)
    if (score[t] > score[last]) last = t;
  const frames: number[] = [];
  for (let t = last; t >= 0; t = before[t]) frames.unshift(t);
  return { bpm: bpmOf(frames) ?? bpm, seconds: frames.map((frame) => frame * HOP_SECONDS) };
}

/** Beats a minute by the middle half of the distances; undefined for less than three beats. */
function bpmOf(frames: readonly number[]): number | undefined {
  if (frames.length < 3) return undefined;
  return (60 * (frames.length - 1)) / ((frames[frames.length - 1] - frames[0]) * HOP_SECONDS);
}

/** People prefer to tap in the middle of the range. */
function preferenceFor(bpm: number): number {
  return Math.exp(-0.5 * (Math.log2(bpm / PREFERRED_BPM) / PREFERENCE_OCTAVES) ** 2);
}

/** The tempi that the autocorrelation favours, the best first; none when nothing stands out. */
export function tempoCandidates(strength: Float32Array): number[] {
  const longest = Math.ceil((60 / SLOWEST_BPM / HOP_SECONDS) * MULTIPLES.length) + 2;
  if (strength.every((value) => value === 0)) return [];
  const correlation = new Float32Array(longest + 2);
  for (let lag = 1; lag <= longest && lag < strength.length; lag++) {
    let sum = 0;
    for (let t = lag; t < strength.length; t++) sum += strength[t] * strength[t - lag];
    correlation[lag] = sum / (strength.length - lag);
  }
  const at = (lag: number) => {
    const whole = Math.floor(lag);
    return correlation[whole] + (lag - whole) * (correlation[whole + 1] - correlation[whole]);
  };
  const tried: { bpm: number; score: number }[] = [];
  for (let bpm = SLOWEST_BPM; bpm <= FASTEST_BPM; bpm *= 1.005) {
    const period = 60 / bpm / HOP_SECONDS;
    let score = 0;
    MULTIPLES.forEach((weight, i) => {
      // A player's beat wanders: the nearest frames count too.
      const lag = (i + 1) * period;
      score += weight * Math.max(at(lag), at(lag - 1), at(lag + 1));
    });
    tried.push({ bpm, score: score * preferenceFor(bpm) });
  }
  const peaks = tried.filter(
    ({ score }, i) => score >= (tried[i - 1]?.score ?? 0) && score > (tried[i + 1]?.score ?? 0),
  );
  return peaks
    .sort((a, b) => b.score - a.score)
    .slice(0, CANDIDATES)
    .map(({ bpm }) => bpm);
}
