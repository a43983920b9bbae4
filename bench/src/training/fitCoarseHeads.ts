/**
 * Fits the heads of the note network for every other frame: `npx tsx bench/src/training/fitCoarseHeads.ts [rounds]` writes
 * `coarseHeads` into core/src/reading/chordal/networkWeights.json. Logistic regression of what the whole network says of a
 * frame on what its last block holds two and four frames around it.
 */
import { readFileSync, writeFileSync } from 'node:fs';
import {
  createNetwork,
  fillInput,
  HEADS,
  networkInput,
  networkWeights,
  type LayerWeights,
  type NetworkInput,
} from '@plundra/core/reading';
import { createRandom } from '@plundra/core/signal';
import { chordClips } from '../chords/clips.ts';

const KEYS = 88;
const CHANNELS = 24;
const TAPS = 5;
const APART = 2;
const INPUTS = TAPS * CHANNELS;
const SIZE = (INPUTS + 1) * HEADS;
/** Of rows in which nothing sounds this share is looked at, and each counts for as many. */
const QUIET_SHARE = 0.05;
const FAINT = 0.02;
const EPOCHS = 24;
const BATCH = 256;
const RATE = 2e-3;

interface Rows {
  inputs: Float32Array[];
  wanted: Float32Array[];
  weights: number[];
}

const rounds = Number(process.argv[2] ?? 3);
const path = new URL('../../../core/src/reading/chordal/networkWeights.json', import.meta.url);
const description = networkWeights();
const random = createRandom(17);
const rows = await gather();
process.stderr.write(`${rows.inputs.length} rows\n`);
const coarseHeads = wholeNumbers(fit(rows));
writeFileSync(path, `${JSON.stringify({ ...JSON.parse(readFileSync(path, 'utf8')), coarseHeads })}\n`);

async function gather(): Promise<Rows> {
  const gathered: Rows = { inputs: [], wanted: [], weights: [] };
  for await (const { samples } of chordClips('tuning', rounds)) {
    const input = networkInput(samples);
    const whole = headsOf(input, description.heads);
    const channels = Array.from({ length: CHANNELS / HEADS }, (_, i) => headsOf(input, selecting(i * HEADS)));
    const reach = ((TAPS - 1) / 2) * APART;
    for (let frame = reach; frame < input.frames - reach; frame += 2) {
      for (let key = 0; key < KEYS; key++) {
        const at = (frame * KEYS + key) * HEADS;
        const wanted = Float32Array.from(whole.subarray(at, at + HEADS), logistic);
        const quiet = wanted.every((value) => value < FAINT);
        if (quiet && random() > QUIET_SHARE) continue;
        const inputs = new Float32Array(INPUTS);
        for (let tap = 0; tap < TAPS; tap++)
          channels.forEach((plane, group) => {
            const from = ((frame - reach + tap * APART) * KEYS + key) * HEADS;
            inputs.set(plane.subarray(from, from + HEADS), tap * CHANNELS + group * HEADS);
          });
        gathered.inputs.push(inputs);
        gathered.wanted.push(wanted);
        gathered.weights.push(quiet ? 1 / QUIET_SHARE : 1);
      }
    }
    process.stderr.write('.');
  }
  return gathered;
}

function headsOf({ frames, maps, scale }: NetworkInput, heads: LayerWeights): Float32Array {
  const out = new Float32Array(frames * KEYS * HEADS);
  createNetwork({ ...description, heads }).run(
    frames,
    (frame, into) => fillInput(maps, scale!, frame, into),
    (first, logits) => out.set(logits, first * KEYS * HEADS),
  );
  return out;
}

/** Heads that let four channels from `first` on through. */
function selecting(first: number): LayerWeights {
  const weights = new Int8Array(CHANNELS * HEADS);
  for (let head = 0; head < HEADS; head++) weights[(first + head) * HEADS + head] = 1;
  return {
    size: [1, 1],
    apart: [1, 1],
    weights: Buffer.from(weights.buffer).toString('base64'),
    scales: new Array<number>(HEADS).fill(1),
    bias: new Array<number>(HEADS).fill(0),
  };
}

/** Weights as [input][head], biases last. */
function fit({ inputs, wanted, weights }: Rows): Float64Array {
  const values = startingWeights();
  const momentum = new Float64Array(SIZE);
  const square = new Float64Array(SIZE);
  const order = inputs.map((_, i) => i);
  const steps = Math.ceil(order.length / BATCH) * EPOCHS;
  let step = 0;
  for (let epoch = 0; epoch < EPOCHS; epoch++) {
    for (let i = order.length - 1; i > 0; i--) {
      const j = Math.floor(random() * (i + 1));
      [order[i], order[j]] = [order[j], order[i]];
    }
    let loss = 0;
    for (let from = 0; from < order.length; from += BATCH) {
      const gradient = new Float64Array(SIZE);
      const batch = order.slice(from, from + BATCH);
      const total = batch.reduce((sum, row) => sum + weights[row], 0);
      for (const row of batch) {
        for (let head = 0; head < HEADS; head++) {
          let logit = values[INPUTS * HEADS + head];
          for (let i = 0; i < INPUTS; i++) logit += values[i * HEADS + head] * inputs[row][i];
          const said = logistic(logit);
          const truth = wanted[row][head];
          loss -=
            (weights[row] * (truth * Math.log(said + 1e-9) + (1 - truth) * Math.log(1 - said + 1e-9))) /
            order.length;
          const error = (weights[row] * (said - truth)) / total;
          gradient[INPUTS * HEADS + head] += error;
          for (let i = 0; i < INPUTS; i++) gradient[i * HEADS + head] += error * inputs[row][i];
        }
      }
      step++;
      const rate = RATE * (0.5 + 0.5 * Math.cos((Math.PI * step) / steps));
      for (let i = 0; i < SIZE; i++) {
        momentum[i] = 0.9 * momentum[i] + 0.1 * gradient[i];
        square[i] = 0.99 * square[i] + 0.01 * gradient[i] ** 2;
        values[i] -=
          (rate * (momentum[i] / (1 - 0.9 ** step))) / (Math.sqrt(square[i] / (1 - 0.99 ** step)) + 1e-8);
      }
    }
    process.stderr.write(`epoch ${epoch + 1}: ${loss.toFixed(5)}\n`);
  }
  return values;
}

/** The heads for every frame: what they see a frame before and after is seen where the nearest taps are. */
function startingWeights(): Float64Array {
  const { weights, scales, bias } = description.heads;
  const whole = new Int8Array(Buffer.from(weights, 'base64'));
  const values = new Float64Array(SIZE);
  for (let tap = 0; tap < 3; tap++)
    for (let i = 0; i < CHANNELS * HEADS; i++)
      values[(tap + 1) * CHANNELS * HEADS + i] += whole[tap * CHANNELS * HEADS + i] * scales[i % HEADS];
  for (let head = 0; head < HEADS; head++) values[INPUTS * HEADS + head] = bias[head];
  return values;
}

/** Eight bits with a scale for each head. */
function wholeNumbers(values: Float64Array): LayerWeights {
  const heads = Array.from({ length: HEADS }, (_, head) => head);
  const scales = heads.map((head) => {
    let most = 1e-9;
    for (let i = 0; i < INPUTS; i++) most = Math.max(most, Math.abs(values[i * HEADS + head]));
    return Number((most / 127).toPrecision(7));
  });
  const whole = Int8Array.from({ length: INPUTS * HEADS }, (_, i) =>
    Math.round(values[i] / scales[i % HEADS]),
  );
  return {
    size: [TAPS, 1],
    apart: [APART, 1],
    weights: Buffer.from(whole.buffer).toString('base64'),
    scales,
    bias: heads.map((head) => Number(values[INPUTS * HEADS + head].toFixed(5))),
  };
}

function logistic(x: number): number {
  return 1 / (1 + Math.exp(-x));
}
