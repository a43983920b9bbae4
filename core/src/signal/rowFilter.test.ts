import { describe, expect, it } from 'vitest';
import { createRandom, createRowFilter, MAX_FILTER_OUTPUTS } from './index.ts';

describe('createRowFilter', () => {
  it('is the sum of products of each stretch with its row', () => {
    const random = createRandom(7);
    const [taps, rowCount] = [7, 3];
    const table = Float32Array.from({ length: taps * rowCount }, () => random() - 0.5);
    // Longer than what is taken over at once.
    const signal = Float32Array.from({ length: 200_000 }, () => random() - 0.5);
    const firsts = Int32Array.from({ length: MAX_FILTER_OUTPUTS }, (_, n) => n * 48);
    const rows = Int32Array.from({ length: MAX_FILTER_OUTPUTS }, (_, n) => n % rowCount);
    const out = new Float32Array(MAX_FILTER_OUTPUTS);
    createRowFilter(table, taps)(signal, firsts, rows, out);
    let farthest = 0;
    out.forEach((value, n) => {
      let sum = 0;
      for (let k = 0; k < taps; k++) sum += signal[firsts[n] + k] * table[rows[n] * taps + k];
      farthest = Math.max(farthest, Math.abs(value - sum));
    });
    expect(farthest).toBeLessThan(1e-5);
    expect(out.some((value) => Math.abs(value) > 0.1)).toBe(true);
  });

  it('finds silence beyond the end of the signal', () => {
    const out = new Float32Array(2);
    const filter = createRowFilter(Float32Array.of(1, 1, 1, 1, 1), 5);
    filter(Float32Array.of(1, 2, 3), Int32Array.of(0, 2), Int32Array.of(0, 0), out);
    expect([...out]).toEqual([6, 3]);
  });
});
