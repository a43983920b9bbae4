/**
 * Residual dilated convolutions over frames (temporal convolutional networks: Bai, Kolter & Koltun 2018), as the programs in
 * training/ train them. The first layer takes the inputs, the following add to their own input, the last gives one logit an output.
 */

import { createRowFilter, MAX_FILTER_OUTPUTS } from '../signal/index.ts';

/** A trained network as stored: 16-bit whole numbers in base64, each layer with its scale. */
export interface StoredNetwork {
  inputs: number;
  channels: number;
  /** Frames between the three taps of each layer but the last. */
  dilations: number[];
  /** Weights as [tap][input][output]. */
  layers: { weights: string; scale: number; bias: number[] }[];
}

type RowFilter = ReturnType<typeof createRowFilter>;

/** A convolution: rows of `filter` from `firstRow` on hold the weights of each output, taps after one another. */
interface Layer {
  filter: RowFilter;
  firstRow: number;
  bias: Float32Array;
}

interface Network {
  layers: Layer[];
  /** Weights of the last layer as [channel][output]. */
  head: { weights: Float32Array; bias: Float32Array };
}

const TAPS = 3;

/**
 * Unpacks a network at its first use. It takes frames × inputs values and gives for each output the probabilities, 0–1, of all
 * frames.
 */
export function createDilatedNetwork(stored: StoredNetwork): (features: Float32Array) => Float32Array[] {
  let network: Network | undefined;
  return (features) => {
    network ??= unpack(stored);
    const frames = features.length / stored.inputs;
    const { channels, dilations } = stored;
    let x = features;
    for (const [i, dilation] of dilations.entries()) {
      const y = convolved(x, frames, i === 0 ? stored.inputs : channels, dilation, network.layers[i]);
      if (i > 0) for (let k = 0; k < y.length; k++) y[k] += x[k];
      x = y;
    }
    return outputsOf(x, frames, channels, network.head);
  };
}

function unpack({ inputs, channels, layers }: StoredNetwork): Network {
  const weights = layers.map(weightsOf);
  const first = createRowFilter(byOutput(weights[0], channels), TAPS * inputs);
  // All others are as wide as each other, and share the kernel's memory.
  const rest = weights.slice(1, -1).map((each) => byOutput(each, channels));
  const table = new Float32Array(rest.length * channels * TAPS * channels);
  rest.forEach((each, i) => table.set(each, i * channels * TAPS * channels));
  const others = createRowFilter(table, TAPS * channels);
  return {
    layers: layers.slice(0, -1).map(({ bias }, i) => ({
      filter: i === 0 ? first : others,
      firstRow: i === 0 ? 0 : (i - 1) * channels,
      bias: Float32Array.from(bias),
    })),
    head: { weights: weights[weights.length - 1], bias: Float32Array.from(layers[layers.length - 1].bias) },
  };
}

function weightsOf({ weights, scale }: StoredNetwork['layers'][number]): Float32Array {
  const bytes = Uint8Array.from(atob(weights), (char) => char.charCodeAt(0));
  const view = new DataView(bytes.buffer);
  return Float32Array.from({ length: bytes.length / 2 }, (_, i) => view.getInt16(2 * i, true) * scale);
}

/** [tap][input][output] as [output][tap][input]. */
function byOutput(weights: Float32Array, outputs: number): Float32Array {
  const columns = weights.length / outputs;
  return Float32Array.from(weights, (_, i) => weights[(i % columns) * outputs + Math.floor(i / columns)]);
}

function outputsOf(
  x: Float32Array,
  frames: number,
  channels: number,
  { weights, bias }: Network['head'],
): Float32Array[] {
  const outputs = bias.length;
  const out = Array.from({ length: outputs }, () => new Float32Array(frames));
  for (let t = 0; t < frames; t++)
    for (let k = 0; k < outputs; k++) {
      let sum = bias[k];
      for (let c = 0; c < channels; c++) sum += x[t * channels + c] * weights[outputs * c + k];
      out[k][t] = 1 / (1 + Math.exp(-sum));
    }
  return out;
}

/** Three taps `dilation` frames apart, zeros beyond the ends, and nothing below zero. */
function convolved(
  x: Float32Array,
  frames: number,
  inputs: number,
  dilation: number,
  { filter, firstRow, bias }: Layer,
): Float32Array {
  const outputs = bias.length;
  const columns = TAPS * inputs;
  const y = new Float32Array(frames * outputs);
  const block = Math.floor(MAX_FILTER_OUTPUTS / outputs);
  const gathered = new Float32Array(block * columns);
  const firsts = Int32Array.from({ length: block * outputs }, (_, i) => Math.floor(i / outputs) * columns);
  const rows = Int32Array.from({ length: block * outputs }, (_, i) => firstRow + (i % outputs));
  for (let from = 0; from < frames; from += block) {
    const count = Math.min(block, frames - from);
    let k = 0;
    for (let t = from; t < from + count; t++)
      for (let tap = 0; tap < TAPS; tap++) {
        const at = t + (tap - 1) * dilation;
        const inside = at >= 0 && at < frames;
        for (let i = 0; i < inputs; i++) gathered[k++] = inside ? x[at * inputs + i] : 0;
      }
    filter(
      gathered.subarray(0, k),
      firsts.subarray(0, count * outputs),
      rows.subarray(0, count * outputs),
      y.subarray(from * outputs, (from + count) * outputs),
    );
  }
  for (let t = 0; t < frames; t++)
    for (let o = 0; o < outputs; o++) {
      const value = y[t * outputs + o] + bias[o];
      y[t * outputs + o] = value > 0 ? value : 0;
    }
  return y;
}
