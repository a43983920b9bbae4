import { describe, expect, it } from 'vitest';
import { readAt } from './fractionalRead.ts';

describe('a signal between its samples', () => {
  it.each([0.01, 0.1, 0.2, 0.35])('is that of a sine of %f cycles a sample', (cycles) => {
    const sine = (at: number) => Math.sin(2 * Math.PI * cycles * at);
    const signal = Float32Array.from({ length: 200 }, (_, i) => sine(i));
    let furthest = 0;
    for (let at = 50; at < 150; at += 0.25)
      furthest = Math.max(furthest, Math.abs(readAt(signal, at) - sine(at)));
    expect(furthest).toBeLessThan(cycles < 0.3 ? 1e-3 : 2e-2);
  });

  it('is the samples at whole places, and nothing beyond the ends', () => {
    const signal = Float32Array.of(1, -2, 3);
    expect([0, 1, 2, -1, 3].map((at) => readAt(signal, at))).toEqual([1, -2, 3, 0, 0]);
  });
});
