/**
 * How likely a beat and a bar line lie in each frame: residual dilated convolutions over the rhythm features, as trained by
 * training/train_beats.py (for beats: Davies and Böck 2019). It sees six seconds to each side.
 */
import { createDilatedNetwork } from '../dilatedNetwork.ts';
import weights from './beatNetworkWeights.json' with { type: 'json' };

export interface BeatLikelihood {
  /** 0–1, one for each frame. */
  beat: Float32Array;
  downbeat: Float32Array;
}

const network = createDilatedNetwork(weights);

/** @param features as rhythmFeatures gives them */
export function beatLikelihood(features: Float32Array): BeatLikelihood {
  const [beat, downbeat] = network(features);
  return { beat, downbeat };
}
