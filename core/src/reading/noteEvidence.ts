/**
 * Second stage of the melody reader: from the features around a frame, how likely it is that a note sounds in it
 * and that a note starts in it. A small network (one hidden layer) reads the pitch path, its probability, the
 * aperiodicity, the loudness and the onset strength over ±190 ms. It is trained on the tuning set only
 * (bench/src/training), on labels that say what sounds.
 */
import { clamp, quantile } from '../signal/index.ts';
import type { FrameFeatures } from './frameFeatures.ts';
import type { PitchTrack } from './pitchTrack.ts';

/** Probabilities 0–1 for each frame. */
export interface NoteEvidence {
  sounding: Float32Array;
  onset: Float32Array;
}

/** Weights of the network; rows of `hidden` are neurons, each ending with its bias. */
export interface EvidenceWeights {
  hiddenSize: number;
  /** hiddenSize × (INPUTS + 1) */
  hidden: Float32Array;
  /** 2 × (hiddenSize + 1): sounding, onset. */
  output: Float32Array;
}

/** Frames before and after that are looked at: dense near the frame, sparse further out. */
const OFFSETS = [-16, -12, -9, -7, -5, -4, -3, -2, -1, 0, 1, 2, 3, 4, 5, 7, 9, 12, 16];
const PER_OFFSET = 5;
/** Inputs that belong to the frame as a whole. */
const GLOBAL = 4;
export const INPUTS = OFFSETS.length * PER_OFFSET + GLOBAL;

/** Input rows of all frames computed lazily into one reused array. */
export function createEvidenceInputs(features: FrameFeatures, track: PitchTrack) {
  const { frames, levelDb, onsetStrength, aperiodicity } = features;
  const loud = frames > 0 ? Math.max(-60, quantile(levelDb, 0.95)) : 0;
  const reference = localReference(track.midi);
  const loudest = slidingMaximum(levelDb, 60);
  return (t: number, out: Float32Array | Float64Array): void => {
    const peak = loudest[t];
    const base = reference[t];
    let k = 0;
    for (const offset of OFFSETS) {
      const at = t + offset;
      const inside = at >= 0 && at < frames;
      const midi = inside ? track.midi[at] : 0;
      out[k] = midi > 0 && base > 0 ? clamp(midi - base, -2, 2) : 0;
      out[k + 1] = inside ? track.probability[at] : 0;
      out[k + 2] = inside ? 1 - aperiodicity[at] : 0;
      out[k + 3] = inside ? clamp((levelDb[at] - peak) / 15, -3, 0.5) + 1 : -2;
      out[k + 4] = inside ? Math.min(3, onsetStrength[at] / 4) : 0;
      k += PER_OFFSET;
    }
    out[k] = clamp((levelDb[t] - loud) / 20, -3, 1);
    out[k + 1] = clamp((peak - loud) / 20, -3, 1);
    out[k + 2] = base > 0 ? (base - 60) / 24 : 0;
    out[k + 3] = features.hall;
  };
}

export function weighEvidence(
  features: FrameFeatures,
  track: PitchTrack,
  weights: EvidenceWeights,
): NoteEvidence {
  const { frames } = features;
  const { hiddenSize, hidden, output } = weights;
  const input = new Float32Array(INPUTS);
  const fill = createEvidenceInputs(features, track);
  const activation = new Float32Array(hiddenSize);
  const sounding = new Float32Array(frames);
  const onset = new Float32Array(frames);
  for (let t = 0; t < frames; t++) {
    if (track.midi[t] <= 0) continue;
    fill(t, input);
    for (let h = 0; h < hiddenSize; h++) {
      const row = h * (INPUTS + 1);
      let sum = hidden[row + INPUTS];
      for (let i = 0; i < INPUTS; i++) sum += hidden[row + i] * input[i];
      activation[h] = sum > 0 ? sum : 0;
    }
    let a = output[hiddenSize];
    let b = output[2 * hiddenSize + 1];
    for (let h = 0; h < hiddenSize; h++) {
      a += output[h] * activation[h];
      b += output[hiddenSize + 1 + h] * activation[h];
    }
    sounding[t] = 1 / (1 + Math.exp(-a));
    onset[t] = 1 / (1 + Math.exp(-b));
  }
  return { sounding, onset };
}

/** Median pitch of the seven frames from t on: the note that is beginning, if one is. */
function localReference(midi: Float32Array): Float32Array {
  const reference = new Float32Array(midi.length);
  const window: number[] = [];
  for (let t = 0; t < midi.length; t++) {
    window.length = 0;
    for (let at = t; at < Math.min(midi.length, t + 7); at++) if (midi[at] > 0) window.push(midi[at]);
    window.sort((a, b) => a - b);
    reference[t] = window.length > 0 ? window[window.length >> 1] : 0;
  }
  return reference;
}

/** Largest value within ±`reach` places (van Herk's block method would be faster; a deque is enough). */
function slidingMaximum(values: Float32Array, reach: number): Float32Array {
  const out = new Float32Array(values.length);
  const queue = new Int32Array(values.length);
  let head = 0;
  let tail = 0;
  for (let right = 0; right < values.length + reach; right++) {
    if (right < values.length) {
      while (tail > head && values[queue[tail - 1]] <= values[right]) tail--;
      queue[tail++] = right;
    }
    const centre = right - reach;
    if (centre < 0) continue;
    while (queue[head] < centre - reach) head++;
    out[centre] = values[queue[head]];
  }
  return out;
}
