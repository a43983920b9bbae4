/**
 * How likely each kind of drum is struck in each frame. Two networks that were trained on other clips and see other things err at
 * other places: what only one of them takes for a stroke is mostly none. The mean of their logits counts (a product of experts:
 * Hinton 2002).
 */
import { HIT_KINDS } from '../../theory/index.ts';
import { closeLogits } from './closeNetwork.ts';
import { loudestDb } from './hitLevels.ts';
import { BANDS } from './melFrames.ts';
import { wideProbabilities } from './wideNetwork.ts';

/** What never gets louder than this in any band is silence. */
const SILENCE_DB = -90;
/** Share of the wide network. */
const WIDE_SHARE = 0.5;
/** Nothing is surer than this. */
const LEAST = 1e-4;

/** Probabilities, frames × kinds, from the frames of {@link createMelStream}. */
export function hitProbabilities(frames: Uint8Array): Float32Array {
  const topDb = loudestDb(frames);
  if (topDb < SILENCE_DB) return new Float32Array((frames.length / BANDS) * HIT_KINDS.length);
  const wide = wideProbabilities(frames, topDb);
  const close = closeLogits(frames, topDb);
  return wide.map((p, i) => {
    const logit = Math.log((p + LEAST) / (1 - p + LEAST));
    return 1 / (1 + Math.exp(-(WIDE_SHARE * logit + (1 - WIDE_SHARE) * close[i])));
  });
}
