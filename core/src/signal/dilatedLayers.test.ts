import { describe, expect, it } from 'vitest';
import { createDilatedLayers, createRandom, type DilatedLayer } from './index.ts';

const random = createRandom(3);
const numbers = (count: number) => Float32Array.from({ length: count }, () => random() - 0.5);

const layer = (inputs: number, outputs: number, dilation: number): DilatedLayer => ({
  weights: numbers(3 * inputs * outputs),
  bias: numbers(outputs).map(Math.abs),
  dilation,
});

/** The sum as it is written in textbooks. */
function plainly(x: Float32Array, { weights, bias, dilation }: DilatedLayer): number[] {
  const outputs = bias.length;
  const inputs = weights.length / 3 / outputs;
  const frames = x.length / inputs;
  return Array.from({ length: frames * outputs }, (_, at) => {
    const [t, o] = [Math.floor(at / outputs), at % outputs];
    let sum = bias[o];
    for (let tap = 0; tap < 3; tap++) {
      const frame = t + (tap - 1) * dilation;
      if (frame < 0 || frame >= frames) continue;
      for (let i = 0; i < inputs; i++)
        sum += x[frame * inputs + i] * weights[(tap * inputs + i) * outputs + o];
    }
    return Math.max(0, sum);
  });
}

describe('createDilatedLayers', () => {
  it.each([
    ['one number', 1, 1, 1, 9],
    ['outputs that are no multiple of eight', 5, 11, 2, 30],
    ['more frames than are computed at a time, three too many', 7, 16, 64, 1539],
    ['taps farther apart than the frames last', 4, 8, 32, 13],
    ['no frames', 4, 8, 2, 0],
  ])('computes what is written: %s', (_, inputs, outputs, dilation, frames) => {
    const one = layer(inputs, outputs, dilation);
    // A wider and a longer one before it leave their numbers in the memory that all share.
    const layers = createDilatedLayers([layer(9, 24, 3), one]);
    layers(0, numbers(9 * 600));
    const x = numbers(frames * inputs);
    const [found, expected] = [layers(1, x), plainly(x, one)];
    expect(found).toHaveLength(expected.length);
    expected.forEach((value, i) => expect(found[i]).toBeCloseTo(value, 5));
    if (frames > 0) expect(expected.some((value) => value > 0.1)).toBe(true);
  });
});
