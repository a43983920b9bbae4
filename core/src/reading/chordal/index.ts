export {
  combineActivations,
  computeActivations,
  fillInput,
  networkInput,
  type Activations,
  type NetworkInput,
} from './activations.ts';
export { createNetwork, HEADS, KEYS, LOWEST_KEY, type LayerWeights } from './network.ts';
export { networkWeights } from './networkWeights.ts';
