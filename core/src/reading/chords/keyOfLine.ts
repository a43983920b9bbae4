/**
 * The key of a single line: by how long each pitch class sounds, in all and at its beginning, and by the notes it begins and ends on. A log-linear model over the keys,
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
/** The beginning of a line, in which its tonic is told more often than later. */
export const BEGINNING_SHARE = 1 / 4;

export interface LineUse {
  /** How long each of the twelve pitch classes sounds, in any unit. */
  use: ArrayLike<number>;
  /** The same of its beginning, see {@link BEGINNING_SHARE}. */
  early: ArrayLike<number>;
  /** Pitch classes that it begins and ends on. */
  first: number;
  last: number;
}

/**
 * What the model looks at: how much each pitch class sounds, counted from the tonic, in all and at the beginning, which begins, which
 * ends, and the mode.
 */
export function lineKeyInputs({ use, early, first, last }: LineUse, key: Key): number[] {
  const tonic = tonicPitchClass(key);
  const steps = Array.from({ length: 12 }, (_, step) => (tonic + step) % 12);
  const shares = (of: ArrayLike<number>) => {
    const length = Math.hypot(...Array.from(of)) || 1;
    return steps.map((each) => of[each] / length);
  };
  return [
    ...shares(use),
    ...steps.map((each) => (each === first ? 1 : 0)),
    ...steps.map((each) => (each === last ? 1 : 0)),
    1,
    ...shares(early),
  ];
}

/** How well each key fits one pitch at a time, as a logarithm. Undefined where hardly anything has a pitch. */
export function lineKeyScores({ frames, active }: Activations): { key: Key; score: number }[] | undefined {
  const heard: { frame: number; pitchClass: number }[] = [];
  for (let frame = 0; frame < frames; frame++) {
    let loudest = -1;
    for (let key = 0; key < KEYS; key++) {
      const value = active[frame * KEYS + key];
      if (value >= SOUNDING && (loudest < 0 || value > active[frame * KEYS + loudest])) loudest = key;
    }
    if (loudest >= 0) heard.push({ frame, pitchClass: (LOWEST_KEY + loudest) % 12 });
  }
  if (heard.length * HOP_SECONDS < LEAST_SECONDS) return undefined;
  const use = new Float64Array(12);
  const early = new Float64Array(12);
  // What is silent before is no part of it.
  const begin = heard[0].frame;
  for (const { frame, pitchClass } of heard) {
    use[pitchClass]++;
    if (frame - begin < BEGINNING_SHARE * (frames - begin)) early[pitchClass]++;
  }
  const [first, last] = [heard[0].pitchClass, heard[heard.length - 1].pitchClass];
  return ALL_KEYS.map((key) => {
    const own = weights[key.mode];
    const tonic = tonicPitchClass(key);
    const profile = Array.from({ length: 12 }, (_, i) => KEY_PROFILES[key.mode][(i - tonic + 12) % 12]);
    const learned = lineKeyInputs({ use, early, first, last }, key).reduce(
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
