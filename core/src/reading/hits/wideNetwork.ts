/**
 * How likely each kind of drum is struck in each frame, from what is heard 0.7 s to each side: residual dilated convolutions, trained
 * by training/train_drums_wide.py. They see each band twice: below the loudest of the recording, and below what is loud in that
 * band, which is the same whatever microphone or desk the recording came through.
 */
import { HIT_KINDS } from '../../theory/index.ts';
import { createDilatedNetwork } from '../dilatedNetwork.ts';
import { loudOfBandsDb, RANGE_DB, scaledLevel } from './hitLevels.ts';
import { BANDS } from './melFrames.ts';
import weights from './wideWeights.json' with { type: 'json' };

/** Frames the network sees to each side of one: the sum of its dilations. */
const CONTEXT_FRAMES = weights.dilations.reduce((sum, dilation) => sum + dilation, 0);
/** A recording of an hour is judged in pieces of 24 s, or it would take gigabytes. */
const BLOCK_FRAMES = 4096;

const network = createDilatedNetwork(weights);

/**
 * Probabilities, frames × kinds, from the frames of {@link createMelStream}, the loudest of which reach `topDb`. The size of the
 * pieces changes nothing.
 */
export function wideProbabilities(
  frames: Uint8Array,
  topDb: number,
  blockFrames = BLOCK_FRAMES,
): Float32Array {
  const count = frames.length / BANDS;
  const kinds = HIT_KINDS.length;
  const result = new Float32Array(count * kinds);
  const loudDb = loudOfBandsDb(frames).map((db) => Math.max(db, topDb - RANGE_DB));
  for (let from = 0; from < count; from += blockFrames) {
    const to = Math.min(count, from + blockFrames);
    const first = Math.max(0, from - CONTEXT_FRAMES);
    const last = Math.min(count, to + CONTEXT_FRAMES);
    const outputs = network(inputsOf(frames.subarray(first * BANDS, last * BANDS), topDb, loudDb));
    for (let t = from; t < to; t++)
      for (let kind = 0; kind < kinds; kind++) result[t * kinds + kind] = outputs[kind][t - first];
  }
  return result;
}

/** Frames × twice the bands. */
function inputsOf(frames: Uint8Array, topDb: number, loudDb: readonly number[]): Float32Array {
  const inputs = new Float32Array(2 * frames.length);
  for (let i = 0; i < frames.length; i++) {
    const band = i % BANDS;
    const at = 2 * (i - band) + band;
    inputs[at] = scaledLevel(frames[i], topDb);
    inputs[at + BANDS] = scaledLevel(frames[i], loudDb[band]);
  }
  return inputs;
}
