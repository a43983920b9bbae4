import { describe, expect, it } from 'vitest';
import { createFrameBands, createRandom, createRealTransform } from './index.ts';

describe('createFrameBands', () => {
  // The reference is the open library behind createRealTransform (fft.js).
  for (const size of [8, 16, 32, 512, 1024, 2048])
    it(`transforms four frames of ${size} samples as a plain transform does each`, () => {
      const random = createRandom(size);
      const frames = Array.from({ length: 4 }, () =>
        Float32Array.from({ length: size }, () => random() - 0.5),
      );
      const one = Array.from({ length: size / 2 }, (_, first) => ({ first, weights: [1] }));
      const bands = createFrameBands(size, one);
      // Twice: what a run leaves behind must not matter.
      for (let round = 0; round < 2; round++) {
        frames.forEach((frame, f) => frame.forEach((value, i) => (bands.input[4 * i + f] = value)));
        const powers = bands.run();
        frames.forEach((frame, f) => {
          const spectrum = createRealTransform(size).forward(frame);
          for (let bin = 0; bin < size / 2; bin++) {
            const power = spectrum[2 * bin] ** 2 + spectrum[2 * bin + 1] ** 2;
            expect(Math.abs(powers[4 * bin + f] - power)).toBeLessThan(1e-5 * size);
          }
        });
      }
    });

  it('adds weighted bins before it takes the power', () => {
    const size = 64;
    const random = createRandom(3);
    const frame = Float32Array.from({ length: size }, () => random() - 0.5);
    const weights = [0.25, -0.5, 1, 2];
    const bands = createFrameBands(size, [
      { first: 5, weights },
      { first: 0, weights: [1] },
    ]);
    frame.forEach((value, i) => (bands.input[4 * i + 2] = value));
    const powers = bands.run();
    const spectrum = createRealTransform(size).forward(frame);
    let [re, im] = [0, 0];
    weights.forEach((weight, i) => {
      re += weight * spectrum[2 * (5 + i)];
      im += weight * spectrum[2 * (5 + i) + 1];
    });
    expect(powers[2]).toBeCloseTo(re * re + im * im, 4);
    expect(powers[0]).toBe(0);
    expect(powers[6]).toBeCloseTo(spectrum[0] ** 2, 4);
  });

  it('takes frames of a signal through a window, from any place, with silence beyond its ends', () => {
    const size = 16;
    const random = createRandom(9);
    const signal = Float32Array.from({ length: 50 }, () => random() - 0.5);
    const window = Float32Array.from({ length: size }, (_, i) => i / size);
    const plain = createFrameBands(size, [], { window });
    const centred = createFrameBands(size, [], { centred: true });
    const offsets = [-5, 3, 40, 200];
    plain.take(signal, offsets);
    centred.take(signal, offsets);
    offsets.forEach((offset, f) => {
      for (let i = 0; i < size; i++) {
        const value = signal[offset + i] ?? 0;
        expect(plain.input[4 * i + f]).toBeCloseTo(value * window[i], 6);
        expect(centred.input[4 * ((i + size / 2) % size) + f]).toBeCloseTo(value, 6);
      }
    });
    // Fewer than four: the others are silent.
    plain.take(signal, [0]);
    expect(plain.input.filter((value, i) => i % 4 !== 0 && value !== 0)).toHaveLength(0);
    expect(plain.input[4 * 3]).toBeCloseTo(signal[3] * window[3], 6);
  });

  it('says what does not fit', () => {
    expect(() => createFrameBands(48, [])).toThrow(/power of two/);
    expect(() => createFrameBands(64, [{ first: 30, weights: [1, 1, 1] }])).toThrow(/beyond/);
  });
});
