/**
 * How likely each kind of drum is struck in each frame, from close by: a network with two hidden layers over fifteen frames
 * around it, trained by training/train_drums.py.
 */
import { createRowFilter, MAX_FILTER_OUTPUTS } from '../../signal/index.ts';
import { HIT_KINDS } from '../../theory/index.ts';
import weights from './closeWeights.json' with { type: 'json' };
import { scaledLevel } from './hitLevels.ts';
import { BANDS } from './melFrames.ts';

/** Base64 of int8, outputs × inputs, each row times its scale. */
type StoredLayer = (typeof weights.layers)[number];

interface Layer {
  inputs: number;
  weights: Float32Array;
  bias: Float32Array;
}

/** Nine tenths of the work is in the first layer: many frames of it are computed at once. */
interface Network {
  first: Layer;
  filter: ReturnType<typeof createRowFilter>;
  rest: Layer[];
}

let network: Network | undefined;

/** Logits, frames × kinds, from the frames of {@link createMelStream}, the loudest of which reach `topDb`. */
export function closeLogits(frames: Uint8Array, topDb: number): Float32Array {
  network ??= unpack();
  const { first, filter, rest } = network;
  const count = frames.length / BANDS;
  const kinds = HIT_KINDS.length;
  const result = new Float32Array(count * kinds);
  const scale = Float32Array.from({ length: 256 }, (_, step) => scaledLevel(step, topDb));
  const hidden = first.bias.length;
  const block = Math.floor(MAX_FILTER_OUTPUTS / hidden);
  const inputs = new Float32Array(block * first.inputs);
  const firsts = Int32Array.from({ length: block * hidden }, (_, i) => Math.floor(i / hidden) * first.inputs);
  const rows = Int32Array.from({ length: block * hidden }, (_, i) => i % hidden);
  const sums = new Float32Array(block * hidden);
  const buffers = rest.map((layer) => new Float32Array(layer.bias.length));
  for (let from = 0; from < count; from += block) {
    const length = Math.min(block, count - from);
    for (let t = 0; t < length; t++) gather(frames, from + t, scale, inputs, t * first.inputs);
    filter(inputs, firsts, rows, sums.subarray(0, length * hidden));
    for (let t = 0; t < length; t++) {
      let values = sums.subarray(t * hidden, (t + 1) * hidden);
      for (let i = 0; i < hidden; i++) values[i] = Math.max(0, values[i] + first.bias[i]);
      rest.forEach((layer, i) => {
        apply(layer, values, buffers[i], i < rest.length - 1);
        values = buffers[i];
      });
      result.set(values, (from + t) * kinds);
    }
  }
  return result;
}

/** The frames around one, as the network takes them; nothing beyond the ends. */
function gather(
  frames: Uint8Array,
  frame: number,
  scale: Float32Array,
  inputs: Float32Array,
  offset: number,
): void {
  weights.around.forEach((distance, i) => {
    const at = (frame + distance) * BANDS;
    const to = offset + i * BANDS;
    if (at < 0 || at >= frames.length) inputs.fill(0, to, to + BANDS);
    else for (let band = 0; band < BANDS; band++) inputs[to + band] = scale[frames[at + band]];
  });
}

function unpack(): Network {
  const [first, ...rest] = weights.layers.map(decodeLayer);
  return { first, filter: createRowFilter(first.weights, first.inputs), rest };
}

function decodeLayer({ weights, scales, bias }: StoredLayer): Layer {
  const text = atob(weights);
  const inputs = text.length / bias.length;
  return {
    inputs,
    weights: Float32Array.from(
      { length: text.length },
      (_, i) => ((text.charCodeAt(i) << 24) >> 24) * scales[Math.floor(i / inputs)],
    ),
    bias: Float32Array.from(bias),
  };
}

/** Four sums at a time, which keeps the processor busy. */
function apply(
  { inputs, weights, bias }: Layer,
  values: Float32Array,
  out: Float32Array,
  cut: boolean,
): void {
  for (let row = 0; row < out.length; row++) {
    const at = row * inputs;
    let a = bias[row];
    let b = 0;
    let c = 0;
    let d = 0;
    for (let i = 0; i < inputs; i += 4) {
      a += weights[at + i] * values[i];
      b += weights[at + i + 1] * values[i + 1];
      c += weights[at + i + 2] * values[i + 2];
      d += weights[at + i + 3] * values[i + 3];
    }
    const sum = a + b + c + d;
    out[row] = cut && sum < 0 ? 0 : sum;
  }
}
