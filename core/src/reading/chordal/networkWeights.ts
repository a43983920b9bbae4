import coarseWeights from './coarseNetworkWeights.json' with { type: 'json' };
import weights from './networkWeights.json' with { type: 'json' };
import type { NetworkWeights } from './network.ts';

/** The weights that training made (training/README.md); its model card is in docs/architecture.md. */
export function networkWeights(): NetworkWeights {
  return weights as unknown as NetworkWeights;
}

/** Those of the smaller network that looks at every other frame, made from the whole one by training/coarse.py. */
export function coarseNetworkWeights(): NetworkWeights {
  return coarseWeights as unknown as NetworkWeights;
}
