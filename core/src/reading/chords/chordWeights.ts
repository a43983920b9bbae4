import stored from './chordWeights.json' with { type: 'json' };
import type { ChordWeights } from './chordModel.ts';

/** Weights of the chord model that ship with the reader; see bench/src/training/fitChords.ts. */
export function chordWeights(): ChordWeights {
  return { kinds: stored.kinds, none: [stored.none[0], stored.none[1]] };
}
