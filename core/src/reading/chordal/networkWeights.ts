import weights from './networkWeights.json' with { type: 'json' };
import type { NetworkWeights } from './network.ts';

/** The weights that training made (training/README.md); its model card is in docs/architecture.md. */
export function networkWeights(): NetworkWeights {
  return weights as unknown as NetworkWeights;
}
