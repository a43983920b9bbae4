/**
 * Fits the confidence of notes of chordal recordings on the check clips: `npx tsx bench/src/training/fitNoteConfidence.ts
 * [rounds] [cache]` writes core/src/reading/chordal/confidenceWeights.json. Mini-batch Adam (Kingma & Ba 2015) on
 * cross-entropy, seeded. Printed first: how it does on families that it was not fitted on, each left out in turn.
 * `cache` keeps the inputs, which take the time.
 */
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { deserialize, serialize } from 'node:v8';
import { createChordalReader, DEFAULT_SENSITIVITY, HOP_SECONDS } from '@plundra/core/reading';
import {
  confidenceOf,
  contextOf,
  findNotes,
  LOWEST_KEY,
  type ConfidenceWeights,
} from '@plundra/core/reading/training';
import { createRandom } from '@plundra/core/signal';
import { chordalClips } from '../chordal/clips.ts';
import { matchNotes } from '../metrics.ts';

interface Row {
  family: string;
  inputs: Float32Array;
  right: 0 | 1;
}

const HIDDEN = 6;
const EPOCHS = 40;
const BATCH = 256;
const RATE = 0.01;
const RIDGE = 1e-3;

const rounds = Number(process.argv[2] ?? 24);
const cache = process.argv[3];
const rows = cache && existsSync(cache) ? (deserialize(readFileSync(cache)) as Row[]) : await gather();
if (cache) writeFileSync(cache, serialize(rows));

let loss = 0;
for (const family of new Set(rows.map((row) => row.family))) {
  const weights = fit(rows.filter((row) => row.family !== family));
  for (const { inputs, right } of rows.filter((row) => row.family === family))
    loss -= Math.log(Math.abs(1 - right - confidenceOf(inputs, weights)) + 1e-9);
}
console.log(`${rows.length} notes; left out: loss ${(loss / rows.length).toFixed(4)}`);

const rounded = (values: number[]) => values.map((value) => Number(value.toPrecision(5)));
const { mean, deviation, hidden, output } = fit(rows);
writeFileSync(
  new URL('../../../core/src/reading/chordal/confidenceWeights.json', import.meta.url),
  `${JSON.stringify({ mean: rounded(mean), deviation: rounded(deviation), hidden: hidden.map(rounded), output: rounded(output) }, null, 2)}\n`,
);

async function gather(): Promise<Row[]> {
  const gathered: Row[] = [];
  for await (const clip of chordalClips('check', rounds)) {
    const reader = createChordalReader(clip.sampleRateHz);
    reader.push(clip.samples);
    const activations = reader.finish();
    const found = findNotes(activations, DEFAULT_SENSITIVITY);
    const notes = found.map(({ key, startFrame, endFrame }) => ({
      startSeconds: startFrame * HOP_SECONDS,
      endSeconds: endFrame * HOP_SECONDS,
      midi: LOWEST_KEY + key + activations.tuningCents / 100,
    }));
    const right = new Set(matchNotes(clip.notes, notes).map(([, estimate]) => estimate));
    contextOf(found).forEach((inputs, i) =>
      gathered.push({ family: clip.name, inputs, right: right.has(i) ? 1 : 0 }),
    );
    process.stderr.write('.');
  }
  return gathered;
}

function fit(examples: readonly Row[]): ConfidenceWeights {
  const count = examples[0].inputs.length;
  const columns = Array.from({ length: count }, (_, i) => examples.map(({ inputs }) => inputs[i]));
  const meanOf = (values: number[]) => values.reduce((sum, value) => sum + value, 0) / values.length;
  const mean = columns.map(meanOf);
  const deviation = columns.map(
    (values, i) => Math.sqrt(meanOf(values.map((value) => (value - mean[i]) ** 2))) || 1,
  );
  const scaled = examples.map(({ inputs }) =>
    Float64Array.from(inputs, (value, i) => (value - mean[i]) / deviation[i]),
  );
  const row = count + 1;
  const outputAt = HIDDEN * row;
  const random = createRandom(1);
  const weights = Float64Array.from({ length: outputAt + HIDDEN + 1 }, () => 0.6 * (random() - 0.5));
  const [gradient, first, second] = [0, 1, 2].map(() => new Float64Array(weights.length));
  const activation = new Float64Array(HIDDEN);
  const order = scaled.map((_, i) => i);
  const steps = EPOCHS * Math.ceil(order.length / BATCH);
  let step = 0;
  for (let epoch = 0; epoch < EPOCHS; epoch++) {
    for (let i = order.length - 1; i > 0; i--) {
      const j = Math.floor(random() * (i + 1));
      [order[i], order[j]] = [order[j], order[i]];
    }
    for (let from = 0; from < order.length; from += BATCH) {
      const batch = order.slice(from, from + BATCH);
      for (let i = 0; i < weights.length; i++) gradient[i] = RIDGE * weights[i];
      for (const index of batch) {
        const inputs = scaled[index];
        let sum = weights[outputAt + HIDDEN];
        for (let unit = 0; unit < HIDDEN; unit++) {
          let value = weights[unit * row + count];
          for (let i = 0; i < count; i++) value += weights[unit * row + i] * inputs[i];
          activation[unit] = Math.tanh(value);
          sum += weights[outputAt + unit] * activation[unit];
        }
        const error = (1 / (1 + Math.exp(-sum)) - examples[index].right) / batch.length;
        gradient[outputAt + HIDDEN] += error;
        for (let unit = 0; unit < HIDDEN; unit++) {
          gradient[outputAt + unit] += error * activation[unit];
          const slope = error * weights[outputAt + unit] * (1 - activation[unit] ** 2);
          for (let i = 0; i < count; i++) gradient[unit * row + i] += slope * inputs[i];
          gradient[unit * row + count] += slope;
        }
      }
      step++;
      const rate = RATE * (0.5 + 0.5 * Math.cos((Math.PI * step) / steps));
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
    hidden: Array.from({ length: HIDDEN }, (_, unit) => [...weights.subarray(unit * row, (unit + 1) * row)]),
    output: [...weights.subarray(outputAt)],
  };
}
