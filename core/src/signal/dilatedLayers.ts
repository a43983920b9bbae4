import { createSignalKernel } from './signalKernel.ts';

/** A convolution over frames with three taps. */
export interface DilatedLayer {
  /** As [tap][input][output]. */
  weights: Float32Array;
  /** One for each output. */
  bias: ArrayLike<number>;
  /** Frames between the taps. */
  dilation: number;
}

const TAPS = 3;
/** So many frames are computed at a time. */
const BLOCK = 512;
/** The kernel computes eight outputs and four frames at once. */
const OUTPUTS_AT_ONCE = 8;
const FRAMES_AT_ONCE = 4;

/** Takes the place of a layer and frames × inputs; gives frames × outputs, nothing below zero. Silence lies beyond the ends. */
export type DilatedLayers = (layer: number, x: Float32Array) => Float32Array;

/** Layers that share one kernel. */
export function createDilatedLayers(layers: readonly DilatedLayer[]): DilatedLayers {
  const shapes = layers.map(({ weights, bias, dilation }) => {
    const outputs = bias.length;
    const inputs = weights.length / TAPS / outputs;
    const padded = Math.ceil(outputs / OUTPUTS_AT_ONCE) * OUTPUTS_AT_ONCE;
    return { inputs, outputs, padded, dilation, rows: BLOCK + 2 * dilation + FRAMES_AT_ONCE };
  });
  const mostIn = Math.max(...shapes.map(({ inputs, rows }) => inputs * rows));
  const mostOut = Math.max(...shapes.map(({ padded }) => padded * (BLOCK + FRAMES_AT_ONCE)));
  const tables = shapes.map(({ inputs, padded }) => padded * (TAPS * inputs + 1));
  const kernel = createSignalKernel(mostIn + mostOut + tables.reduce((sum, count) => sum + count, 0));
  const { memory, place } = kernel;
  const at = { x: place(mostIn), y: place(mostOut) };
  const placed = layers.map((layer, i) => {
    const { inputs, padded } = shapes[i];
    const weights = place(TAPS * inputs * padded);
    const bias = place(padded);
    new Float32Array(memory.buffer, bias, padded).set(layer.bias);
    fillTable(new Float32Array(memory.buffer, weights, TAPS * inputs * padded), layer.weights, shapes[i]);
    return { weights, bias };
  });
  const xs = new Float32Array(memory.buffer, at.x, mostIn);
  const ys = new Float32Array(memory.buffer, at.y, mostOut);
  return (layer, x) => {
    const { inputs, outputs, padded, dilation } = shapes[layer];
    const frames = x.length / inputs;
    const y = new Float32Array(frames * outputs);
    for (let from = 0; from < frames; from += BLOCK) {
      const count = Math.min(BLOCK, frames - from);
      const first = Math.max(0, from - dilation);
      const last = Math.min(frames, from + count + dilation);
      const before = (first - from + dilation) * inputs;
      xs.fill(0, 0, before);
      xs.set(x.subarray(first * inputs, last * inputs), before);
      xs.fill(0, before + (last - first) * inputs, (count + 2 * dilation + FRAMES_AT_ONCE) * inputs);
      const apart = Float32Array.BYTES_PER_ELEMENT * dilation * inputs;
      const { weights, bias } = placed[layer];
      kernel.convolveRows(at.x + apart, inputs, apart, weights, bias, at.y, padded, count);
      for (let t = 0; t < count; t++)
        for (let o = 0; o < outputs; o++) y[(from + t) * outputs + o] = ys[t * padded + o];
    }
    return y;
  };
}

/** [tap][input][output] as [eight outputs][tap][input][output], zeros behind the last output. */
function fillTable(
  table: Float32Array,
  weights: Float32Array,
  { inputs, outputs }: { inputs: number; outputs: number },
): void {
  const rows = TAPS * inputs;
  for (let o = 0; o < outputs; o++) {
    const group = Math.floor(o / OUTPUTS_AT_ONCE) * rows * OUTPUTS_AT_ONCE;
    for (let row = 0; row < rows; row++)
      table[group + row * OUTPUTS_AT_ONCE + (o % OUTPUTS_AT_ONCE)] = weights[row * outputs + o];
  }
}
