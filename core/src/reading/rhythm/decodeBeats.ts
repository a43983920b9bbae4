/**
 * Beats from how likely each frame holds one: a hidden Markov model over place in the beat and tempo, whose tempo changes at beats only
 * (Krebs, Böck and Widmer 2015, "An efficient state-space model for joint tempo and meter tracking").
 */
import { clamp, type Seconds } from '../../signal/index.ts';
import { tempoLogs, type BeatLikelihood } from './beatNetwork.ts';
import { RHYTHM_HOP_SECONDS } from './rhythmFeatures.ts';

const SLOWEST_BPM = 42;
const FASTEST_BPM = 225;
/** The decoder's frames are finer than the network's, so that tempi lie close enough. */
const FINER = 2;
const FRAME_SECONDS = RHYTHM_HOP_SECONDS / FINER;
/** How unlikely a change of tempo is: the log of its probability falls by this for a change by the factor e. */
const TEMPO_STIFFNESS = 60;
/** People prefer to tap around this (Moelants 2002): what a frame of a beat an octave off costs. */
const PREFERRED_BPM = 104;
const TEMPO_PREFERENCE = 0.02;
/** How much a frame of a beat weighs how likely the network finds its tempo. */
const TEMPO_WEIGHT = 0.02;
/** Share of a beat in which it sounds. */
const ON_SHARE = 1 / 12;
const FLOOR = 0.01;
/** Nothing likelier than this is no pulse. */
const MIN_PULSE = 0.05;

/** Lengths of a beat in frames, from the fastest tempo to the slowest. */
const LENGTHS = Array.from(
  { length: Math.floor(60 / SLOWEST_BPM / FRAME_SECONDS) - Math.floor(60 / FASTEST_BPM / FRAME_SECONDS) + 1 },
  (_, i) => Math.floor(60 / FASTEST_BPM / FRAME_SECONDS) + i,
);
/** What it costs to go from each length to the one before it or back; further ones cost the sum. */
const STEPS = LENGTHS.map((n, i) => TEMPO_STIFFNESS * Math.log(n / LENGTHS[Math.max(0, i - 1)]));
const ON_FRAMES = LENGTHS.map((n) => Math.max(1, Math.round(n * ON_SHARE)));
/** Cost of a beat of each length. */
const UNUSUAL = LENGTHS.map(
  (n) => TEMPO_PREFERENCE * n * Math.log2(60 / (n * FRAME_SECONDS) / PREFERRED_BPM) ** 2,
);

/** A tempo that is told lies within this factor of what is played, as its logarithm. */
const NEAR_TEMPO = 0.14;

/**
 * In order; none where nothing has a pulse.
 * @param nearBpm what somebody knows of the tempo, 50–200: beats are found though nothing else speaks for them
 */
export function decodeBeats(
  { beat, tempi }: Pick<BeatLikelihood, 'beat' | 'tempi'>,
  nearBpm?: number,
): Seconds[] {
  if (nearBpm === undefined && beat.every((value) => value < MIN_PULSE)) return [];
  const frames = beat.length * FINER;
  // Sums up to each frame of what it costs to sound there and not to: a beat of any length is then the difference of two.
  const sounds = new Float64Array(frames + 1);
  const rests = new Float64Array(frames + 1);
  for (let t = 0; t < frames; t++) {
    const p = clamp(interpolated(beat, t / FINER), FLOOR, 1 - FLOOR);
    sounds[t + 1] = sounds[t] + Math.log(p);
    rests[t + 1] = rests[t] + Math.log((1 - p) / (1 / ON_SHARE - 1));
  }
  /** Of a beat that begins at one frame, up to another. */
  const weight = (i: number, begin: number, end: number) => {
    const from = Math.max(0, begin);
    const off = Math.max(from, Math.min(end, begin + ON_FRAMES[i]));
    return sounds[off] - sounds[from] + rests[end] - rests[off];
  };
  const unlikely = nearBpm === undefined ? tempoCosts(tempi) : costsNear(nearBpm);
  // The best way to a beat of each length that begins at each frame, and the length before it.
  const scores = LENGTHS.map(() => new Float64Array(frames));
  const befores = LENGTHS.map(() => new Uint8Array(frames));
  const best = new Float64Array(LENGTHS.length);
  const from = new Uint8Array(LENGTHS.length);
  for (let t = 0; t < frames; t++) {
    for (let i = 0; i < LENGTHS.length; i++) {
      const begin = t - LENGTHS[i];
      best[i] = (begin >= 0 ? scores[i][begin] : 0) + weight(i, begin, t);
      from[i] = i;
    }
    // What a change costs is the sum of its steps, so the best length before is found step by step, from both sides.
    for (let i = 1; i < LENGTHS.length; i++) take(best, from, i, i - 1, STEPS[i]);
    for (let i = LENGTHS.length - 2; i >= 0; i--) take(best, from, i, i + 1, STEPS[i + 1]);
    for (let i = 0; i < LENGTHS.length; i++) {
      scores[i][t] = best[i] - unlikely[i];
      befores[i][t] = from[i];
    }
  }
  return refined(traced(scores, befores, weight, frames), beat);
}

/** The way over a neighbour, where it is better. */
function take(best: Float64Array, from: Uint8Array, to: number, over: number, cost: number): void {
  const score = best[over] - cost;
  if (score <= best[to]) return;
  best[to] = score;
  from[to] = from[over];
}

/** What a beat of each length costs: tempi that the network does not hear in the recording, and those that nobody taps. */
function tempoCosts(tempi: Float32Array[]): number[] {
  const logOf = tempoLogs({ tempi });
  return LENGTHS.map((n, i) => UNUSUAL[i] - TEMPO_WEIGHT * n * logOf(60 / (n * FRAME_SECONDS)));
}

/** Only tempi around one that is known are possible. */
const costsNear = (bpm: number): number[] =>
  LENGTHS.map((n) => (Math.abs(Math.log((n * FRAME_SECONDS * bpm) / 60)) <= NEAR_TEMPO ? 0 : Infinity));

/** Frames of beats on the likeliest way. */
function traced(
  scores: readonly Float64Array[],
  befores: readonly Uint8Array[],
  weight: (length: number, begin: number, end: number) => number,
  frames: number,
): number[] {
  let most = -Infinity;
  let length = 0;
  let at = 0;
  LENGTHS.forEach((n, i) => {
    for (let begin = Math.max(0, frames - n); begin < frames; begin++) {
      const score = scores[i][begin] + weight(i, begin, frames);
      if (score > most) [most, length, at] = [score, i, begin];
    }
  });
  const beats: number[] = [];
  while (at >= 0) {
    beats.unshift(at);
    length = befores[length][at];
    at -= LENGTHS[length];
  }
  return beats;
}

/** Each beat where the likelihood is highest nearby, between frames. */
function refined(frames: readonly number[], beat: Float32Array): Seconds[] {
  return frames.map((frame) => {
    const middle = Math.round(frame / FINER);
    let best = middle;
    for (let t = Math.max(0, middle - 1); t <= Math.min(beat.length - 1, middle + 1); t++)
      if (beat[t] > beat[best]) best = t;
    if (beat[best] < 0.15) return frame * FRAME_SECONDS;
    const [a, b, c] = [beat[best - 1] ?? 0, beat[best], beat[best + 1] ?? 0];
    const bend = a - 2 * b + c;
    const shift = bend < 0 ? clamp((0.5 * (a - c)) / bend, -0.5, 0.5) : 0;
    return Math.max(0, (best + shift) * RHYTHM_HOP_SECONDS);
  });
}

function interpolated(values: Float32Array, at: number): number {
  const low = Math.min(values.length - 1, Math.floor(at));
  const high = Math.min(values.length - 1, low + 1);
  return values[low] + (at - low) * (values[high] - values[low]);
}
