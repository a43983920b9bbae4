import { describe, expect, it } from 'vitest';
import { hitConfidence } from './hitConfidence.ts';

describe('how sure a hit is', () => {
  it('is how often such hits were right', () => {
    // Mean probability and share of right hits of the kits that it was fitted on.
    for (const [probability, right] of [
      [0.531, 0.527],
      [0.712, 0.657],
      [0.853, 0.888],
      [0.926, 0.958],
      [0.974, 0.994],
    ])
      expect(Math.abs(hitConfidence(probability) - right)).toBeLessThan(0.06);
    expect(hitConfidence(0.853)).toBeGreaterThan(0.87);
    expect(hitConfidence(0.531)).toBeLessThan(0.5);
  });

  it('rises with the probability, from none to certain', () => {
    const all = Array.from({ length: 101 }, (_, i) => hitConfidence(i / 100));
    expect(all[0]).toBe(0);
    expect(all[100]).toBe(1);
    all.slice(1).forEach((value, i) => expect(value).toBeGreaterThan(all[i]));
  });
});
