/** The key: by how pitch classes are used (Krumhansl & Kessler 1982) and by how many of the chords belong to it. */
import {
  degreeOf,
  keyOn,
  pitchClassesOf,
  pitchClassOf,
  sameKey,
  tonicPitchClass,
  type Chord,
  type Key,
} from '../../theory/index.ts';
import keyWeights from './keyWeights.json' with { type: 'json' };

export interface KeyGuess {
  key: Key;
  /** Share among all 24 keys, 0–1. */
  confidence: number;
}

/** Probe tone profiles of Krumhansl & Kessler 1982. */
export const KEY_PROFILES: Record<Key['mode'], readonly number[]> = {
  major: [6.35, 2.23, 3.48, 2.33, 4.38, 4.09, 2.52, 5.19, 2.39, 3.66, 2.29, 2.88],
  minor: [6.33, 2.68, 3.52, 5.38, 2.6, 3.53, 2.54, 4.75, 3.98, 2.69, 3.34, 3.17],
};

export interface ChordEvidence {
  root: number;
  /** Pitch classes of the chord. */
  classes: readonly number[];
  minor: boolean;
  /** Seconds or beats that it lasts. */
  weight: number;
}

export const KEY_INPUTS = 34;

/** Weights of what {@link keyInputs} gives, for keys of each mode. */
export type KeyWeights = Record<Key['mode'], readonly number[]>;

/**
 * What speaks for a key: how pitch classes are used, how many of the chords belong to it, its chord of rest, above all first
 * and last, steps from dominant and subdominant to it, and how long each chord lasts, counted from the tonic.
 * @param use how much each pitch class sounds
 */
export function keyInputs(use: ArrayLike<number>, chords: readonly ChordEvidence[], key: Key): number[] {
  const tonic = tonicPitchClass(key);
  const profile = Array.from({ length: 12 }, (_, i) => KEY_PROFILES[key.mode][(i - tonic + 12) % 12]);
  const total = chords.reduce((sum, { weight }) => sum + weight, 0) || 1;
  const stepOf = ({ root }: ChordEvidence) => (root - tonic + 12) % 12;
  const isRest = (chord: ChordEvidence | undefined) =>
    chord && stepOf(chord) === 0 && chord.minor === (key.mode === 'minor') ? 1 : 0;
  const isDominant = (chord: ChordEvidence | undefined) =>
    chord && stepOf(chord) === 7 && !chord.minor ? 1 : 0;
  let [fitting, resting, authentic, plagal] = [0, 0, 0, 0];
  const lasting = new Array<number>(24).fill(0);
  chords.forEach((chord, i) => {
    const { classes, minor, weight } = chord;
    const inside = classes.filter((each) => degreeOf(each, key) !== undefined).length / classes.length;
    // The dominant of a minor key has a raised third.
    fitting += weight * (key.mode === 'minor' && isDominant(chord) ? 1 : inside);
    resting += weight * isRest(chord);
    lasting[2 * stepOf(chord) + (minor ? 1 : 0)] += weight / total;
    if (i === 0 || !isRest(chord)) return;
    authentic += isDominant(chords[i - 1]);
    if (stepOf(chords[i - 1]) === 5) plagal++;
  });
  const steps = Math.max(1, chords.length - 1);
  return [
    1,
    correlation(use, profile),
    fitting / total,
    resting / total,
    isRest(chords[0]),
    isRest(chords.at(-1)),
    isDominant(chords[0]),
    isDominant(chords.at(-1)),
    authentic / steps,
    plagal / steps,
    ...lasting,
  ];
}

/** The 24 keys that can be told apart by ear, each in its usual spelling. */
export const ALL_KEYS: readonly Key[] = Array.from({ length: 12 }, (_, tonic) => tonic).flatMap(
  (tonic): Key[] => [keyOn(tonic, 'major'), keyOn(tonic, 'minor')],
);

/**
 * All keys with their shares, likeliest first: a log-linear model over the 24 keys, fitted by
 * bench/src/training/fitKeys.ts. `use`: how much each pitch class sounds.
 */
export function guessKeys(use: ArrayLike<number>, chords: readonly ChordEvidence[]): KeyGuess[] {
  const scored = ALL_KEYS.map((key) => {
    const own = (keyWeights as KeyWeights)[key.mode];
    return { key, score: keyInputs(use, chords, key).reduce((sum, input, i) => sum + own[i] * input, 0) };
  });
  return likely(scored);
}

/** By scores that are logarithms of what speaks for each key, likeliest first. */
function likely(scored: readonly { key: Key; score: number }[]): KeyGuess[] {
  const most = Math.max(...scored.map(({ score }) => score));
  const sum = scored.reduce((all, { score }) => all + Math.exp(score - most), 0);
  return scored
    .map(({ key, score }) => ({ key, confidence: Math.exp(score - most) / sum }))
    .sort((a, b) => b.confidence - a.confidence);
}

export const likeliest = (scored: readonly { key: Key; score: number }[]): KeyGuess => likely(scored)[0];

/** The same for chords that are known: how much each pitch class sounds follows from how long they last. */
export function guessKeyOfChords(chords: readonly { chord: Chord; weight: number }[]): KeyGuess[] {
  if (chords.length === 0) return [];
  const use = new Float64Array(12);
  const evidence = chords.map(({ chord, weight }): ChordEvidence => {
    const classes = [...new Set(pitchClassesOf(chord))];
    for (const each of classes) use[each] += weight;
    return { root: pitchClassOf(chord.root)!, classes, minor: chord.degrees.includes('b3'), weight };
  });
  return guessKeys(use, evidence);
}

/** Evidence of a key change must outweigh this: about four bars of chords with a note outside the key. */
const CHANGE_COST = 9;
/** What a beat says against a key for the share of its chord's notes that lie outside, and for the key's own chord. */
const OUTSIDE_COST = 1.2;
const OWN_CHORD_GAIN = 0.12;

/**
 * The key of each chord, likeliest over the whole (Viterbi); a key stays unless several bars speak against it.
 * @param first in force where nothing speaks for another
 * @param chords in order; one without notes says nothing
 */
export function trackKeys(first: Key, chords: readonly (ChordEvidence | null)[]): Key[] {
  const keys = ALL_KEYS;
  const inKey = keys.map((key) => Array.from({ length: 12 }, (_, p) => degreeOf(p, key) !== undefined));
  const tonics = keys.map(tonicPitchClass);
  const says = (chord: ChordEvidence | null, k: number): number => {
    if (!chord) return 0;
    const dominant = keys[k].mode === 'minor' && chord.root === (tonics[k] + 7) % 12 && !chord.minor;
    const outside = chord.classes.filter((each) => !inKey[k][each]).length / chord.classes.length;
    const own = chord.root === tonics[k] && chord.minor === (keys[k].mode === 'minor');
    return chord.weight * ((own ? OWN_CHORD_GAIN : 0) - (dominant ? 0 : OUTSIDE_COST * outside));
  };
  const start = keys.findIndex((key) => sameKey(key, first));
  let score = keys.map((_, k) => (k === start ? 0 : -CHANGE_COST));
  const cameFrom: Int32Array[] = [];
  for (const chord of chords) {
    let best = 0;
    for (let k = 1; k < keys.length; k++) if (score[k] > score[best]) best = k;
    const from = new Int32Array(keys.length);
    score = score.map((stayed, k) => {
      from[k] = stayed >= score[best] - CHANGE_COST ? k : best;
      return Math.max(stayed, score[best] - CHANGE_COST) + says(chord, k);
    });
    cameFrom.push(from);
  }
  const path: Key[] = new Array<Key>(chords.length);
  let k = score.indexOf(Math.max(...score));
  for (let i = chords.length - 1; i >= 0; i--) {
    path[i] = keys[k];
    k = cameFrom[i][k];
  }
  return path;
}

export function correlation(a: ArrayLike<number>, b: readonly number[]): number {
  let [meanA, meanB] = [0, 0];
  for (let i = 0; i < 12; i++) {
    meanA += a[i] / 12;
    meanB += b[i] / 12;
  }
  let [cross, energyA, energyB] = [0, 0, 0];
  for (let i = 0; i < 12; i++) {
    cross += (a[i] - meanA) * (b[i] - meanB);
    energyA += (a[i] - meanA) ** 2;
    energyB += (b[i] - meanB) ** 2;
  }
  return energyA === 0 ? 0 : cross / Math.sqrt(energyA * energyB);
}
