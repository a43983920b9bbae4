/** How likely each kind of drum is struck in each frame: a network with two hidden layers over frames around it. */
import { clamp, quantile } from '../../signal/index.ts';
import { HIT_KINDS } from '../../theory/index.ts';
import { BANDS, FLOOR_DB, STEP_DB } from './melFrames.ts';

export interface HitWeights {
  /** Distances in frames of those that are looked at. */
  around: number[];
  kinds: string[];
  /** Base64 of int8, outputs × inputs, each row times its scale. */
  layers: { weights: string; scales: number[]; bias: number[] }[];
}

/** Levels are scaled to 0–1 over this range below the loudest frames, and reach a little above them. */
const RANGE_DB = 70;
const MOST = 1.15;
const TOP_QUANTILE = 0.99;
/** What never gets louder than this in any band is silence. */
const SILENCE_DB = -90;

interface Layer {
  inputs: number;
  weights: Float32Array;
  bias: Float32Array;
}

/** Probabilities, frames × kinds, from the frames of {@link createMelStream}. */
export function hitProbabilities(frames: Uint8Array, description: HitWeights): Float32Array {
  const count = frames.length / BANDS;
  const kinds = HIT_KINDS.length;
  const result = new Float32Array(count * kinds);
  const topDb = loudestDb(frames);
  if (topDb < SILENCE_DB) return result;
  const scale = Float32Array.from({ length: 256 }, (_, step) =>
    clamp(1 + (FLOOR_DB + STEP_DB * step - topDb) / RANGE_DB, 0, MOST),
  );
  const layers = description.layers.map(decodeLayer);
  const { around } = description;
  const input = new Float32Array(around.length * BANDS);
  const buffers = layers.map((layer) => new Float32Array(layer.bias.length));
  for (let frame = 0; frame < count; frame++) {
    around.forEach((distance, i) => {
      const at = (frame + distance) * BANDS;
      const outside = at < 0 || at >= frames.length;
      for (let band = 0; band < BANDS; band++)
        input[i * BANDS + band] = outside ? 0 : scale[frames[at + band]];
    });
    let values = input;
    layers.forEach((layer, i) => {
      apply(layer, values, buffers[i], i < layers.length - 1);
      values = buffers[i];
    });
    for (let kind = 0; kind < kinds; kind++) result[frame * kinds + kind] = 1 / (1 + Math.exp(-values[kind]));
  }
  return result;
}

function loudestDb(frames: Uint8Array): number {
  const count = frames.length / BANDS;
  if (count === 0) return -Infinity;
  const maxima = new Float32Array(count);
  for (let frame = 0; frame < count; frame++)
    for (let i = frame * BANDS; i < (frame + 1) * BANDS; i++)
      if (frames[i] > maxima[frame]) maxima[frame] = frames[i];
  return FLOOR_DB + STEP_DB * quantile(maxima, TOP_QUANTILE);
}

function decodeLayer({ weights, scales, bias }: HitWeights['layers'][number]): Layer {
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
