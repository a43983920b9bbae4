/**
 * The key of a loop. A loop has few chords, sometimes one, so what a song says of its key by and by is not there; but it begins where
 * its progression begins, more often than not on its tonic.
 */
import { tonicPitchClass } from '../../theory/index.ts';
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
 * A log-linear model of three inputs, weighed on 77 loops and, half as heavy each, on 60 beginnings of arrangements and 82
 * stretches from within them, of the banks that the chord model was fitted on. What begins on any chord, as few loops do, pays for
 * what the others gain.
 */
const CHORDS_SAY = 0.5;
const LINE_SAYS = 2;
const BEGINS_ON_TONIC = 1.5;
/** What is not likely at all counts as no less than this. */
const LEAST = 1e-6;

/** Undefined where hardly anything has a pitch. */
export function keyOfLoop({ keys, chords }: LoopKeyEvidence, activations: Activations): KeyGuess | undefined {
  if (chords.length === 0) return keyOfLine(activations);
  const line = new Map(lineKeyScores(activations)?.map(({ key, score }) => [key, score]));
  const [first] = chords;
  return likeliest(
    keys.map(({ key, confidence }) => {
      const onTonic = first.root === tonicPitchClass(key) && first.minor === (key.mode === 'minor');
      return {
        key,
        score:
          CHORDS_SAY * Math.log(Math.max(confidence, LEAST)) +
          LINE_SAYS * (line.get(key) ?? 0) +
          (onTonic ? BEGINS_ON_TONIC : 0),
      };
    }),
  );
}
