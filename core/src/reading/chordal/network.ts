/**
 * Runs the network of the chordal reader: harmonic stacking (Bittner et al. 2017) and residual convolutions over
 * frames × 88 keys, layer for layer as in training/network.py, in single-threaded SIMD WebAssembly. Values between
 * layers are whole numbers of 16 bits: all of them are positive, and weights have eight bits anyway.
 */
import { BINS } from './frontEnd.ts';
import { createKernel, type Kernel, type KernelLayer } from './kernel.ts';

export const KEYS = 88;
/** MIDI note of key 0. */
export const LOWEST_KEY = 21;
const BINS_PER_KEY = 3;
const FINE_BINS = BINS_PER_KEY * KEYS;
/** Keys of silence on either side: no tap reaches further. */
const KEY_MARGIN = 24;
const ROW_KEYS = KEYS + 2 * KEY_MARGIN;
/** No tap reaches further in time. */
const FRAME_MARGIN = 16;
const FIRST_BINS = 5;
/** The middle bin of a key's five is the second of its three: one bin more at either end. */
const BIN_MARGIN = 1;
/** Planes are stacked so many at a time, and their bins in blocks. */
const PLANES = 16;
const BLOCK_BINS = 8;
const STACK_BINS = Math.ceil((FINE_BINS + 2 * BIN_MARGIN) / BLOCK_BINS) * BLOCK_BINS;
/** Silence before and after the bins of a map, as far as any plane is shifted. */
const SILENCE_BELOW = 40;
const SILENCE_ABOVE = 88;
const MAP_BINS = SILENCE_BELOW + BINS + SILENCE_ABOVE;
const FLOAT = 4;
const INTEGER = 2;
/** The whole number that stands for 1 at the input. */
export const INPUT_ONE = 32767;
/** The whole number that stands for 1 between layers: values up to 64 fit; 20 was the largest on the bench. */
const BETWEEN_ONE = 512;
/** Output frames of one pass; memory and the share of work done twice depend on it. */
const PASS_FRAMES = 1024;
/** Frames that go through all layers together, so that each layer finds them in the processor's cache. */
const CHUNK_FRAMES = 32;

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

/** Outputs for each frame and key: onset and active, then others if any. */
export const HEADS = 4;

export interface Network {
  /**
   * @param maps 0–{@link INPUT_ONE}, frames × 2 × {@link BINS}
   * @param emit gets logits frames × 88 × {@link HEADS} of frames from `firstFrame` on; the array is used again
   */
  run(
    frames: number,
    maps: (frame: number, out: Int16Array) => void,
    emit: (firstFrame: number, logits: Float32Array) => void,
  ): void;
}

export function createNetwork(description: NetworkWeights): Network {
  const kernel = createKernel();
  const channels = description.first.scales.length;
  if (channels !== 24 && channels !== 16)
    throw new RangeError(`There are no inner loops for ${channels} channels.`);
  const convolve = channels === 24 ? kernel.convolve24 : kernel.convolve16;
  const shifts = description.harmonics.flatMap((harmonics, map) =>
    harmonics.map((harmonic) => ({ map, bins: Math.round(36 * Math.log2(harmonic)) })),
  );
  const reach = [description.first, ...description.blocks, description.heads].reduce(
    (sum, layer) => sum + reachOf(layer),
    0,
  );
  const workFrames = PASS_FRAMES + 2 * reach;
  // Bins with all planes innermost: the five bins of a key lie side by side.
  const binBytes = PLANES * INTEGER;
  const stackFrame = STACK_BINS * binBytes;
  const keyBytes = channels * INTEGER;
  const frameBytes = ROW_KEYS * keyBytes;

  const place = (layer: LayerWeights, between: Omit<Between, 'inputs'>): KernelLayer =>
    placeLayer(kernel, layer, { inputs: channels, ...between });
  // Only frames are taps of the first layer.
  const first = placeLayer(kernel, description.first, {
    inputs: PLANES * FIRST_BINS,
    outputs: channels,
    frameBytes: stackFrame,
    keyBytes: 0,
    inputOne: INPUT_ONE,
    outputOne: BETWEEN_ONE,
  });
  const between = { frameBytes, keyBytes, inputOne: BETWEEN_ONE };
  const blocks = description.blocks.map((layer) =>
    place(layer, { ...between, outputs: channels, outputOne: BETWEEN_ONE }),
  );
  const heads = place(description.heads, { ...between, outputs: HEADS, outputOne: 1 });
  const stack = kernel.allocate((workFrames + 2 * FRAME_MARGIN) * stackFrame);
  const planes = [description.first, ...description.blocks].map(() =>
    kernel.allocate((workFrames + 2 * FRAME_MARGIN) * frameBytes),
  );
  const logits = kernel.allocate(PASS_FRAMES * KEYS * HEADS * FLOAT);
  const mapRows = kernel.allocate(2 * MAP_BINS * INTEGER);
  const planeStarts = kernel.place(planeOffsets(shifts));
  const memory = kernel.integers();
  const floats = kernel.floats();
  const map = new Int16Array(2 * BINS);
  const inner = FRAME_MARGIN * frameBytes + KEY_MARGIN * keyBytes;

  /** Silence around what is computed, so that taps find zeros beyond the ends of the recording. */
  const clearMargins = (start: number, bytes: number, frames: number) => {
    memory.fill(0, start / INTEGER, (start + FRAME_MARGIN * bytes) / INTEGER);
    const after = start + (FRAME_MARGIN + frames) * bytes;
    memory.fill(0, after / INTEGER, (after + FRAME_MARGIN * bytes) / INTEGER);
  };

  return {
    run(frames, maps, emit) {
      for (let from = 0; from < frames; from += PASS_FRAMES) {
        const to = Math.min(frames, from + PASS_FRAMES);
        const workFrom = Math.max(0, from - reach);
        const count = Math.min(frames, to + reach) - workFrom;
        clearMargins(stack, stackFrame, count);
        planes.forEach((plane) => clearMargins(plane, frameBytes, count));
        const gatherFrames = (start: number, end: number) => {
          for (let frame = start; frame < end; frame++) {
            maps(workFrom + frame, map);
            for (let i = 0; i < 2; i++)
              memory.set(
                map.subarray(i * BINS, (i + 1) * BINS),
                mapRows / INTEGER + i * MAP_BINS + SILENCE_BELOW,
              );
            const at = stack + (FRAME_MARGIN + frame) * stackFrame;
            kernel.stack16(mapRows, planeStarts, at, STACK_BINS / BLOCK_BINS);
            // Beyond the keys there is silence, as there was in training.
            const start = at / INTEGER;
            memory.fill(0, start, start + BIN_MARGIN * PLANES);
            memory.fill(0, start + (FINE_BINS + BIN_MARGIN) * PLANES, start + STACK_BINS * PLANES);
          }
        };
        const firstFrames = (start: number, end: number) =>
          convolve(
            {
              at: stack + (FRAME_MARGIN + start) * stackFrame,
              frameBytes: stackFrame,
              keyBytes: BINS_PER_KEY * binBytes,
            },
            first,
            { at: planes[0] + inner + start * frameBytes, frameBytes },
            0,
            end - start,
            KEYS,
          );
        const blockFrames = blocks.map((block, i) => (start: number, end: number) => {
          const at = planes[i] + inner + start * frameBytes;
          const output = { at: planes[i + 1] + inner + start * frameBytes, frameBytes };
          convolve({ at, frameBytes, keyBytes }, block, output, at, end - start, KEYS);
        });
        inChunks(count, [
          { reach: 0, run: gatherFrames },
          { reach: reachOf(description.first), run: firstFrames },
          ...blockFrames.map((run, i) => ({ reach: reachOf(description.blocks[i]), run })),
        ]);
        const rows = to - from;
        kernel.convolve4(
          {
            at: planes[blocks.length] + inner + (from - workFrom) * frameBytes,
            frameBytes,
            keyBytes,
          },
          heads,
          logits,
          rows,
          KEYS,
        );
        const start = logits / FLOAT;
        emit(from, floats.subarray(start, start + rows * KEYS * HEADS));
      }
    },
  };
}

/** Frames to either side that a layer looks at. */
function reachOf({ size, apart }: LayerWeights): number {
  return ((size[0] - 1) / 2) * apart[0];
}

/** Takes frames 0 … `count` − 1 through stages, each of which needs `reach` frames more of the one before it. */
function inChunks(count: number, stages: { reach: number; run(start: number, end: number): void }[]): void {
  const done = stages.map(() => 0);
  while (done[done.length - 1] < count) {
    let ready = Math.min(count, done[0] + CHUNK_FRAMES);
    stages.forEach(({ reach, run }, i) => {
      const end = ready === count ? count : ready - reach;
      if (end > done[i]) {
        run(done[i], end);
        done[i] = end;
      }
      ready = done[i];
    });
  }
}

/** For each plane, in bytes after the start of the maps, where its first stacked bin stands in them. */
function planeOffsets(shifts: { map: number; bins: number }[]): Int32Array {
  if (
    shifts.length !== PLANES ||
    shifts.some(({ bins }) => bins - BIN_MARGIN < -SILENCE_BELOW || bins + STACK_BINS > BINS + SILENCE_ABOVE)
  )
    throw new RangeError('The network looks at other multiples than there is room for.');
  return Int32Array.from(
    shifts,
    ({ map, bins }) => (map * MAP_BINS + SILENCE_BELOW + bins - BIN_MARGIN) * INTEGER,
  );
}

interface Between {
  inputs: number;
  outputs: number;
  frameBytes: number;
  /** 0: keys are part of the inputs. */
  keyBytes: number;
  /** The whole numbers that stand for 1 in its inputs and outputs. */
  inputOne: number;
  outputOne: number;
}

function placeLayer(
  kernel: Kernel,
  { size, apart, weights, scales, bias }: LayerWeights,
  { inputs, outputs, frameBytes, keyBytes, inputOne, outputOne }: Between,
): KernelLayer {
  const taps: number[] = [];
  const keyTaps = keyBytes === 0 ? 1 : size[1];
  for (let frame = 0; frame < size[0]; frame++)
    for (let key = 0; key < keyTaps; key++)
      taps.push(
        (frame - (size[0] - 1) / 2) * apart[0] * frameBytes + (key - (keyTaps - 1) / 2) * apart[1] * keyBytes,
      );
  const whole = decodeInt8(weights);
  const own = scales.length;
  const rows = taps.length * inputs;
  if (whole.length !== rows * own || own > outputs || inputs % 2 !== 0)
    throw new RangeError(`The network's weights do not fit: ${whole.length} for ${taps.length} taps.`);
  // Outputs that the layer does not have stay zero.
  const paired = new Int16Array(rows * outputs);
  for (let row = 0; row < rows; row++)
    for (let o = 0; o < own; o++) paired[((row >> 1) * outputs + o) * 2 + (row & 1)] = whole[row * own + o];
  const perKey = bias.length === KEYS * own;
  const biases = new Int32Array(KEYS * outputs);
  for (let key = 0; key < KEYS; key++)
    for (let o = 0; o < own; o++)
      biases[key * outputs + o] = Math.round((bias[perKey ? key * own + o : o] / scales[o]) * inputOne);
  const factors = new Float32Array(outputs);
  scales.forEach((scale, o) => (factors[o] = (scale * outputOne) / inputOne));
  return {
    taps: kernel.place(Int32Array.from(taps)),
    tapCount: taps.length,
    pairs: inputs / 2,
    weights: kernel.place(paired),
    bias: kernel.place(biases),
    scales: kernel.place(factors),
  };
}

function decodeInt8(base64: string): Int8Array {
  const text = atob(base64);
  return Int8Array.from(text, (character) => (character.charCodeAt(0) << 24) >> 24);
}
