/**
 * How likely each chord is behind what sounds in one beat: a log-linear model over pitch classes relative to the root,
 * one set of weights for each kind of chord, the same for all roots. Fitted by bench/src/training/fitChords.ts.
 */
import type { Degree } from '../../theory/index.ts';
import type { SpanChroma } from './chroma.ts';

export interface ChordKind {
  name: string;
  degrees: readonly Degree[];
}

export const CHORD_KINDS: readonly ChordKind[] = [
  { name: 'maj', degrees: ['1', '3', '5'] },
  { name: 'min', degrees: ['1', 'b3', '5'] },
  { name: 'dim', degrees: ['1', 'b3', 'b5'] },
  { name: 'aug', degrees: ['1', '3', '#5'] },
  { name: 'sus2', degrees: ['1', '2', '5'] },
  { name: 'sus4', degrees: ['1', '4', '5'] },
  { name: '6', degrees: ['1', '3', '5', '6'] },
  { name: 'm6', degrees: ['1', 'b3', '5', '6'] },
  { name: '7', degrees: ['1', '3', '5', 'b7'] },
  { name: 'maj7', degrees: ['1', '3', '5', '7'] },
  { name: 'm7', degrees: ['1', 'b3', '5', 'b7'] },
  { name: 'm7b5', degrees: ['1', 'b3', 'b5', 'b7'] },
  { name: 'dim7', degrees: ['1', 'b3', 'b5', 'bb7'] },
  { name: 'mMaj7', degrees: ['1', 'b3', '5', '7'] },
  { name: 'add9', degrees: ['1', '3', '5', '9'] },
];

/** States: kind × root, and no chord last. */
export const ROOTS = 12;
export const STATES = CHORD_KINDS.length * ROOTS + 1;
export const NO_CHORD_STATE = STATES - 1;
/** Sounding, and in the bass: twelve each. */
export const INPUTS = 24;

export interface ChordWeights {
  /** For each kind of chord INPUTS weights relative to the root, then a bias. */
  kinds: number[][];
  /** For no chord: the weight of all that sounds, then a bias. */
  none: [number, number];
}

/** Inputs of one beat, absolute pitch classes. */
export function beatInputs({ sounding, bass }: SpanChroma): Float32Array {
  const inputs = new Float32Array(INPUTS);
  inputs.set(sounding, 0);
  inputs.set(bass, 12);
  return inputs;
}

/** Log probabilities of all states. */
export function chordLogProbabilities(inputs: Float32Array, weights: ChordWeights): Float64Array {
  const scores = new Float64Array(STATES);
  let total = 0;
  for (let pitchClass = 0; pitchClass < 12; pitchClass++) total += inputs[pitchClass];
  scores[NO_CHORD_STATE] = weights.none[0] * total + weights.none[1];
  let most = scores[NO_CHORD_STATE];
  weights.kinds.forEach((kind, k) => {
    for (let root = 0; root < ROOTS; root++) {
      let score = kind[INPUTS];
      for (let group = 0; group < INPUTS; group += 12)
        for (let step = 0; step < 12; step++)
          score += kind[group + step] * inputs[group + ((root + step) % 12)];
      scores[k * ROOTS + root] = score;
      if (score > most) most = score;
    }
  });
  let sum = 0;
  for (const score of scores) sum += Math.exp(score - most);
  const log = most + Math.log(sum);
  return scores.map((score) => score - log);
}

/** Root and kind of a state; undefined for no chord. */
export function chordOfState(state: number): { root: number; kind: ChordKind } | undefined {
  if (state === NO_CHORD_STATE) return undefined;
  return { root: state % ROOTS, kind: CHORD_KINDS[Math.floor(state / ROOTS)] };
}
