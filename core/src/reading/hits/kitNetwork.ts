/**
 * Which drums are struck at each stroke, in the light of all others: strokes of one drum sound alike, and what a drum is called depends on
 * what else there is. Each stroke looks at all strokes around it and takes from those that matter (attention without order, over a set: Vaswani et
 * al. 2017, "Attention is all you need"; Lee et al. 2019, "Set transformer"), twice; what the networks of frames said is where it starts from.
 * Trained by training/train_kits.py.
 */
import { HIT_KINDS } from '../../theory/index.ts';
import { storedWeights } from '../storedWeights.ts';
import weights from './kitWeights.json' with { type: 'json' };
import { STROKE_INPUTS } from './strokes.ts';

/** 8-bit whole numbers in base64, [input][output], times the scale. */
interface StoredLayer {
  weights: string;
  scale: number;
  bias: number[];
}

interface StoredNetwork {
  first: StoredLayer;
  blocks: Record<'query' | 'key' | 'value' | 'taken' | 'wide' | 'narrow', StoredLayer>[];
  last: StoredLayer;
}

/** Several networks, the mean of whose logits counts. */
export interface StoredKitNetworks {
  heads: number;
  /** What the networks of frames said comes first among the inputs, and is this many times smaller than log odds. */
  startingScale: number;
  networks: StoredNetwork[];
}

interface Layer {
  weights: Float32Array;
  bias: Float32Array;
}

type Block = Record<keyof StoredNetwork['blocks'][number], Layer>;

interface Network {
  first: Layer;
  blocks: Block[];
  last: Layer;
}

/** In long recordings so many strokes are judged at a time, in the light of half as many before and behind them too. */
const STROKES_AT_ONCE = 256;
const LEAST_SQUARE = 1e-5;

/** A probability for each stroke and kind, strokes × kinds, from strokes × {@link STROKE_INPUTS}. */
export const drumsOfStrokes = createKitNetwork(weights);

/** Unpacks the networks at their first use. */
export function createKitNetwork(
  stored: StoredKitNetworks,
  atOnce = STROKES_AT_ONCE,
): (inputs: Float32Array) => Float32Array {
  let networks: Network[] | undefined;
  const kinds = HIT_KINDS.length;
  return (inputs) => {
    networks ??= stored.networks.map(unpackNetwork);
    const count = inputs.length / STROKE_INPUTS;
    const result = new Float32Array(count * kinds);
    for (let from = 0; from < count; from += atOnce) {
      const begin = Math.max(0, from - atOnce / 2);
      const end = Math.min(count, from + (3 * atOnce) / 2);
      const heard = inputs.subarray(begin * STROKE_INPUTS, end * STROKE_INPUTS);
      const said = networks.map((network) => logitsOf(network, heard, stored.heads));
      for (let stroke = from; stroke < Math.min(count, from + atOnce); stroke++)
        for (let kind = 0; kind < kinds; kind++) {
          const change =
            said.reduce((sum, logits) => sum + logits[(stroke - begin) * kinds + kind], 0) / said.length;
          const logit = change + stored.startingScale * inputs[stroke * STROKE_INPUTS + kind];
          result[stroke * kinds + kind] = 1 / (1 + Math.exp(-logit));
        }
    }
    return result;
  };
}

/** What is to be added to the logits of the networks of frames. */
function logitsOf({ first, blocks, last }: Network, inputs: Float32Array, heads: number): Float32Array {
  const width = first.bias.length;
  let x: Float32Array = apply(first, inputs).map(positive);
  for (const block of blocks) x = through(block, x, width, heads);
  return apply(last, normalized(x, width));
}

const positive = (value: number) => Math.max(0, value);

/** Takes from other strokes, then thinks about it; both are added to what there was. */
function through(block: Block, x: Float32Array, width: number, heads: number): Float32Array {
  const looked = normalized(x, width);
  const taken = attend(
    apply(block.query, looked),
    apply(block.key, looked),
    apply(block.value, looked),
    width,
    heads,
  );
  const y = sum(x, apply(block.taken, taken));
  return sum(y, apply(block.narrow, apply(block.wide, normalized(y, width)).map(positive)));
}

/** Each head takes the values of all strokes, those most whose keys are most like its query. */
function attend(
  queries: Float32Array,
  keys: Float32Array,
  values: Float32Array,
  width: number,
  heads: number,
): Float32Array {
  const count = queries.length / width;
  const size = width / heads;
  const out = new Float32Array(queries.length);
  const shares = new Float32Array(count);
  for (let head = 0; head < heads; head++)
    for (let stroke = 0; stroke < count; stroke++) {
      const at = stroke * width + head * size;
      let most = -Infinity;
      for (let other = 0; other < count; other++) {
        const to = other * width + head * size;
        let product = 0;
        for (let i = 0; i < size; i++) product += queries[at + i] * keys[to + i];
        shares[other] = product / Math.sqrt(size);
        most = Math.max(most, shares[other]);
      }
      let total = 0;
      for (let other = 0; other < count; other++) total += shares[other] = Math.exp(shares[other] - most);
      for (let other = 0; other < count; other++) {
        const to = other * width + head * size;
        const share = shares[other] / total;
        for (let i = 0; i < size; i++) out[at + i] += share * values[to + i];
      }
    }
  return out;
}

/** Rows brought to a mean square of 1 (Zhang & Sennrich 2019, "Root mean square layer normalization"). */
function normalized(x: Float32Array, width: number): Float32Array {
  const out = new Float32Array(x.length);
  for (let row = 0; row < x.length; row += width) {
    let square = 0;
    for (let i = row; i < row + width; i++) square += x[i] * x[i];
    const scale = 1 / Math.sqrt(square / width + LEAST_SQUARE);
    for (let i = row; i < row + width; i++) out[i] = x[i] * scale;
  }
  return out;
}

function apply({ weights, bias }: Layer, x: Float32Array): Float32Array {
  const columns = bias.length;
  const rows = weights.length / columns;
  const count = x.length / rows;
  const out = new Float32Array(count * columns);
  for (let t = 0; t < count; t++) {
    const to = t * columns;
    out.set(bias, to);
    for (let i = 0; i < rows; i++) {
      const value = x[t * rows + i];
      if (value !== 0) for (let k = 0; k < columns; k++) out[to + k] += value * weights[i * columns + k];
    }
  }
  return out;
}

const sum = (a: Float32Array, b: Float32Array) => a.map((value, i) => value + b[i]);

function unpackNetwork({ first, blocks, last }: StoredNetwork): Network {
  return { first: unpack(first), blocks: blocks.map(unpackBlock), last: unpack(last) };
}

function unpackBlock({ query, key, value, taken, wide, narrow }: StoredNetwork['blocks'][number]): Block {
  return {
    query: unpack(query),
    key: unpack(key),
    value: unpack(value),
    taken: unpack(taken),
    wide: unpack(wide),
    narrow: unpack(narrow),
  };
}

function unpack(stored: StoredLayer): Layer {
  return { weights: storedWeights(stored, 8), bias: Float32Array.from(stored.bias) };
}
