/** The key: by how pitch classes are used (Krumhansl & Kessler 1982) and by how many of the chords belong to it. */
import { KEY_TONICS, degreeOf, tonicPitchClass, type Key } from '../../theory/index.ts';

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

/** How much the correlation, the chords that fit, and the chord of rest say (chosen on 300 composed progressions). */
const CORRELATION_WEIGHT = 5;
const FITTING_WEIGHT = 20;
const REST_WEIGHT = 3;
const EDGE_WEIGHT = 2.5;

/** All keys with their shares, likeliest first. `use`: how much each pitch class sounds. */
export function guessKeys(use: ArrayLike<number>, chords: readonly ChordEvidence[]): KeyGuess[] {
  const total = chords.reduce((sum, { weight }) => sum + weight, 0) || 1;
  const scored = KEY_TONICS.flatMap((tonic, pitchClass) =>
    (['major', 'minor'] as const).map((mode) => {
      const key: Key = { tonic, mode };
      const rotated = Array.from({ length: 12 }, (_, i) => KEY_PROFILES[mode][(i - pitchClass + 12) % 12]);
      let fitting = 0;
      let resting = 0;
      for (const { root, classes, minor, weight } of chords) {
        const inside = classes.filter((each) => degreeOf(each, key) !== undefined).length / classes.length;
        // The dominant of a minor key has a raised third.
        const dominant = mode === 'minor' && root === (pitchClass + 7) % 12 && !minor;
        fitting += weight * (dominant ? 1 : inside);
        if (root === pitchClass && minor === (mode === 'minor')) resting += weight;
      }
      const isRest = (chord: ChordEvidence | undefined) =>
        chord?.root === pitchClass && chord.minor === (mode === 'minor') ? 1 : 0;
      const score =
        CORRELATION_WEIGHT * correlation(use, rotated) +
        (FITTING_WEIGHT * fitting) / total +
        (REST_WEIGHT * resting) / total +
        EDGE_WEIGHT * (isRest(chords[0]) + isRest(chords.at(-1)));
      return { key, score };
    }),
  );
  const most = Math.max(...scored.map(({ score }) => score));
  const sum = scored.reduce((all, { score }) => all + Math.exp(score - most), 0);
  return scored
    .map(({ key, score }) => ({ key, confidence: Math.exp(score - most) / sum }))
    .sort((a, b) => b.confidence - a.confidence);
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
  const keys = KEY_TONICS.flatMap((tonic): Key[] => [
    { tonic, mode: 'major' },
    { tonic, mode: 'minor' },
  ]);
  const inKey = keys.map((key) => Array.from({ length: 12 }, (_, p) => degreeOf(p, key) !== undefined));
  const tonics = keys.map(({ tonic }) => tonicPitchClass(tonic));
  const says = (chord: ChordEvidence | null, k: number): number => {
    if (!chord) return 0;
    const dominant = keys[k].mode === 'minor' && chord.root === (tonics[k] + 7) % 12 && !chord.minor;
    const outside = chord.classes.filter((each) => !inKey[k][each]).length / chord.classes.length;
    const own = chord.root === tonics[k] && chord.minor === (keys[k].mode === 'minor');
    return chord.weight * ((own ? OWN_CHORD_GAIN : 0) - (dominant ? 0 : OUTSIDE_COST * outside));
  };
  const start = keys.findIndex(({ tonic, mode }) => tonic === first.tonic && mode === first.mode);
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

function correlation(a: ArrayLike<number>, b: readonly number[]): number {
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
