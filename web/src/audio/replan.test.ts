import { describe, expect, it } from 'vitest';
import { replan, type TimedNote } from './replan.ts';

const note = (midi: number, onSeconds: number, offSeconds: number): TimedNote => ({
  midi,
  onSeconds,
  offSeconds,
});
const struck = (found: ReturnType<typeof replan>) =>
  found?.notes.map(({ midi, onSeconds }) => [midi, Number(onSeconds.toFixed(3))]);

describe('notes that change while they sound', () => {
  const chord = [60, 64, 67].map((midi) => note(midi, 9.5, 11));

  it('are left alone where nothing changes within reach', () => {
    const later = [...chord, note(72, 10.5, 11)];
    expect(replan(chord, later, 10, 10.2)).toBeNull();
    expect(replan([...chord, note(50, 8, 9.9)], chord, 10, 10.2)).toBeNull();
  });

  it('are stopped and struck anew, with their own ends', () => {
    const minor = [60, 63, 67].map((midi) => note(midi, 9.5, 11));
    const found = replan(chord, minor, 10, 10.2);
    expect(found?.cuts).toEqual([10]);
    expect(struck(found)).toEqual([
      [60, 10.001],
      [63, 10.001],
      [67, 10.001],
    ]);
    expect(found?.notes.every(({ offSeconds }) => offSeconds === 11)).toBe(true);
  });

  it('that are planned already are undone at their start, and another is struck there', () => {
    const found = replan([...chord, note(74, 10.1, 10.6)], [...chord, note(73, 10.1, 10.6)], 10, 10.2);
    expect(found?.cuts.map((at) => Number(at.toFixed(4)))).toEqual([10, 10.1005]);
    const late = struck(found)!.filter(([, at]) => at > 10.05);
    expect(late.map(([midi]) => midi).sort()).toEqual([60, 64, 67, 73]);
  });

  it('that should not sound any more are only stopped', () => {
    expect(replan(chord, [], 10, 10.2)).toEqual({ cuts: [10], notes: [] });
  });

  it('that are new within reach are struck at their time', () => {
    expect(struck(replan([], [note(62, 10.15, 10.5)], 10, 10.2))).toEqual([[62, 10.15]]);
  });
});
