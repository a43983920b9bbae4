import { describe, expect, it } from 'vitest';
import { parseChord, type ChordOrNone } from '@plundra/core/theory';
import { beatF, slashSeconds, weightedOverlap, type ChordSegment, type Comparison } from './scores.ts';

const read = (text: string): ChordOrNone => {
  const parsed = parseChord(text);
  if ('error' in parsed) throw new Error(parsed.error);
  return parsed.chord;
};
const segments = (bounds: number[], symbols: string[]): ChordSegment[] =>
  symbols.map((symbol, i) => ({ startSeconds: bounds[i], endSeconds: bounds[i + 1], chord: read(symbol) }));
const score = (reference: ChordSegment[], estimate: ChordSegment[], comparison: Comparison) => {
  const { right, compared } = weightedOverlap(reference, estimate, comparison);
  return right / compared;
};

// Expected values were computed with mir_eval 0.7 (chord.root, .majmin, .sevenths with weighted_accuracy; beat.f_measure).
describe('scores of chords agree with mir_eval', () => {
  const reference = segments([0, 2, 4, 6, 8, 9], ['C', 'Am7', 'G7', 'Dsus4', 'N.C.']);
  const estimate = segments([0, 1.5, 4.2, 6, 7, 9], ['C', 'Am', 'G', 'D', 'F/A']);

  it('for weighted overlap', () => {
    expect(score(reference, estimate, 'root')).toBeCloseTo(0.7, 10);
    expect(score(reference, estimate, 'majmin')).toBeCloseTo(0.7571428571, 8);
    expect(score(reference, estimate, 'sevenths')).toBeCloseTo(0.2142857143, 8);
  });

  it('for what is compared and what is not', () => {
    const one = (a: string, b: string, comparison: Comparison) => {
      const { right, compared } = weightedOverlap(segments([0, 1], [a]), segments([0, 1], [b]), comparison);
      return compared === 0 ? -1 : right;
    };
    const pairs = [
      ['Cmaj7', 'Cmaj7'],
      ['Cdim', 'Cdim'],
      ['Caug', 'C'],
      ['Cadd9', 'C'],
      ['Cm7b5', 'Cm7'],
      ['Cm6', 'Cm'],
    ];
    expect(pairs.map(([a, b]) => one(a, b, 'root'))).toEqual([1, 1, 1, 1, 1, 1]);
    expect(pairs.map(([a, b]) => one(a, b, 'majmin'))).toEqual([1, -1, -1, 1, -1, 1]);
    expect(pairs.map(([a, b]) => one(a, b, 'sevenths'))).toEqual([1, -1, -1, 1, -1, -1]);
  });

  it('for beats', () => {
    expect(beatF([0, 0.5, 1, 1.5, 2, 2.5], [0.03, 0.58, 1.0, 1.44, 1.52, 2.2, 2.49])).toBeCloseTo(
      0.6153846154,
      8,
    );
    expect(beatF([1], [])).toBe(0);
  });
});

describe('slash basses', () => {
  it('count by the time in which they are played, named, and right', () => {
    const reference = segments([0, 2, 4, 6], ['C/E', 'G', 'F/A']);
    const estimate = segments([0, 1, 3, 6], ['C/E', 'C/G', 'F']);
    // One second of C/E is right; C/G is named for two, and nobody plays it.
    expect(slashSeconds(reference, estimate)).toEqual({ played: 4, named: 3, right: 1 });
  });
});
