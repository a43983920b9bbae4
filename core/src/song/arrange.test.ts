import { describe, expect, it } from 'vitest';
import { lineNote, notePart, recordingPart, songWith } from '../test/songs.ts';
import {
  applyEdit,
  createTimeMap,
  EditError,
  findPassages,
  lengthTogether,
  placedNotes,
  placedRecordings,
  planCopies,
  planJoin,
  planMove,
  planPassageRemoval,
  planRepeat,
  planSplit,
  planTrim,
  songSchema,
  soundingSpans,
  type Edit,
  type Note,
  type NotePart,
  type RecordingPart,
  type Song,
} from './index.ts';

const BAR = 3840;
const note = (id: string, startTicks: number, more: Partial<Note> = {}): Note => ({
  id,
  startTicks,
  lengthTicks: 480,
  midi: 60,
  velocity: 80,
  ...more,
});
const voice = recordingPart([
  lineNote('a', 1, 2, 60),
  lineNote('b', 3.8, 4.6, 62),
  lineNote('c', 9, 9.5, 64),
]);
const flute: NotePart = {
  ...notePart([]),
  passages: [
    {
      type: 'notes',
      id: 'p',
      startTicks: BAR,
      lengthTicks: 2 * BAR,
      notes: [note('n0', 0), note('n1', 1800), note('n2', 3840)],
    },
  ],
};
const song = songWith(voice, flute);
// 120 bpm in 4/4: a bar is two seconds.
const time = createTimeMap(song);
const VOICE = { partId: 'voice', passageId: 'take' };
const FLUTE = { partId: 'flute', passageId: 'p' };
let ids = 0;
const createId = () => `new${ids++}`;

/** Applies it; whatever is arranged can be stored and taken back. */
function done(before: Song, edit: Edit | undefined): Song {
  const applied = applyEdit(before, edit!);
  expect(songSchema.safeParse(applied.song).error?.issues ?? []).toEqual([]);
  expect(applyEdit(applied.song, applied.inverse).song).toEqual(before);
  return applied.song;
}
const voiceOf = (each: Song) => each.parts[0] as RecordingPart;
const fluteOf = (each: Song) => each.parts[1] as NotePart;
const placesOf = (part: RecordingPart | NotePart) =>
  part.passages.map(({ id }) => ({ partId: part.id, passageId: id }));
const heard = (part: RecordingPart) =>
  placedRecordings(part).map(({ startTicks, offsetSeconds, durationSeconds, line }) => [
    startTicks / BAR,
    offsetSeconds,
    durationSeconds,
    line!.notes.map(({ id }) => id).join(''),
  ]);
const notesOf = (part: NotePart) =>
  placedNotes(part).map(({ id, startTicks, lengthTicks }) => [id, startTicks, lengthTicks]);

describe('splitting', () => {
  it('parts a recording and its notes; joining brings it back as it was', () => {
    const split = done(song, planSplit(findPassages(song, [VOICE]), 2 * BAR, time, createId));
    expect(heard(voiceOf(split))).toEqual([
      [0, 0, 4, 'ab'],
      [2, 4, 56, 'c'],
    ]);
    const joined = done(split, planJoin(findPassages(split, placesOf(voiceOf(split))), time));
    expect(joined).toEqual(song);
  });

  it('a hundred times anywhere adds up to the whole, to the last bit', () => {
    let split = songWith({
      ...voice,
      passages: [{ ...voice.passages[0], offsetSeconds: 0.1, durationSeconds: 59.123456789 }],
    });
    const whole = split;
    for (let i = 1; i <= 100; i++)
      split = applyEdit(
        split,
        planSplit(findPassages(split, placesOf(voiceOf(split))), i * 997, time, createId)!,
      ).song;
    expect(voiceOf(split).passages).toHaveLength(101);
    const joined = done(split, planJoin(findPassages(split, placesOf(voiceOf(split))), time));
    expect(joined).toEqual(whole);
    // What is heard is the whole, as if nothing had happened.
    const heardOf = (each: Song) => soundingSpans(voiceOf(each), time);
    expect(heardOf(split)).toEqual(heardOf(whole));
  });

  it('leaves fades where they are', () => {
    const faded = songWith({
      ...voice,
      passages: [{ ...voice.passages[0], fadeInSeconds: 0.5, fadeOutSeconds: 2, gainDb: -3 }],
    });
    const split = done(faded, planSplit(findPassages(faded, [VOICE]), 2 * BAR, time, createId));
    const [first, second] = voiceOf(split).passages;
    expect([first.fadeInSeconds, first.fadeOutSeconds, first.gainDb]).toEqual([0.5, undefined, -3]);
    expect([second.fadeInSeconds, second.fadeOutSeconds, second.gainDb]).toEqual([undefined, 2, -3]);
    expect(done(split, planJoin(findPassages(split, placesOf(voiceOf(split))), time))).toEqual(faded);
  });

  it('parts notes; one that crosses the cut sounds as far as its passage goes, until they are joined', () => {
    const split = done(song, planSplit(findPassages(song, [FLUTE]), BAR + 1920, time, createId));
    expect(notesOf(fluteOf(split))).toEqual([
      ['n0', BAR, 480],
      ['n1', BAR + 1800, 120],
      ['n2', 2 * BAR, 480],
    ]);
    expect(fluteOf(split).passages.map(({ notes }) => notes.length)).toEqual([2, 1]);
    const joined = done(split, planJoin(findPassages(split, placesOf(fluteOf(split))), time));
    expect(joined).toEqual(song);
  });

  it('does nothing outside, or at an edge', () => {
    for (const at of [0, 10, 40 * BAR])
      expect(planSplit(findPassages(song, [VOICE, FLUTE]), at, time, createId)).toBeUndefined();
  });
});

describe('joining', () => {
  it('is refused with a reason where pieces do not follow each other', () => {
    const split = done(song, planSplit(findPassages(song, [VOICE]), 2 * BAR, time, createId));
    const [first, second] = placesOf(voiceOf(split));
    const apart = done(split, planMove(findPassages(split, [second]), BAR));
    expect(() => planJoin(findPassages(apart, [first, second]), time)).toThrow(/follow each other/);
    expect(() => planJoin(findPassages(apart, [first]), time)).toThrow(EditError);
  });

  it('makes one of notes that lie apart, as they sound', () => {
    const split = done(song, planSplit(findPassages(song, [FLUTE]), BAR + 1920, time, createId));
    const apart = done(split, planMove(findPassages(split, [placesOf(fluteOf(split))[1]]), BAR));
    const before = notesOf(fluteOf(apart));
    const joined = done(apart, planJoin(findPassages(apart, placesOf(fluteOf(apart))), time));
    expect(fluteOf(joined).passages).toHaveLength(1);
    expect(notesOf(fluteOf(joined))).toEqual(before);
  });
});

describe('trimming', () => {
  const trim = (each: Song, place: typeof VOICE, edge: 'start' | 'end', to: number) =>
    planTrim(findPassages(each, [place])[0], edge, to, time, 60);

  it('hides what is outside and brings it back', () => {
    let trimmed = done(song, trim(song, VOICE, 'start', BAR));
    trimmed = done(trimmed, trim(trimmed, VOICE, 'end', 4 * BAR));
    expect(heard(voiceOf(trimmed))).toEqual([[1, 2, 6, 'b']]);
    let back = done(trimmed, trim(trimmed, VOICE, 'start', -500));
    back = done(back, trim(back, VOICE, 'end', 90 * BAR));
    expect(back).toEqual(song);
  });

  it('stops at another passage of the same take', () => {
    const split = done(song, planSplit(findPassages(song, [VOICE]), 2 * BAR, time, createId));
    const [first, second] = placesOf(voiceOf(split));
    const moved = done(split, planMove(findPassages(split, [second]), 4 * BAR));
    expect(trim(moved, first, 'end', 5 * BAR)).toBeUndefined();
    expect(trim(moved, second, 'start', 5 * BAR)).toBeUndefined();
    const shorter = done(moved, trim(moved, first, 'end', BAR));
    // What the first gave up the second can show.
    expect(heard(voiceOf(done(shorter, trim(shorter, second, 'start', 0))))[1]).toEqual([5, 2, 58, 'bc']);
  });

  it('of notes hides those that begin outside', () => {
    let trimmed = done(song, trim(song, FLUTE, 'start', BAR + 960));
    trimmed = done(trimmed, trim(trimmed, FLUTE, 'end', 2 * BAR));
    expect(notesOf(fluteOf(trimmed))).toEqual([['n1', BAR + 1800, 480]]);
    const back = done(trimmed, trim(trimmed, FLUTE, 'start', 0));
    // Not before its notes begin to count.
    expect(fluteOf(back).passages[0]).toMatchObject({ startTicks: BAR, offsetTicks: 0 });
    expect(notesOf(fluteOf(back)).map(([id]) => id)).toEqual(['n0', 'n1']);
  });
});

describe('copies', () => {
  it('lie end to end, each with notes and a take of its own', () => {
    const short = done(song, planTrim(findPassages(song, [VOICE])[0], 'end', 2 * BAR, time, 60));
    const copies = planCopies(findPassages(short, [VOICE, FLUTE]), 2, time, createId)!;
    const copied = done(short, copies.edit);
    // Together they last from bar 1 to the end of bar 3.
    expect(voiceOf(copied).passages.map(({ startTicks }) => startTicks / BAR)).toEqual([0, 3, 6]);
    expect(fluteOf(copied).passages.map(({ startTicks }) => startTicks / BAR)).toEqual([1, 4, 7]);
    expect(new Set(voiceOf(copied).passages.map(({ takeId }) => takeId)).size).toBe(3);
    const names = placedRecordings(voiceOf(copied)).flatMap(({ line }) => line!.notes.map(({ id }) => id));
    expect(new Set(names).size).toBe(names.length);
    expect(copies.places).toHaveLength(4);
    // Correcting the copy leaves the first alone.
    const tuned = done(copied, {
      type: 'line.adjust',
      partId: 'voice',
      takeId: voiceOf(copied).passages[1].takeId,
      which: 'all',
      add: { railSemitones: 3 },
      set: {},
    });
    expect(voiceOf(tuned).takes[0]).toEqual(voiceOf(copied).takes[0]);
  });

  it('repeat to a bar, and the last ends there', () => {
    const loop = done(song, planTrim(findPassages(song, [VOICE])[0], 'end', 2 * BAR, time, 60));
    const repeated = done(loop, planRepeat(findPassages(loop, [VOICE]), 7 * BAR, time, createId)!.edit);
    expect(heard(voiceOf(repeated)).map(([start, , length]) => [start, length])).toEqual([
      [0, 4],
      [2, 4],
      [4, 4],
      [6, 2],
    ]);
    expect(planRepeat(findPassages(loop, [VOICE]), 2 * BAR, time, createId)).toBeUndefined();
    expect(() => planRepeat(findPassages(loop, [VOICE]), 4000 * BAR, time, createId)).toThrow(
      /500 are the most/,
    );
    // Notes as well.
    const notes = done(song, planRepeat(findPassages(song, [FLUTE]), 4 * BAR, time, createId)!.edit);
    expect(notesOf(fluteOf(notes)).map(([, start]) => start)).toEqual([
      BAR,
      BAR + 1800,
      2 * BAR,
      3 * BAR,
      3 * BAR + 1800,
    ]);
  });

  it('of a loop that was cut by ear go by the beat it nearly ends on', () => {
    const cut = songWith({ ...voice, passages: [{ ...voice.passages[0], durationSeconds: 3.97 }] });
    expect(lengthTogether(findPassages(cut, [VOICE]), time)).toBe(2 * BAR);
    const odd = songWith({ ...voice, passages: [{ ...voice.passages[0], durationSeconds: 3.8 }] });
    expect(lengthTogether(findPassages(odd, [VOICE]), time)).toBe(Math.round(3.8 * 1920));
  });
});

describe('moving and removing', () => {
  it('keeps passages together, and nothing goes before the song', () => {
    const moved = done(song, planMove(findPassages(song, [FLUTE]), -9 * BAR));
    expect(fluteOf(moved).passages[0].startTicks).toBe(0);
    expect(planMove(findPassages(song, [VOICE, FLUTE]), -BAR)).toBeUndefined();
    const both = done(song, planMove(findPassages(song, [VOICE, FLUTE]), 480));
    expect([voiceOf(both), fluteOf(both)].map(({ passages }) => passages[0].startTicks)).toEqual([
      480,
      BAR + 480,
    ]);
  });

  it('takes along a take that nothing shows any more', () => {
    const split = done(song, planSplit(findPassages(song, [VOICE]), 2 * BAR, time, createId));
    const [first, second] = placesOf(voiceOf(split));
    const one = done(split, planPassageRemoval(findPassages(split, [second])));
    expect(voiceOf(one).takes).toHaveLength(1);
    const none = done(one, planPassageRemoval(findPassages(one, [first])));
    expect(voiceOf(none)).toMatchObject({ takes: [], passages: [] });
  });
});
