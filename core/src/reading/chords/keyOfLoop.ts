/**
 * The key of a loop. A loop has few chords, sometimes one, so what a song says of its key by and by is not there; but it begins where
 * its progression begins, more often than not on its tonic.
 */
import { tonicPitchClass, type Key } from '../../theory/index.ts';
import type { Activations } from '../chordal/index.ts';
import { likeliest, type ChordEvidence, type KeyGuess } from './keyOf.ts';
import { keyOfLine, lineKeyScores } from './keyOfLine.ts';

export interface LoopKeyEvidence {
  /** All keys, as the chords of a song would say. */
  keys: readonly KeyGuess[];
  /** Those that were heard, in order; none: keys say nothing. */
  chords: readonly ChordEvidence[];
}

/**
 * A log-linear model: what the chords say, what sounds longest says, and whether it begins on the chord of rest. Fitted by
 * bench/src/training/fitLoopKeys.ts (0.23, 0.26, 2.17); chords were raised by hand, for loops that begin elsewhere in a cadence.
 */
const WEIGHTS = [0.5, 0.3, 2];
/** What is not likely at all counts as no less than this. */
const LEAST = 1e-6;

/** Undefined where hardly anything has a pitch. */
export function keyOfLoop(evidence: LoopKeyEvidence, activations: Activations): KeyGuess | undefined {
  if (evidence.chords.length === 0) return keyOfLine(activations);
  const inputs = loopKeyInputs(evidence, activations);
  return likeliest(
    [...inputs].map(([key, values]) => ({
      key,
      score: values.reduce((sum, value, i) => sum + WEIGHTS[i] * value, 0),
    })),
  );
}

/** What the model looks at, for each key. @param evidence with a chord at least */
export function loopKeyInputs(
  { keys, chords: [first] }: LoopKeyEvidence,
  activations: Activations,
): Map<Key, number[]> {
  const line = new Map(lineKeyScores(activations)?.map(({ key, score }) => [key, score]));
  return new Map(
    keys.map(({ key, confidence }) => {
      const onTonic = first.root === tonicPitchClass(key) && first.minor === (key.mode === 'minor');
      return [key, [Math.log(Math.max(confidence, LEAST)), line.get(key) ?? 0, onTonic ? 1 : 0]];
    }),
  );
}
