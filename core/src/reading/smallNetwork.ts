/** A network with one hidden layer (tanh) and one output, as bench/src/training/fitSmallNetwork.ts fits it. */
export interface SmallNetwork {
  /** Of each input; they are brought to mean 0 and deviation 1 first. */
  mean: number[];
  deviation: number[];
  /** Rows of inputs, each ending with its bias. */
  hidden: number[][];
  /** One for each hidden unit, and the bias. */
  output: number[];
}

/** What it says of some inputs, as log odds. */
export function logOddsOf(
  inputs: ArrayLike<number>,
  { mean, deviation, hidden, output }: SmallNetwork,
): number {
  const count = mean.length;
  let sum = output[hidden.length];
  for (let unit = 0; unit < hidden.length; unit++) {
    const row = hidden[unit];
    let value = row[count];
    for (let i = 0; i < count; i++) value += (row[i] * (inputs[i] - mean[i])) / deviation[i];
    sum += output[unit] * Math.tanh(value);
  }
  return sum;
}

/** The same as a probability, 0–1. */
export function probabilityOf(inputs: ArrayLike<number>, network: SmallNetwork): number {
  return 1 / (1 + Math.exp(-logOddsOf(inputs, network)));
}
