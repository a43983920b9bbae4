/**
 * Runs the network of the chordal reader: harmonic stacking (Bittner et al. 2017) and residual convolutions over
 * frames × 88 keys, layer for layer as in training/network.py, in single-threaded SIMD WebAssembly.
 */
import { BINS } from './frontEnd.ts';
import { createKernel, type Kernel } from './kernel.ts';

export const KEYS = 88;
/** MIDI note of key 0. */
export const LOWEST_KEY = 21;
const CHANNELS = 24;
const FINE_BINS = 3 * KEYS;
/** Keys of silence on either side: no tap reaches further. */
const KEY_MARGIN = 24;
const ROW_KEYS = KEYS + 2 * KEY_MARGIN;
/** No tap reaches further in time. */
const FRAME_MARGIN = 16;
const FIRST_BINS = 5;
const FLOAT = 4;
/** Output frames of one pass; memory and the share of work done twice depend on it. */
const PASS_FRAMES = 512;

/** A convolution: weights as [frame][key][input][output], whole numbers times a scale for each output. */
export interface LayerWeights {
  /** Taps over frames and keys, and how far these lie apart. */
  size: [frames: number, keys: number];
  apart: [frames: number, keys: number];
  /** Base64 of int8. */
  weights: string;
  scales: number[];
  /** One for each output, or for each key and output. */
  bias: number[];
}

export interface NetworkWeights {
  /** Multiples of the fundamental at which map A and map B are looked at. */
  harmonics: [a: number[], b: number[]];
  first: LayerWeights;
  blocks: LayerWeights[];
  heads: LayerWeights;
}

/** What the network says of each frame and key. */
export const HEADS = 4;

export interface Network {
  /**
   * @param maps 0–1, frames × 2 × {@link BINS}
   * @param emit gets logits frames × 88 × 4 (onset, active, velocity, offset) of frames from `firstFrame` on; the
   * array is used again
   */
  run(
    frames: number,
    maps: (frame: number, out: Float32Array) => void,
    emit: (firstFrame: number, logits: Float32Array) => void,
  ): void;
}

interface Placed {
  taps: number;
  tapCount: number;
  weights: number;
  bias: number;
}

export function createNetwork(description: NetworkWeights): Network {
  const kernel = createKernel();
  const shifts = description.harmonics.flatMap((harmonics, map) =>
    harmonics.map((harmonic) => ({ map, bins: Math.round(36 * Math.log2(harmonic)) })),
  );
  const firstInputs = shifts.length * FIRST_BINS;
  const reach = [description.first, ...description.blocks, description.heads].reduce(
    (sum, { size, apart }) => sum + ((size[0] - 1) / 2) * apart[0],
    0,
  );
  const workFrames = PASS_FRAMES + 2 * reach;
  const stackFrame = KEYS * firstInputs * FLOAT;
  const frameBytes = ROW_KEYS * CHANNELS * FLOAT;

  const place = (layer: LayerWeights, inputs: number, outputs: number, frame: number, key: number): Placed =>
    placeLayer(kernel, layer, inputs, outputs, frame, key);
  // The first layer finds the five bins of a key side by side; only frames are taps.
  const first = place(description.first, firstInputs, CHANNELS, stackFrame, 0);
  const blocks = description.blocks.map((layer) =>
    place(layer, CHANNELS, CHANNELS, frameBytes, CHANNELS * FLOAT),
  );
  const heads = place(description.heads, CHANNELS, HEADS, frameBytes, CHANNELS * FLOAT);
  const stack = kernel.allocate((workFrames + 2 * FRAME_MARGIN) * stackFrame);
  const planes = [0, 1].map(() => kernel.allocate((workFrames + 2 * FRAME_MARGIN) * frameBytes));
  const logits = kernel.allocate(PASS_FRAMES * KEYS * HEADS * FLOAT);
  const memory = kernel.floats();
  const map = new Float32Array(2 * BINS);
  const gather = gatherOrder(shifts);
  const inner = FRAME_MARGIN * frameBytes + KEY_MARGIN * CHANNELS * FLOAT;

  /** Silence around what is computed, so that taps find zeros beyond the ends of the recording. */
  const clearMargins = (start: number, bytes: number, frames: number) => {
    memory.fill(0, start / FLOAT, (start + FRAME_MARGIN * bytes) / FLOAT);
    const after = start + (FRAME_MARGIN + frames) * bytes;
    memory.fill(0, after / FLOAT, (after + FRAME_MARGIN * bytes) / FLOAT);
  };

  return {
    run(frames, maps, emit) {
      for (let from = 0; from < frames; from += PASS_FRAMES) {
        const to = Math.min(frames, from + PASS_FRAMES);
        const workFrom = Math.max(0, from - reach);
        const count = Math.min(frames, to + reach) - workFrom;
        clearMargins(stack, stackFrame, count);
        planes.forEach((plane) => clearMargins(plane, frameBytes, count));
        for (let frame = 0; frame < count; frame++) {
          maps(workFrom + frame, map);
          const at = (stack + (FRAME_MARGIN + frame) * stackFrame) / FLOAT;
          for (let i = 0; i < gather.length; i++) memory[at + i] = gather[i] < 0 ? 0 : map[gather[i]];
        }
        kernel.convolve24(
          { at: stack + FRAME_MARGIN * stackFrame, frameBytes: stackFrame, keyBytes: firstInputs * FLOAT },
          first,
          firstInputs,
          { at: planes[0] + inner, frameBytes },
          0,
          count,
          KEYS,
        );
        let [input, output] = planes;
        for (const block of blocks) {
          kernel.convolve24(
            { at: input + inner, frameBytes, keyBytes: CHANNELS * FLOAT },
            block,
            CHANNELS,
            { at: output + inner, frameBytes },
            input + inner,
            count,
            KEYS,
          );
          [input, output] = [output, input];
        }
        kernel.convolve4(
          {
            at: input + inner + (from - workFrom) * frameBytes,
            frameBytes,
            keyBytes: CHANNELS * FLOAT,
          },
          heads,
          CHANNELS,
          logits,
          to - from,
          KEYS,
        );
        const start = logits / FLOAT;
        emit(from, memory.subarray(start, start + (to - from) * KEYS * HEADS));
      }
    },
  };
}

/**
 * For every key, plane and bin of the first layer the place in the maps, −1 for silence. The stacked planes have
 * {@link FINE_BINS} bins; what lies beyond them is silence too, as it was in training.
 */
function gatherOrder(shifts: { map: number; bins: number }[]): Int32Array {
  const order = new Int32Array(KEYS * shifts.length * FIRST_BINS).fill(-1);
  let at = 0;
  for (let key = 0; key < KEYS; key++) {
    for (let tap = 0; tap < FIRST_BINS; tap++) {
      const fine = 3 * key + tap - 1;
      for (const { map, bins } of shifts) {
        const bin = fine + bins;
        if (fine >= 0 && fine < FINE_BINS && bin >= 0 && bin < BINS) order[at] = map * BINS + bin;
        at++;
      }
    }
  }
  return order;
}

function placeLayer(
  kernel: Kernel,
  { size, apart, weights, scales, bias }: LayerWeights,
  inputs: number,
  outputs: number,
  frameBytes: number,
  keyBytes: number,
): Placed {
  const taps: number[] = [];
  // Without a stride over keys they are part of the inputs.
  const keyTaps = keyBytes === 0 ? 1 : size[1];
  for (let frame = 0; frame < size[0]; frame++)
    for (let key = 0; key < keyTaps; key++)
      taps.push(
        (frame - (size[0] - 1) / 2) * apart[0] * frameBytes + (key - (keyTaps - 1) / 2) * apart[1] * keyBytes,
      );
  const whole = decodeInt8(weights);
  const values = Float32Array.from(whole, (value, i) => value * scales[i % outputs]);
  if (values.length !== taps.length * inputs * outputs)
    throw new RangeError(`The network's weights do not fit: ${values.length} for ${taps.length} taps.`);
  const perKey = bias.length === KEYS * outputs;
  const biases = Float32Array.from({ length: KEYS * outputs }, (_, i) => bias[perKey ? i : i % outputs]);
  return {
    taps: kernel.place(Int32Array.from(taps)),
    tapCount: taps.length,
    weights: kernel.place(values),
    bias: kernel.place(biases),
  };
}

function decodeInt8(base64: string): Int8Array {
  const text = atob(base64);
  return Int8Array.from(text, (character) => (character.charCodeAt(0) << 24) >> 24);
}
