import weights from './hitWeights.json' with { type: 'json' };
import type { HitWeights } from './hitNetwork.ts';

/** The weights that training made (training/README.md); its model card is in docs/architecture.md. */
export function hitWeights(): HitWeights {
  return weights;
}
