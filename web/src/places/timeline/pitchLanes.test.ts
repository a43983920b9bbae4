import { describe, expect, test } from 'vitest';
import { markIn, pitchLanes } from './pitchLanes.ts';

const box = { top: 10, height: 60 };

describe('small pictures of notes', () => {
  test('a higher note lies higher, and both lie inside', () => {
    const lanes = pitchLanes([55, 79], false);
    const [low, high] = [markIn(lanes, 55, box), markIn(lanes, 79, box)];
    expect(high.y).toBeLessThan(low.y);
    expect(high.y).toBeGreaterThanOrEqual(10);
    expect(low.y + low.height).toBeLessThanOrEqual(70);
  });

  test('drums far apart as keys lie in rows next to each other, in their order, and do not touch', () => {
    const lanes = pitchLanes([36, 82, 36, 42.2], true);
    const [kick, hat, shaker] = [36, 42, 82].map((key) => markIn(lanes, key, box));
    expect(kick.y - hat.y).toBe(20);
    expect(hat.y - shaker.y).toBe(20);
    expect(hat.y + hat.height).toBeLessThan(kick.y);
    expect(shaker.y).toBeGreaterThanOrEqual(10);
    expect(kick.y + kick.height).toBeLessThanOrEqual(70);
  });

  test('a dozen drums in a low strip still have a stroke each', () => {
    const keys = Array.from({ length: 12 }, (_, i) => 36 + 3 * i);
    const lanes = pitchLanes(keys, true);
    const marks = keys.map((key) => markIn(lanes, key, { top: 0, height: 24 }));
    expect(Math.min(...marks.map(({ height }) => height))).toBeGreaterThanOrEqual(1);
    expect(new Set(marks.map(({ y }) => y)).size).toBe(12);
  });

  test('a part without notes has a picture as well', () => {
    expect(pitchLanes([], true).rows?.size).toBe(0);
  });
});
