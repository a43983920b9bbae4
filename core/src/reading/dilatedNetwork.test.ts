import { describe, expect, it } from 'vitest';
import { createDilatedNetwork, type StoredNetwork } from './dilatedNetwork.ts';

const SCALE = 1 / 1000;

/** Numbers as a network stores them. */
function stored(weights: number[], bias: number[]): StoredNetwork['layers'][number] {
  const bytes = new Uint8Array(weights.length * 2);
  const view = new DataView(bytes.buffer);
  weights.forEach((weight, i) => view.setInt16(2 * i, Math.round(weight / SCALE), true));
  return { weights: btoa(String.fromCharCode(...bytes)), scale: SCALE, bias };
}

const logit = (p: number) => Math.log(p / (1 - p));

describe('a network of dilated convolutions', () => {
  // One input, one channel. The first layer takes the frame before, doubled; the second adds what lies two frames
  // ahead, halved and less 0.25 (never below nothing); the last has two outputs.
  const network = createDilatedNetwork({
    inputs: 1,
    channels: 1,
    dilations: [1, 2],
    layers: [stored([2, 0, 0], [0]), stored([0, 0, 0.5], [-0.25]), stored([1, -1], [0, 0.5])],
  });

  it('takes three taps, adds to its input and gives a probability for each output', () => {
    const [first, second] = network(Float32Array.of(1, 0, 0.5, 0, 0));
    // First layer: 0, 2, 0, 1, 0. Second: + max(0, (0, 1, 0, 0, 0)·0.5 − 0.25 of two ahead).
    const expected = [0, 2 + 0.25, 0, 1, 0];
    [...first].forEach((p, t) => expect(logit(p)).toBeCloseTo(expected[t], 4));
    [...second].forEach((p, t) => expect(logit(p)).toBeCloseTo(0.5 - expected[t], 4));
  });

  it('sees nothing beyond the ends, and bears an empty recording', () => {
    expect(logit(network(Float32Array.of(1))[0][0])).toBeCloseTo(0, 4);
    expect(network(new Float32Array(0))[0]).toHaveLength(0);
  });
});
