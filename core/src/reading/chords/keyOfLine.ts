/**
 * The key of a single line: by how long each pitch class sounds, and by the notes it begins and ends on. A log-linear model over the keys,
 * fitted on published tunes by bench/src/training/fitLineKeys.ts. What listeners find fitting (Krumhansl & Kessler 1982) tells less of so few
 * notes, but of basses, which tunes do not have, it tells more: so it has a say.
 */
import { tonicPitchClass, type Key } from '../../theory/index.ts';
import { KEYS, LOWEST_KEY, type Activations } from '../chordal/index.ts';
import { HOP_SECONDS } from '../melodySettings.ts';
import { ALL_KEYS, correlation, KEY_PROFILES, likeliest, type KeyGuess } from './keyOf.ts';
import weights from './lineKeyWeights.json' with { type: 'json' };

/** A key sounds from this activation on. */
const SOUNDING = 0.5 * 255;
/** Less than this in all says nothing. */
const LEAST_SECONDS = 0.5;
/** How much a correlation of −1…1 with the profile of a key weighs, and that a line begins on its tonic, as most basses do. */
const LISTENERS_SAY = 2;
const BEGINS_ON_TONIC = 0.8;

export interface LineUse {
  /** How long each of the twelve pitch classes sounds, in any unit. */
  use: ArrayLike<number>;
  /** Pitch classes that it begins and ends on. */
  first: number;
  last: number;
}

/** What the model looks at: how much each pitch class sounds, counted from the tonic, which begins, which ends, and the mode. */
export function lineKeyInputs({ use, first, last }: LineUse, key: Key): number[] {
  const tonic = tonicPitchClass(key);
  let square = 0;
  for (let i = 0; i < 12; i++) square += use[i] ** 2;
  const length = Math.sqrt(square) || 1;
  const steps = Array.from({ length: 12 }, (_, step) => (tonic + step) % 12);
  return [
    ...steps.map((each) => use[each] / length),
    ...steps.map((each) => (each === first ? 1 : 0)),
    ...steps.map((each) => (each === last ? 1 : 0)),
    1,
  ];
}

/** How well each key fits one pitch at a time, as a logarithm. Undefined where hardly anything has a pitch. */
export function lineKeyScores({ frames, active }: Activations): { key: Key; score: number }[] | undefined {
  const use = new Float64Array(12);
  let [first, last, sounding] = [-1, -1, 0];
  for (let frame = 0; frame < frames; frame++) {
    let loudest = -1;
    for (let key = 0; key < KEYS; key++) {
      const value = active[frame * KEYS + key];
      if (value >= SOUNDING && (loudest < 0 || value > active[frame * KEYS + loudest])) loudest = key;
    }
    if (loudest < 0) continue;
    last = (LOWEST_KEY + loudest) % 12;
    if (first < 0) first = last;
    use[last]++;
    sounding++;
  }
  if (sounding * HOP_SECONDS < LEAST_SECONDS) return undefined;
  return ALL_KEYS.map((key) => {
    const own = weights[key.mode];
    const tonic = tonicPitchClass(key);
    const profile = Array.from({ length: 12 }, (_, i) => KEY_PROFILES[key.mode][(i - tonic + 12) % 12]);
    const learned = lineKeyInputs({ use, first, last }, key).reduce(
      (sum, input, i) => sum + own[i] * input,
      0,
    );
    const begins = first === tonic ? BEGINS_ON_TONIC : 0;
    return { key, score: learned + LISTENERS_SAY * correlation(use, profile) + begins };
  });
}

/** Undefined where hardly anything has a pitch. */
export function keyOfLine(activations: Activations): KeyGuess | undefined {
  const scored = lineKeyScores(activations);
  return scored && likeliest(scored);
}
