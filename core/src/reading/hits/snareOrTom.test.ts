import { describe, expect, it } from 'vitest';
import type { HitKind } from '../../theory/index.ts';
import { snareOrTom } from './snareOrTom.ts';

const hit = (seconds: number, kind: HitKind, evidence: number) => ({ seconds, kind, evidence });
const kinds = (hits: { kind: HitKind }[]) => hits.map(({ kind }) => kind).join(' ');
const read = (hits: ReturnType<typeof hit>[]) => kinds(snareOrTom(hits, 0.025, 0.3));

describe('snare or tom', () => {
  it('is said by all of the recording where both are heard at nearly every stroke', () => {
    // At the second stroke the snare is stronger; the other three outweigh it.
    const toms = [0.5, 1, 1.5, 2].flatMap((at, i) => [
      hit(at, 'snare', i === 1 ? 0.8 : 0.5),
      hit(at + 0.01, 'tom', 0.75),
    ]);
    expect(read(toms)).toBe('tom tom tom tom');
  });

  it('is both where each is mostly struck alone', () => {
    const alone = [0, 1, 2, 3, 4, 5].flatMap((at) => [hit(at, 'snare', 0.9), hit(at + 0.5, 'tom', 0.9)]);
    const together = [7, 8, 9].flatMap((at) => [hit(at, 'snare', 0.9), hit(at, 'tom', 0.8)]);
    expect(read([...alone, ...together])).toBe(kinds([...alone, ...together]));
    // Then a weak one beside a strong one is left out.
    expect(read([...alone, hit(7, 'snare', 0.9), hit(7, 'tom', 0.5)])).toBe(
      kinds([...alone, hit(7, 'snare', 0.9)]),
    );
  });

  it('leaves other drums alone', () => {
    const others = [1, 2, 3, 4].flatMap((at) => [hit(at, 'kick', 0.4), hit(at, 'closed-hat', 0.9)]);
    expect(read(others)).toBe(kinds(others));
  });
});
