/** Training of the evidence network: mini-batch Adam (Kingma & Ba 2015) on binary cross-entropy. */
import { createRandom, gaussian } from '@plundra/core/signal';
import { EVIDENCE_INPUTS as INPUTS, type EvidenceWeights } from '@plundra/core/reading/training';

export interface Example {
  input: Float32Array;
  sounding: number;
  onset: number;
}

export interface TrainingOptions {
  hiddenSize: number;
  epochs: number;
  seed: number;
  /** Weight of the onset loss against the sounding loss. */
  onsetWeight: number;
}

export function trainNetwork(
  examples: Example[],
  options: TrainingOptions,
  report: (line: string) => void,
): EvidenceWeights {
  const { hiddenSize, epochs } = options;
  const random = createRandom(options.seed);
  const row = INPUTS + 1;
  const size = hiddenSize * row + 2 * (hiddenSize + 1);
  const weights = new Float64Array(size);
  for (let h = 0; h < hiddenSize; h++)
    for (let i = 0; i < INPUTS; i++) weights[h * row + i] = gaussian(random) * Math.sqrt(2 / INPUTS) * 0.7;
  const outAt = hiddenSize * row;
  for (let k = 0; k < 2 * (hiddenSize + 1); k++) weights[outAt + k] = gaussian(random) * 0.1;
  weights[outAt + 2 * hiddenSize + 1] = -2;
  const gradient = new Float64Array(size);
  const first = new Float64Array(size);
  const second = new Float64Array(size);
  const activation = new Float64Array(hiddenSize);
  const order = examples.map((_, i) => i);
  const batch = 64;
  const totalSteps = Math.ceil(examples.length / batch) * epochs;
  let step = 0;
  for (let epoch = 0; epoch < epochs; epoch++) {
    for (let i = order.length - 1; i > 0; i--) {
      const j = Math.floor(random() * (i + 1));
      [order[i], order[j]] = [order[j], order[i]];
    }
    let loss = 0;
    for (let start = 0; start < order.length; start += batch) {
      gradient.fill(0);
      const end = Math.min(order.length, start + batch);
      for (let n = start; n < end; n++) {
        const { input, sounding, onset } = examples[order[n]];
        for (let h = 0; h < hiddenSize; h++) {
          let sum = weights[h * row + INPUTS];
          for (let i = 0; i < INPUTS; i++) sum += weights[h * row + i] * input[i];
          activation[h] = sum > 0 ? sum : 0;
        }
        let a = weights[outAt + hiddenSize];
        let b = weights[outAt + 2 * hiddenSize + 1];
        for (let h = 0; h < hiddenSize; h++) {
          a += weights[outAt + h] * activation[h];
          b += weights[outAt + hiddenSize + 1 + h] * activation[h];
        }
        const pa = 1 / (1 + Math.exp(-a));
        const pb = 1 / (1 + Math.exp(-b));
        loss -= sounding * Math.log(pa + 1e-9) + (1 - sounding) * Math.log(1 - pa + 1e-9);
        loss -= options.onsetWeight * (onset * Math.log(pb + 1e-9) + (1 - onset) * Math.log(1 - pb + 1e-9));
        const da = pa - sounding;
        const db = (pb - onset) * options.onsetWeight;
        gradient[outAt + hiddenSize] += da;
        gradient[outAt + 2 * hiddenSize + 1] += db;
        for (let h = 0; h < hiddenSize; h++) {
          if (activation[h] <= 0) continue;
          gradient[outAt + h] += da * activation[h];
          gradient[outAt + hiddenSize + 1 + h] += db * activation[h];
          const dh = da * weights[outAt + h] + db * weights[outAt + hiddenSize + 1 + h];
          const at = h * row;
          for (let i = 0; i < INPUTS; i++) gradient[at + i] += dh * input[i];
          gradient[at + INPUTS] += dh;
        }
      }
      step++;
      const rate = 0.002 * (0.5 + 0.5 * Math.cos((Math.PI * step) / totalSteps)) * Math.min(1, step / 200);
      const fixFirst = 1 - 0.9 ** step;
      const fixSecond = 1 - 0.999 ** step;
      for (let k = 0; k < size; k++) {
        const g = gradient[k] / (end - start);
        first[k] = 0.9 * first[k] + 0.1 * g;
        second[k] = 0.999 * second[k] + 0.001 * g * g;
        weights[k] -=
          rate * (first[k] / fixFirst / (Math.sqrt(second[k] / fixSecond) + 1e-8) + 1e-4 * weights[k]);
      }
    }
    report(`epoch ${epoch + 1}/${epochs}: loss ${(loss / examples.length).toFixed(4)}`);
  }
  return {
    hiddenSize,
    hidden: Float32Array.from(weights.subarray(0, outAt)),
    output: Float32Array.from(weights.subarray(outAt)),
  };
}
