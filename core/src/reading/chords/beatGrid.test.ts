import { describe, expect, it } from 'vitest';
import { evenBars, gridOf, placesOf } from './beatGrid.ts';

describe('spans that chords are read in', () => {
  it('are beats, continued to both ends; long ones are halved', () => {
    const { boundaries, beatOf } = gridOf([1, 1.5, 2, 3], 4.5);
    expect(boundaries).toEqual([0, 0.5, 1, 1.5, 2, 2.5, 3, 3.5, 4, 4.5]);
    expect(beatOf).toEqual([-2, -1, 0, 1, 2, 2.5, 3, 3.5, 4]);
  });

  it('are half a second long where no beat is known', () => {
    expect(gridOf([], 1.2).boundaries).toEqual([0, 0.5, 1, 1.2]);
  });
});

describe('what a span begins', () => {
  const beats = (from: number, to: number) => ({
    boundaries: [],
    beatOf: Array.from({ length: to - from }, (_, i) => from + i),
  });

  it('is a bar, its middle, a beat, or nothing', () => {
    const grid = { boundaries: [], beatOf: [-1, 0, 0.5, 1, 2, 3, 4, 5, 6] };
    expect(placesOf(grid, evenBars(1, 4, 7))).toEqual([
      'middle',
      'beat',
      'within',
      'bar',
      'beat',
      'middle',
      'beat',
      'bar',
      'beat',
    ]);
  });

  it('is counted in each bar by its own length, and beyond them by the usual one', () => {
    const places = placesOf(beats(-2, 13), { downbeats: [1, 4, 8], beatsPerBar: 4 });
    const bars = places.flatMap((place, i) => (place === 'bar' ? [i - 2] : []));
    const middles = places.flatMap((place, i) => (place === 'middle' ? [i - 2] : []));
    expect(bars).toEqual([1, 4, 8, 12]);
    expect(middles).toEqual([-1, 6, 10]);
  });
});
