/** Learns to choose among candidates: a log-linear model whose shares come close to those wanted. */

export interface Choice {
  /** What is known of each candidate. */
  inputs: number[][];
  /** The share that each should have; they sum to 1. */
  wanted: number[];
  /** How much it counts; 1 without. */
  weight?: number;
}

const STEPS = 500;
const RATE = 0.05;

/**
 * Weights of the inputs. @param ridge cost of a weight away from that in `towards` (nothing: 0), for inputs scaled to a
 * spread of 1
 */
export function fitRanking(choices: readonly Choice[], ridge: number, towards?: readonly number[]): number[] {
  const size = choices[0].inputs[0].length;
  const spread = spreads(choices, size);
  const home = Array.from({ length: size }, (_, i) => (towards ? towards[i] * spread[i] : 0));
  const weights = Float64Array.from(home);
  const momentum = new Float64Array(size);
  const square = new Float64Array(size);
  for (let step = 1; step <= STEPS; step++) {
    const gradient = new Float64Array(size);
    for (const { inputs, wanted, weight = 1 } of choices) {
      const shares = sharesOf(inputs, weights, spread);
      inputs.forEach((values, candidate) => {
        const error = (weight * (shares[candidate] - wanted[candidate])) / choices.length;
        for (let i = 0; i < size; i++) gradient[i] += (error * values[i]) / spread[i];
      });
    }
    const rate = RATE * (0.5 + 0.5 * Math.cos((Math.PI * step) / STEPS));
    for (let i = 0; i < size; i++) {
      gradient[i] += ridge * (weights[i] - home[i]);
      momentum[i] = 0.9 * momentum[i] + 0.1 * gradient[i];
      square[i] = 0.99 * square[i] + 0.01 * gradient[i] ** 2;
      weights[i] -=
        (rate * (momentum[i] / (1 - 0.9 ** step))) / (Math.sqrt(square[i] / (1 - 0.99 ** step)) + 1e-8);
    }
  }
  return Array.from(weights, (value, i) => value / spread[i]);
}

/** The candidate that the weights prefer. */
export function choose(inputs: readonly number[][], weights: readonly number[]): number {
  const scores = inputs.map((values) => values.reduce((sum, value, i) => sum + weights[i] * value, 0));
  return scores.indexOf(Math.max(...scores));
}

/**
 * Mean of what `worth` says of the chosen candidate when each choice is made by weights that were fitted without its
 * sixth of the data.
 */
export function crossValidate(
  choices: readonly Choice[],
  fit: (train: Choice[]) => number[],
  worth: (choice: number, candidate: number) => number,
): number {
  const FOLDS = 6;
  let sum = 0;
  for (let fold = 0; fold < FOLDS; fold++) {
    const weights = fit(choices.filter((_, i) => i % FOLDS !== fold));
    choices.forEach(({ inputs }, i) => {
      if (i % FOLDS === fold) sum += worth(i, choose(inputs, weights));
    });
  }
  return sum / choices.length;
}

function sharesOf(inputs: readonly number[][], weights: Float64Array, spread: readonly number[]): number[] {
  const scores = inputs.map((values) =>
    values.reduce((sum, value, i) => sum + (weights[i] * value) / spread[i], 0),
  );
  const most = Math.max(...scores);
  const odds = scores.map((score) => Math.exp(score - most));
  const total = odds.reduce((sum, value) => sum + value, 0);
  return odds.map((value) => value / total);
}

function spreads(choices: readonly Choice[], size: number): number[] {
  const all = choices.flatMap(({ inputs }) => inputs);
  return Array.from({ length: size }, (_, i) => {
    const mean = all.reduce((sum, values) => sum + values[i], 0) / all.length;
    return Math.sqrt(all.reduce((sum, values) => sum + (values[i] - mean) ** 2, 0) / all.length) || 1;
  });
}
