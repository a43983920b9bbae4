/** Fits networks with one hidden layer: mini-batch Adam (Kingma & Ba 2015) on cross-entropy, seeded. */
import { createRandom } from '@plundra/core/signal';
import type { SmallNetwork } from '@plundra/core/reading/training';

export interface Example {
  inputs: ArrayLike<number>;
  right: 0 | 1;
}

export interface FitSettings {
  hidden: number;
  epochs: number;
  batch: number;
  rate: number;
  ridge: number;
}

export function fitSmallNetwork(
  examples: readonly Example[],
  { hidden, epochs, batch: batchSize, rate: firstRate, ridge }: FitSettings,
): SmallNetwork {
  const count = examples[0].inputs.length;
  const { mean, deviation } = spreadOf(examples, count);
  const row = count + 1;
  const outputAt = hidden * row;
  const random = createRandom(1);
  const weights = Float64Array.from({ length: outputAt + hidden + 1 }, () => 0.6 * (random() - 0.5));
  const [gradient, first, second] = [0, 1, 2].map(() => new Float64Array(weights.length));
  const activation = new Float64Array(hidden);
  const inputs = new Float64Array(count);
  const order = Uint32Array.from(examples, (_, i) => i);
  const steps = epochs * Math.ceil(order.length / batchSize);
  let step = 0;
  for (let epoch = 0; epoch < epochs; epoch++) {
    for (let i = order.length - 1; i > 0; i--) {
      const j = Math.floor(random() * (i + 1));
      [order[i], order[j]] = [order[j], order[i]];
    }
    for (let from = 0; from < order.length; from += batchSize) {
      const batch = order.subarray(from, from + batchSize);
      for (let i = 0; i < weights.length; i++) gradient[i] = ridge * weights[i];
      for (const index of batch) {
        const example = examples[index];
        for (let i = 0; i < count; i++) inputs[i] = (example.inputs[i] - mean[i]) / deviation[i];
        let sum = weights[outputAt + hidden];
        for (let unit = 0; unit < hidden; unit++) {
          let value = weights[unit * row + count];
          for (let i = 0; i < count; i++) value += weights[unit * row + i] * inputs[i];
          activation[unit] = Math.tanh(value);
          sum += weights[outputAt + unit] * activation[unit];
        }
        const error = (1 / (1 + Math.exp(-sum)) - example.right) / batch.length;
        gradient[outputAt + hidden] += error;
        for (let unit = 0; unit < hidden; unit++) {
          gradient[outputAt + unit] += error * activation[unit];
          const slope = error * weights[outputAt + unit] * (1 - activation[unit] ** 2);
          for (let i = 0; i < count; i++) gradient[unit * row + i] += slope * inputs[i];
          gradient[unit * row + count] += slope;
        }
      }
      step++;
      const rate = firstRate * (0.5 + 0.5 * Math.cos((Math.PI * step) / steps));
      for (let i = 0; i < weights.length; i++) {
        first[i] = 0.9 * first[i] + 0.1 * gradient[i];
        second[i] = 0.99 * second[i] + 0.01 * gradient[i] ** 2;
        weights[i] -=
          (rate * (first[i] / (1 - 0.9 ** step))) / (Math.sqrt(second[i] / (1 - 0.99 ** step)) + 1e-8);
      }
    }
  }
  return {
    mean,
    deviation,
    hidden: Array.from({ length: hidden }, (_, unit) => [...weights.subarray(unit * row, (unit + 1) * row)]),
    output: [...weights.subarray(outputAt)],
  };
}

/** With five digits, as networks are stored. */
export function storedText({ mean, deviation, hidden, output }: SmallNetwork): string {
  const rounded = (values: number[]) => values.map((value) => Number(value.toPrecision(5)));
  const stored = {
    mean: rounded(mean),
    deviation: rounded(deviation),
    hidden: hidden.map(rounded),
    output: rounded(output),
  };
  return `${JSON.stringify(stored, null, 2)}\n`;
}

function spreadOf(examples: readonly Example[], count: number) {
  const mean = new Array<number>(count).fill(0);
  const square = new Array<number>(count).fill(0);
  for (const { inputs } of examples) for (let i = 0; i < count; i++) mean[i] += inputs[i] / examples.length;
  for (const { inputs } of examples)
    for (let i = 0; i < count; i++) square[i] += (inputs[i] - mean[i]) ** 2 / examples.length;
  return { mean, deviation: square.map((value) => Math.sqrt(value) || 1) };
}
