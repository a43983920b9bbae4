/** What the confidence of a note of a chordal recording means: the probability that it is right. */
import stored from './confidenceWeights.json' with { type: 'json' };
import { CONTEXT_INPUTS, contextOf, type FoundNote } from './noteContext.ts';

/** A small network: one hidden layer (tanh), one output. */
export interface ConfidenceWeights {
  /** Of each input; they are brought to mean 0 and deviation 1 first. */
  mean: number[];
  deviation: number[];
  /** Rows of inputs, each ending with its bias. */
  hidden: number[][];
  /** One for each hidden unit, and the bias. */
  output: number[];
}

/** Confidence 0–1 of each note, judged with all notes around it. @param notes in order of their start */
export function noteConfidences(notes: readonly FoundNote[]): number[] {
  return contextOf(notes).map((inputs) => confidenceOf(inputs, stored));
}

export function confidenceOf(inputs: Float32Array, weights: ConfidenceWeights): number {
  const { mean, deviation, hidden, output } = weights;
  let sum = output[hidden.length];
  for (let unit = 0; unit < hidden.length; unit++) {
    const row = hidden[unit];
    let value = row[CONTEXT_INPUTS];
    for (let i = 0; i < CONTEXT_INPUTS; i++) value += (row[i] * (inputs[i] - mean[i])) / deviation[i];
    sum += output[unit] * Math.tanh(value);
  }
  return 1 / (1 + Math.exp(-sum));
}
