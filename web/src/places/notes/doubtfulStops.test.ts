import { describe, expect, it } from 'vitest';
import { doubtfulStops, nextStop } from './doubtfulStops.ts';

const note = (id: string, startSeconds: number, doubtful = true) => ({ id, startSeconds, doubtful });
const notes = [
  note('a', 0),
  note('b', 0.02, false),
  note('c', 0.03),
  note('d', 0.5),
  note('e', 0.9, false),
  note('f', 1.0),
  note('g', 1.05),
  note('h', 1.1),
];

describe('the walk through doubtful notes', () => {
  it('stops once at what starts together', () => {
    expect(doubtfulStops(notes)).toEqual([['a', 'c'], ['d'], ['f', 'g'], ['h']]);
    expect(doubtfulStops(notes.map((each) => ({ ...each, doubtful: false })))).toEqual([]);
  });

  it('goes on from what is selected, doubtful or not, and around the end', () => {
    expect(nextStop(notes, new Set(), 1)).toEqual(['a', 'c']);
    expect(nextStop(notes, new Set(['a', 'c']), 1)).toEqual(['d']);
    expect(nextStop(notes, new Set(['b']), 1)).toEqual(['d']);
    expect(nextStop(notes, new Set(['e']), 1)).toEqual(['f', 'g']);
    expect(nextStop(notes, new Set(['h']), 1)).toEqual(['a', 'c']);
    expect(nextStop([note('a', 0, false)], new Set(), 1)).toBeUndefined();
  });

  it('goes back', () => {
    expect(nextStop(notes, new Set(), -1)).toEqual(['h']);
    expect(nextStop(notes, new Set(['f', 'g']), -1)).toEqual(['d']);
    expect(nextStop(notes, new Set(['a', 'c']), -1)).toEqual(['h']);
  });
});
