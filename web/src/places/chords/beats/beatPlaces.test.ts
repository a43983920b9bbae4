import { describe, expect, it } from 'vitest';
import { barsFrom } from '@plundra/core/song';
import { beatNear, beatsInBar, clicksOf, draggedTo, placeOfBeat } from './beatPlaces.ts';

const heard = barsFrom({ beats: [1, 1.5, 2, 2.5, 3, 3.5] }, 1, 4);

describe('beats that were heard', () => {
  it('are counted in the beats of the metre', () => {
    const counts = ([3, 4, 5] as const).map((beats) => beatsInBar({ beats, unit: 4 }));
    expect(counts).toEqual([3, 4, 5]);
    expect([6, 9, 12].map((beats) => beatsInBar({ beats, unit: 8 }))).toEqual([2, 3, 4]);
    expect(beatsInBar({ beats: 2, unit: 2 })).toBe(2);
  });

  it('click where they lie in the song, bar lines higher', () => {
    const later = (at: number) => at + 10;
    expect(clicksOf(heard, later, 11.5, 12.5)).toEqual([
      { timeSeconds: 11.5, downbeat: true },
      { timeSeconds: 12, downbeat: false },
    ]);
    expect(clicksOf(heard, later, 0, 11)).toEqual([]);
  });

  it('are named by bar and beat, an upbeat as of bar 0', () => {
    expect(placeOfBeat(heard, 0, 4)).toEqual({ bar: 0, beat: 4 });
    expect(placeOfBeat(heard, 1, 4)).toEqual({ bar: 1, beat: 1 });
    expect(placeOfBeat(heard, 5, 4)).toEqual({ bar: 2, beat: 1 });
  });

  it('are taken hold of nearby, the nearest of two', () => {
    expect(beatNear([10, 18, 90], 15)).toBe(1);
    expect(beatNear([10, 18, 90], 25)).toBeUndefined();
    expect(beatNear([], 4)).toBeUndefined();
  });

  it('go to an onset where they are dragged beside it', () => {
    const x = (seconds: number) => seconds * 100;
    const at = (pixels: number) => pixels / 100;
    expect(draggedTo(104, [0.5, 1, 2], x, at)).toBe(1);
    expect(draggedTo(140, [0.5, 1, 2], x, at)).toBe(1.4);
  });
});
