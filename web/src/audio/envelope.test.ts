import { describe, expect, it } from 'vitest';
import { envelopeOf, followEnvelope, gainAt } from './envelope.ts';

const track = {
  fromSeconds: 2,
  toSeconds: 6,
  levelDb: 0,
  fadeInSeconds: undefined,
  fadeOutSeconds: undefined,
};

describe('the loudness of a passage', () => {
  it('is its level, with edges that do not click', () => {
    const points = envelopeOf({ ...track, levelDb: -6 }, 10);
    expect(gainAt(points, 2)).toBe(0);
    expect(gainAt(points, 4)).toBeCloseTo(0.501, 3);
    expect(gainAt(points, 6)).toBe(0);
    expect(gainAt(points, 2.004)).toBeCloseTo(0.501, 3);
  });

  it('is untouched at the edges of the recording itself', () => {
    const points = envelopeOf({ ...track, fromSeconds: 0, toSeconds: 10 }, 10);
    expect(points.every(({ gain }) => gain === 1)).toBe(true);
  });

  it('rises and falls as its fades say', () => {
    const points = envelopeOf({ ...track, fadeInSeconds: 1, fadeOutSeconds: 2 }, 10);
    expect([2, 2.5, 3, 4, 5, 6].map((seconds) => gainAt(points, seconds))).toEqual([0, 0.5, 1, 1, 0.5, 0]);
  });

  it('shares the time between fades that would overlap', () => {
    const points = envelopeOf({ ...track, fadeInSeconds: 6, fadeOutSeconds: 2 }, 10);
    expect(points.map(({ seconds }) => seconds)).toEqual([2, 5, 5, 6]);
    expect(gainAt(points, 5)).toBe(1);
  });

  it('is taken up where one begins in its middle', () => {
    const told: [string, number, number][] = [];
    const gain = {
      setValueAtTime: (value: number, at: number) => told.push(['set', value, at]),
      linearRampToValueAtTime: (value: number, at: number) => told.push(['ramp', value, at]),
    } as unknown as AudioParam;
    followEnvelope(gain, envelopeOf({ ...track, fadeInSeconds: 2, fadeOutSeconds: 1 }, 10), 3, 100, false);
    expect(told).toEqual([
      ['set', 0.5, 100],
      ['ramp', 1, 101],
      ['ramp', 1, 102],
      ['ramp', 0, 103],
    ]);
    told.length = 0;
    followEnvelope(gain, envelopeOf({ ...track, fadeInSeconds: 2, fadeOutSeconds: 1 }, 10), 3, 100, true);
    expect(told.slice(0, 2)).toEqual([
      ['set', 0, 100],
      ['ramp', expect.closeTo(0.504), 100.008],
    ]);
  });
});
