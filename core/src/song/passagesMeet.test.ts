/** What other features do to passages: time put in and taken out, another tempo, another place, names of parts made from them. */
import { describe, expect, it } from 'vitest';
import { lineNote, notePart, recordingPart, songWith } from '../test/songs.ts';
import {
  applyEdit,
  createTimeMap,
  placedNotes,
  placedRecordings,
  planInsertion,
  planRemoval,
  planShift,
  planTempo,
  planTranspose,
  songSchema,
  type Edit,
  type Note,
  type NotePart,
  type RecordingPart,
  type Song,
} from './index.ts';

const BAR = 3840;
const note = (id: string, startTicks: number): Note => ({
  id,
  startTicks,
  lengthTicks: 480,
  midi: 60,
  velocity: 80,
});
/** At 120 bpm a bar is two seconds. Two windows on one take: seconds 0–8 from bar 1, seconds 10–20 from bar 9. */
const voice: RecordingPart = {
  ...recordingPart([lineNote('a', 1, 2, 60), lineNote('b', 5, 6, 62), lineNote('c', 12, 13, 64)]),
  passages: [
    { type: 'recording', id: 'p', takeId: 'take', startTicks: 0, offsetSeconds: 0, durationSeconds: 8 },
    {
      type: 'recording',
      id: 'q',
      takeId: 'take',
      startTicks: 8 * BAR,
      offsetSeconds: 10,
      durationSeconds: 10,
      fadeInSeconds: 1,
      fadeOutSeconds: 2,
    },
  ],
};
/** A window of two bars from bar 3 on, on notes that begin two bars before it and go on two bars after it. */
const keys: NotePart = {
  ...notePart([]),
  passages: [
    {
      type: 'notes',
      id: 'k',
      startTicks: 2 * BAR,
      lengthTicks: 2 * BAR,
      offsetTicks: 2 * BAR,
      notes: [note('before', BAR), note('first', 2 * BAR), note('second', 3 * BAR), note('after', 5 * BAR)],
    },
  ],
};
const song = songWith(voice, keys);

function done(edit: Edit | undefined, before: Song = song): Song {
  const applied = applyEdit(before, edit!);
  expect(songSchema.safeParse(applied.song).error?.issues ?? []).toEqual([]);
  expect(applyEdit(applied.song, applied.inverse).song).toEqual(before);
  return applied.song;
}
const windows = ({ parts }: Song) =>
  placedRecordings(parts[0] as RecordingPart).map(({ startTicks, offsetSeconds, durationSeconds, line }) => [
    startTicks / BAR,
    offsetSeconds,
    durationSeconds,
    line!.notes.map(({ id }) => id).join(''),
  ]);
const keysOf = ({ parts }: Song) => (parts[1] as NotePart).passages[0];
const heard = ({ parts }: Song) =>
  placedNotes(parts[1] as NotePart).map(({ id, startTicks }) => [id, startTicks / BAR]);
let ids = 0;
const createId = () => `new${ids++}`;

describe('two windows on one take', () => {
  it('never show the same moment of it, whichever edge is moved', () => {
    const song = songWith(voice);
    const set = (passageId: string, patch: { offsetSeconds?: number; durationSeconds?: number }) => () =>
      applyEdit(song, { type: 'passage.set', partId: voice.id, passageId, patch });
    // The first lasts into the second; the second begins within the first.
    expect(set('p', { durationSeconds: 11 })).toThrow(/already holds this piece/);
    expect(set('q', { offsetSeconds: 7 })).toThrow(/already holds this piece/);
    expect(set('p', { durationSeconds: 10 })).not.toThrow();
  });
});

describe('bars put in', () => {
  it('cut each recording that sounds there, with its notes, and move what comes later', () => {
    const after = done(planInsertion(song, 3, 1));
    expect(windows(after)).toEqual([
      [0, 0, 4, 'a'],
      [3, 4, 4, 'b'],
      [9, 10, 10, 'c'],
    ]);
  });

  it('take along what begins just before them, and leave what ends just behind', () => {
    const early = done({
      type: 'batch',
      edits: [
        { type: 'passage.set', partId: 'voice', passageId: 'q', patch: { startTicks: 8 * BAR - 20 } },
        { type: 'passage.set', partId: 'voice', passageId: 'p', patch: { startTicks: 4 * BAR + 20 } },
      ],
    });
    expect(
      windows(done(planInsertion(early, 9, 1), early)).map(([start, offset]) => [start, offset]),
    ).toEqual([
      [4 + 20 / BAR, 0],
      [9 - 20 / BAR, 10],
    ]);
  });

  it('inside a window move what it shows behind them, and keep hidden what was', () => {
    const after = done(planInsertion(song, 4, 2));
    expect(heard(after)).toEqual([
      ['first', 2],
      ['second', 5],
    ]);
    expect(keysOf(after)).toMatchObject({ startTicks: 2 * BAR, lengthTicks: 4 * BAR, offsetTicks: 2 * BAR });
    expect(keysOf(after).notes.map(({ id, startTicks }) => [id, startTicks / BAR])).toEqual([
      ['before', 1],
      ['first', 2],
      ['second', 5],
      ['after', 7],
    ]);
  });
});

describe('bars taken out', () => {
  const removed = (bar: number, bars: number) => done(planRemoval(song, bar, bars, createId));

  it('take what sounds within them out of a recording', () => {
    expect(windows(removed(2, 1))).toEqual([
      [0, 0, 2, 'a'],
      [1, 4, 4, 'b'],
      [7, 10, 10, 'c'],
    ]);
  });

  it('leave of a recording that begins within them what comes after, without its fade in', () => {
    const after = removed(9, 1);
    expect(windows(after)).toEqual([
      [0, 0, 8, 'ab'],
      [8, 12, 8, 'c'],
    ]);
    expect((after.parts[0] as RecordingPart).passages[1]).not.toHaveProperty('fadeInSeconds');
  });

  it('remove a passage that lies within them, and a take that nothing shows any more', () => {
    expect(windows(removed(9, 5))).toEqual([[0, 0, 8, 'ab']]);
    expect((removed(1, 14).parts[0] as RecordingPart).takes).toEqual([]);
  });
});

describe('another tempo or place', () => {
  it('keeps passages and what their windows show where they sound', () => {
    const after = done(planTempo(song, 90, 'sound'));
    const time = createTimeMap(after);
    const before = createTimeMap(song);
    const secondsOf = (each: Song, map: typeof time) =>
      placedNotes(each.parts[1] as NotePart).map(({ startTicks }) => map.secondsAt(startTicks));
    secondsOf(after, time).forEach((seconds, i) =>
      expect(seconds).toBeCloseTo(secondsOf(song, before)[i], 3),
    );
    expect(heard(after).map(([id]) => id)).toEqual(['first', 'second']);
    const starts = (after.parts[0] as RecordingPart).passages.map(({ startTicks }) =>
      time.secondsAt(startTicks),
    );
    expect(starts).toEqual([0, expect.closeTo(16, 3)]);
    // With their bars kept they start elsewhere and last as long as they were recorded.
    expect(windows(done(planTempo(song, 90, 'bars'))).map(([start, , length]) => [start, length])).toEqual([
      [0, 8],
      [8, 10],
    ]);
  });

  it('moves all passages of a part together', () => {
    expect(windows(done(planShift(song, 'voice', 2))).map(([start]) => start)).toEqual([1, 9]);
  });

  it('in another key moves each note once, also those of copies', () => {
    const copied = done({
      type: 'passage.copy',
      partId: 'voice',
      passageId: 'q',
      toId: 'r',
      startTicks: 20 * BAR,
    });
    const moved = done(planTranspose(copied, { fifths: 2, mode: 'major' }, 2).edit, copied);
    const rails = placedRecordings(moved.parts[0] as RecordingPart).map(({ line }) =>
      line!.notes.map(({ target }) => target?.midi),
    );
    expect(rails).toEqual([[62, 64], [66], [66]]);
  });
});
