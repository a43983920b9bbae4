/** The key of a single line: by how long each pitch class sounds, and by the note it begins on. */
import { tonicPitchClass, type Key } from '../../theory/index.ts';
import { KEYS, LOWEST_KEY, type Activations } from '../chordal/index.ts';
import { HOP_SECONDS } from '../melodySettings.ts';
import { ALL_KEYS, correlation, KEY_PROFILES, likeliest, type KeyGuess } from './keyOf.ts';

/** A key sounds from this activation on. */
const SOUNDING = 0.5 * 255;
/** Less than this in all says nothing. */
const LEAST_SECONDS = 0.5;
/** A line begins on its tonic, or on the fifth, more often than not: how much that weighs beside a correlation of −1…1. */
const BEGINS_ON_TONIC = 0.2;
const BEGINS_ON_FIFTH = 0.08;
/** How fast a lower score makes a key unlikely. */
const SHARPNESS = 8;

/**
 * How well each key fits what sounds longest, one pitch at a time, and what it begins on: a correlation of −1…1, and a little more
 * where the key begins. Undefined where hardly anything has a pitch.
 */
export function lineKeyScores({ frames, active }: Activations): { key: Key; score: number }[] | undefined {
  const use = new Float64Array(12);
  let [first, sounding] = [-1, 0];
  for (let frame = 0; frame < frames; frame++) {
    let loudest = -1;
    for (let key = 0; key < KEYS; key++) {
      const value = active[frame * KEYS + key];
      if (value >= SOUNDING && (loudest < 0 || value > active[frame * KEYS + loudest])) loudest = key;
    }
    if (loudest < 0) continue;
    const pitchClass = (LOWEST_KEY + loudest) % 12;
    if (first < 0) first = pitchClass;
    use[pitchClass]++;
    sounding++;
  }
  if (sounding * HOP_SECONDS < LEAST_SECONDS) return undefined;
  return ALL_KEYS.map((key) => {
    const tonic = tonicPitchClass(key);
    const profile = Array.from({ length: 12 }, (_, i) => KEY_PROFILES[key.mode][(i - tonic + 12) % 12]);
    const begins = first === tonic ? BEGINS_ON_TONIC : first === (tonic + 7) % 12 ? BEGINS_ON_FIFTH : 0;
    return { key, score: correlation(use, profile) + begins };
  });
}

/** Undefined where hardly anything has a pitch. */
export function keyOfLine(activations: Activations): KeyGuess | undefined {
  const scored = lineKeyScores(activations);
  return scored && likeliest(scored.map(({ key, score }) => ({ key, score: SHARPNESS * score })));
}
