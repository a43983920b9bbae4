import { describe, expect, it } from 'vitest';
import {
  applyEdit,
  createSong,
  createTimeMap,
  placedNotes,
  takeTableOf,
  type NotePart,
} from '@plundra/core/song';
import { keptPass, type Pass, type PlayInDoes } from './keepPass.ts';

// 120 bpm: a second is 1920 ticks, a bar two seconds.
const song = createSong('s', 'Ferry at Six');
const time = createTimeMap(song);
let count = 0;
const createId = () => `id${++count}`;
const press = (startSeconds: number, round = 0, midi = 60) => ({
  startSeconds,
  endSeconds: startSeconds + 0.2,
  midis: [midi],
  velocity: 90,
  chord: undefined,
  round,
});
const loop = { startSeconds: 4, endSeconds: 8 };
const pass = (presses: Pass['presses'], more: Partial<Pass> = {}): Pass => ({
  fromSeconds: 4,
  loop: null,
  presses,
  intoId: undefined,
  sound: 4,
  ...more,
});
const kept = (from: typeof song, played: Pass, does: PlayInDoes, pull: '1/4' | 'off' = 'off') => {
  const made = keptPass(from, time, played, { does, pull }, 7, createId)!;
  return { ...made, song: applyEdit(from, made.edit).song };
};
const first = (from: typeof song) => from.parts[0] as NotePart;
const starts = (part: NotePart) => placedNotes(part).map(({ startTicks }) => startTicks / 1920);

describe('a pass that was played in', () => {
  it('is nothing where nothing was played, or long before it began', () => {
    expect(keptPass(song, time, pass([]), { does: 'adds', pull: 'off' }, 7, createId)).toBeUndefined();
    expect(
      keptPass(song, time, pass([press(2)]), { does: 'takes', pull: 'off' }, 7, createId),
    ).toBeUndefined();
  });

  it('becomes a new part, or goes into one', () => {
    const made = kept(song, pass([press(4.5), press(5)]), 'adds');
    expect(made.says).toBe('2 notes kept.');
    expect(starts(first(made.song))).toEqual([4.5, 5]);
    const more = kept(made.song, pass([press(6)], { intoId: first(made.song).id }), 'adds');
    expect(more.label).toBe(`Play 1 note into ${first(made.song).name}`);
    expect(starts(first(more.song))).toEqual([4.5, 5, 6]);
  });

  it('round a loop keeps what was played before where it began, in later rounds', () => {
    const made = kept(song, pass([press(6), press(4.5, 1)], { fromSeconds: 5.5, loop }), 'adds');
    expect(starts(first(made.song)).sort()).toEqual([4.5, 6]);
  });

  it('as takes covers the loop, also where it was begun inside', () => {
    const made = kept(song, pass([press(6), press(5, 1)], { fromSeconds: 5.5, loop }), 'takes');
    const [phrase] = takeTableOf(first(made.song), time)!.phrases;
    expect([phrase.startTicks / 1920, phrase.endTicks / 1920]).toEqual([4, 8]);
    expect(starts(first(made.song))).toEqual([5]);
  });

  it('as takes is one for each round of the loop that has notes, of which the last is heard', () => {
    const made = kept(
      song,
      pass([press(4), press(6, 0), press(5, 2, 62), press(4, 3, 64)], { loop }),
      'takes',
    );
    expect(made.says).toBe('3 takes kept; the last is heard.');
    expect(made.takesOf).toBe(first(made.song).id);
    expect(placedNotes(first(made.song)).map(({ midi }) => midi)).toEqual([64]);
    const table = takeTableOf(first(made.song), time)!;
    expect(
      table.phrases.map(({ startTicks, endTicks, cells }) => [startTicks, endTicks, cells.size]),
    ).toEqual([[4 * 1920, 8 * 1920, 3]]);
  });

  it('as a take without a loop lies from where it began to where it was stopped', () => {
    const before = kept(song, pass([press(4), press(6.5), press(9)]), 'adds').song;
    const { id } = first(before);
    const made = kept(before, pass([press(5)], { intoId: id }), 'takes');
    expect(made.says).toBe('A take kept; the last is heard.');
    expect(starts(first(made.song)).sort()).toEqual([5, 9]);
    expect(takeTableOf(first(made.song), time)!.takes.map(({ name }) => name)).toEqual(['Take 1', 'Take 2']);
  });

  it('as one take of a new part is just that part', () => {
    const made = kept(song, pass([press(4)], { loop }), 'takes');
    expect(made.takesOf).toBeUndefined();
    expect(takeTableOf(first(made.song), time)).toBeUndefined();
  });

  it('as takes reaches as far as was played where the loop is switched off meanwhile', () => {
    const made = kept(song, pass([press(4), press(5, 1), press(9.5, 1)], { loop }), 'takes');
    expect(starts(first(made.song))).toEqual([5, 9.5]);
  });

  it('as takes of drums makes a drum part of them', () => {
    const drums = pass([press(4, 0, 36), press(5, 1, 38)], { loop, sound: 'drums' });
    const made = kept(song, drums, 'takes');
    expect(first(made.song).kind).toBe('drums');
    expect(takeTableOf(first(made.song), time)!.takes).toHaveLength(2);
    expect(placedNotes(first(made.song)).map(({ midi }) => midi)).toEqual([38]);
  });

  it('loses nothing that the grid pulls to the end of a round', () => {
    const made = kept(
      song,
      pass([press(4), press(7.9), press(5, 1), press(7.9, 1)], { loop }),
      'takes',
      '1/4',
    );
    const { passages } = first(made.song);
    const rounds = passages.map((passage) =>
      placedNotes({ ...first(made.song), passages: [{ ...passage, spare: undefined }] } as NotePart).map(
        ({ startTicks }) => startTicks / 1920,
      ),
    );
    expect(rounds).toEqual([[4], [4, 5, 8 - 60 / 1920]]);
  });
});
