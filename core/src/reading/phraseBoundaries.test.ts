import { describe, expect, it } from 'vitest';
import { phraseBoundaries } from './index.ts';

const STEP = 0.01;
/** Loud from one second to another, with a floor of noise. */
function level(seconds: number, ...loud: [number, number][]): Float32Array {
  return Float32Array.from({ length: seconds / STEP }, (_, i) =>
    loud.some(([from, to]) => i * STEP >= from && i * STEP < to) ? 0.5 + 0.1 * Math.sin(i) : 0.004,
  );
}
const boundaries = (...levels: Float32Array[]) => phraseBoundaries({ stepSeconds: STEP, levels });

describe('where phrases end', () => {
  it('is where all takes rest', () => {
    const one = level(10, [0.5, 3], [3.6, 6], [7, 9.5]);
    const other = level(10, [0.4, 3.2], [3.5, 6.2], [6.8, 9]);
    const found = boundaries(one, other);
    expect(found).toHaveLength(2);
    expect(found[0]).toBeGreaterThan(3.2);
    expect(found[0]).toBeLessThan(3.5);
    expect(found[1]).toBeGreaterThan(6.2);
    expect(found[1]).toBeLessThan(6.8);
  });

  it('is not where one still sings, nor where nobody breathes', () => {
    expect(boundaries(level(10, [0, 4], [4.5, 10]), level(10, [0, 10]))).toEqual([]);
    expect(boundaries(level(10, [0, 5], [5.08, 10]))).toEqual([]);
  });

  it('takes quiet and loud takes alike, and passes over silence', () => {
    const quiet = level(8, [0, 3], [3.6, 8]).map((value) => value * 0.05);
    expect(boundaries(quiet, level(8, [0, 3], [3.6, 8]))).toHaveLength(1);
    expect(boundaries(new Float32Array(800), level(8, [0, 3], [3.6, 8]))).toHaveLength(1);
    expect(boundaries()).toEqual([]);
    expect(boundaries(new Float32Array(800))).toEqual([]);
  });

  it('leaves phrases that can be sung: of two rests close together the longer', () => {
    const found = boundaries(level(8, [0, 3], [3.2, 3.7], [4.4, 8]));
    expect(found).toHaveLength(1);
    expect(found[0]).toBeGreaterThan(3.7);
    expect(found[0]).toBeLessThan(4.4);
  });
});
