import { describe, expect, it } from 'vitest';
import { notePart, songWith } from '../test/songs.ts';
import { createTimeMap, planNotePull, withLengths, type Note, type NotePassage } from './index.ts';

const time = createTimeMap(songWith());
const note = (id: string, startTicks: number, lengthTicks = 200): Note => ({
  id,
  startTicks,
  lengthTicks,
  midi: 60,
  velocity: 80,
});
const passage = {
  ...notePart([note('a', 20), note('b', 470), note('c', 470), note('d', 1000)]).passages[0],
  startTicks: 960,
} as NotePassage;
const straight = { grid: '1/8', pull: 1, swing: 0, leaveAloneBeyondSeconds: null } as const;

describe('timing of notes', () => {
  it('are pulled to the grid of the song, and say so beforehand', () => {
    const plan = planNotePull([{ passage, notes: passage.notes }], straight, time);
    expect(plan.put[0].notes.map(({ id, startTicks }) => [id, startTicks])).toEqual([
      ['a', 0],
      ['b', 480],
      ['c', 480],
      ['d', 960],
    ]);
    expect(plan.put[0].notes.every(({ lengthTicks }) => lengthTicks === 200)).toBe(true);
    expect(plan.report).toMatchObject({ moving: 4, total: 4 });
    expect(plan.starts.get('a')).toBeCloseTo(0.5);
    const half = planNotePull([{ passage, notes: [passage.notes[0]] }], { ...straight, pull: 0.5 }, time);
    expect(half.put[0].notes.map(({ startTicks }) => startTicks)).toEqual([10]);
  });

  it('swing to a third of a step later, and leave alone what is far off', () => {
    const swung = planNotePull([{ passage, notes: passage.notes }], { ...straight, swing: 1 }, time);
    expect(swung.put[0].notes.find(({ id }) => id === 'b')?.startTicks).toBe(640);
    const near = planNotePull(
      [{ passage, notes: passage.notes }],
      { ...straight, leaveAloneBeyondSeconds: 0.012 },
      time,
    );
    expect(near.put[0].notes.map(({ id }) => id)).toEqual(['a', 'b', 'c']);
  });

  it('last until the next begins in whatever order they are kept', () => {
    const shuffled = { ...passage, notes: [3, 0, 2, 1].map((i) => passage.notes[i]) };
    expect(
      new Map(withLengths(shuffled, shuffled.notes, 1).map(({ id, lengthTicks }) => [id, lengthTicks])),
    ).toEqual(
      new Map([
        ['a', 450],
        ['b', 530],
        ['c', 530],
      ]),
    );
  });

  it('last until the next begins, or for a share of that', () => {
    const lengths = (share: number) =>
      withLengths(passage, passage.notes, share).map(({ id, lengthTicks }) => [id, lengthTicks]);
    expect(lengths(1)).toEqual([
      ['a', 450],
      ['b', 530],
      ['c', 530],
    ]);
    expect(lengths(0.5)).toEqual([
      ['a', 225],
      ['b', 265],
      ['c', 265],
    ]);
  });
});
