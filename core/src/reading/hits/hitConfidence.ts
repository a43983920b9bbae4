/**
 * How often drums of a probability were struck, on kits that choices are made on and computed ones, each kit counting the same
 * (docs/drums.md): what is likely is surer than the network of strokes says, what is hardly likelier than not a little less sure. Logistic in the
 * log odds (Platt 1999, "Probabilistic outputs for support vector machines").
 */
const STEEPNESS = 1.265;
const SHIFT = -0.224;

/** @param probability what the network of strokes says, 0–1; the confidence rises with it, from 0 to 1 */
export function hitConfidence(probability: number): number {
  const odds = probability / (1 - probability);
  // Nothing is infinitely likely: 1 stays 1.
  return odds === Infinity ? 1 : 1 / (1 + Math.exp(-SHIFT) * odds ** -STEEPNESS);
}
