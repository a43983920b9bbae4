export { combineActivations, computeActivations, type Activations } from './activations.ts';
export { KEYS, LOWEST_KEY } from './network.ts';
