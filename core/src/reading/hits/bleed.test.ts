import { describe, expect, it } from 'vitest';
import type { HitKind } from '../../theory/index.ts';
import { strongestBeside, withoutBleed } from './bleed.ts';

const hit = (seconds: number, kind: HitKind, evidence: number) => ({ seconds, kind, evidence });
const kept = (hits: readonly ReturnType<typeof hit>[]) => withoutBleed(hits, 0.025, 0.3);
const kicks = [0, 1, 2].map((seconds) => hit(seconds, 'kick', 0.98));

describe('what a stroke has of another drum', () => {
  it('is left out where that drum usually shows more', () => {
    const bleeding = [...kicks, hit(3, 'tom', 0.8), hit(3.01, 'kick', 0.5)];
    expect(kept(bleeding)).toEqual(bleeding.slice(0, -1));
  });

  it('stays where it stands alone, however faint', () => {
    const faint = [...kicks, hit(3, 'tom', 0.8), hit(3.2, 'kick', 0.35)];
    expect(kept(faint)).toEqual(faint);
  });

  it('stays where the drum always shows as little', () => {
    const soft = [0, 1, 2].flatMap((seconds) => [
      hit(seconds, 'snare', 0.9),
      hit(seconds + 0.01, 'kick', 0.45),
    ]);
    expect(kept(soft)).toEqual(soft);
  });

  it('is not looked for in hats, which louder drums mask', () => {
    const masked = [
      hit(0, 'closed-hat', 0.9),
      hit(1, 'closed-hat', 0.9),
      hit(2, 'kick', 0.98),
      hit(2, 'closed-hat', 0.4),
    ];
    expect(kept(masked)).toEqual(masked);
  });

  it('does not count likely hits of a drum by its unlikely ones', () => {
    const unlikely = [3, 4, 5, 6, 7, 8].map((seconds) => hit(seconds, 'kick', 0.1));
    const bleeding = [...kicks, hit(2.5, 'tom', 0.8), hit(2.51, 'kick', 0.5), ...unlikely];
    expect(kept(bleeding)).not.toContainEqual(hit(2.51, 'kick', 0.5));
  });
});

describe('the strongest hit beside one', () => {
  it('is itself, one before or one after', () => {
    const hits = [hit(0, 'kick', 0.4), hit(0.02, 'snare', 0.7), hit(0.04, 'tom', 0.9), hit(0.2, 'kick', 1)];
    expect(hits.map((_, i) => strongestBeside(hits, i, 0.025))).toEqual([0.7, 0.9, 0.9, 1]);
  });
});
