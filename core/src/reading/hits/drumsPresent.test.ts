import { describe, expect, it } from 'vitest';
import type { HitKind } from '../../theory/index.ts';
import { beliefIn, countOnsets } from './drumsPresent.ts';

const hits = (kind: HitKind, count: number, logit: number) =>
  Array.from({ length: count }, () => ({ kind, logit }));

describe('the drums of a recording', () => {
  it('are believed where they are struck all the time, and doubted where little speaks for them', () => {
    const belief = beliefIn([...hits('kick', 30, 4), ...hits('snare', 4, 4), ...hits('tom', 20, -3)], 60);
    expect(belief.get('kick')).toBe(1);
    // Four sure strokes in sixty are less than usual, but cost them little.
    expect(belief.get('snare')!).toBeGreaterThan(-0.7);
    expect(belief.get('snare')!).toBeLessThan(0);
    expect(belief.get('tom')!).toBeLessThan(-2);
  });

  it('are as usual where one in ten onsets is theirs, and where nothing was played', () => {
    // Certain hits: their number is their share, whatever is believed.
    expect(beliefIn(hits('cymbal', 6, 40), 60).get('cymbal')!).toBeCloseTo(0, 9);
    for (const belief of beliefIn([], 0).values()) expect(belief).toBeCloseTo(0, 9);
  });

  it('are never quite given up', () => {
    expect(beliefIn(hits('shaker', 1, -20), 100_000).get('shaker')).toBe(-4);
  });

  it('count onsets that lie apart', () => {
    expect(countOnsets([0, 0.01, 0.02, 0.5, 0.52, 1], 0.025)).toBe(3);
    expect(countOnsets([], 0.025)).toBe(0);
  });
});
