import { describe, expect, it } from 'vitest';
import { lineNote, notePart, recordingPart, songWith } from '../test/songs.ts';
import {
  applyEdit,
  createTimeMap,
  findPassages,
  placedNotes,
  placedRecordings,
  planSplit,
  soundingNotesOf,
  soundingSpans,
  soundsUntil,
  type Note,
  type NotePart,
  type RecordingPart,
  type RecordingPassage,
  type Song,
} from './index.ts';

// 120 bpm: a second is 1920 ticks.
const time = createTimeMap(songWith());
const notes = [lineNote('a', 1, 2, 60), lineNote('b', 5, 6, 62), lineNote('c', 9, 9.5, 64)];
const whole = recordingPart(notes);
const window = (
  id: string,
  startSeconds: number,
  offsetSeconds: number,
  durationSeconds: number,
  more: Partial<RecordingPassage> = {},
): RecordingPassage => ({
  type: 'recording',
  id,
  takeId: 'take',
  startTicks: startSeconds * 1920,
  offsetSeconds,
  durationSeconds,
  ...more,
});
const partOf = (...passages: RecordingPassage[]): RecordingPart => ({ ...whole, passages });
const linesOf = (part: RecordingPart) =>
  placedRecordings(part).map(({ id, line }) => `${id}: ${line!.notes.map((note) => note.id).join('')}`);
const spansOf = (part: RecordingPart) =>
  soundingSpans(part, time).map(
    ({ passageId, originSeconds, fromSeconds, toSeconds }) =>
      `${passageId} ${originSeconds + fromSeconds}–${originSeconds + toSeconds} of ${fromSeconds}`,
  );

describe('notes of a take', () => {
  it('have one place, in the passage in which they begin', () => {
    expect(linesOf(partOf(window('q', 0, 5.5, 54.5), window('p', 20, 0, 5.5)))).toEqual(['q: c', 'p: ab']);
    // Trimmed away, they are hidden; a window that reaches them again shows them.
    expect(linesOf(partOf(window('p', 0, 2, 5)))).toEqual(['p: b']);
    expect(linesOf(partOf(window('p', 0, 0, 60)))).toEqual(['p: abc']);
  });

  it('that were begun just before a cut belong behind it, and to nothing where that is not shown', () => {
    // b begins at 5: cut 40 ms later it goes on whole behind the cut, 60 ms later it stays before it.
    const cutAt = (seconds: number) =>
      linesOf(partOf(window('p', 0, 0, seconds), window('q', 20, seconds, 60 - seconds)));
    expect(cutAt(5.04)).toEqual(['p: a', 'q: bc']);
    expect(cutAt(5.06)).toEqual(['p: ab', 'q: c']);
    expect(linesOf(partOf(window('p', 0, 0, 5.04)))).toEqual(['p: a']);
    // Of a short note a quarter counts: c lasts 80 ms here.
    const short = recordingPart([lineNote('c', 9, 9.08, 64)]);
    const shown = (seconds: number) =>
      linesOf({ ...short, passages: [window('p', 0, 0, seconds), window('q', 20, seconds, 1)] });
    expect(shown(9.019)).toEqual(['p: ', 'q: c']);
    expect(shown(9.021)).toEqual(['p: c', 'q: ']);
  });

  it('are the same objects as long as nothing of them changes', () => {
    const first = window('p', 0, 0, 4);
    const before = placedRecordings(partOf(first, window('q', 8, 4, 56)));
    const after = placedRecordings(partOf(first, window('q', 12, 4, 56)));
    expect(after[0]).toBe(before[0]);
    expect(placedRecordings(whole)[0].line).toBe(whole.takes[0].line);
    // The line of a passage that is only moved; another end shows another.
    expect(after[1].line).toBe(before[1].line);
    expect(linesOf(partOf(first, window('q', 12, 4, 3)))).toEqual(['p: a', 'q: b']);
    expect(linesOf(partOf(first, window('q', 12, 8, 52)))).toEqual(['p: a', 'q: c']);
  });

  it('know how much of their take is shown in all', () => {
    const both = partOf(window('p', 0, 2, 3), window('q', 9, 7, 2));
    expect(placedRecordings(both).map(({ shownSeconds }) => shownSeconds)).toEqual([
      { from: 2, to: 9 },
      { from: 2, to: 9 },
    ]);
  });
});

describe('recordings that overlap', () => {
  it('give way to the one that begins later, and come back when it ends', () => {
    expect(spansOf(partOf(window('p', 0, 0, 10), window('q', 4, 20, 2)))).toEqual([
      'p 0–4 of 0',
      'q 4–6 of 20',
      'p 6–10 of 6',
    ]);
    expect(spansOf(partOf(window('p', 0, 0, 10), window('q', 4, 20, 20)))).toEqual([
      'p 0–4 of 0',
      'q 4–24 of 20',
    ]);
  });

  it('three deep, each moment sounds once', () => {
    const part = partOf(window('p', 0, 0, 10), window('q', 2, 20, 6), window('r', 4, 40, 2));
    expect(spansOf(part)).toEqual(['p 0–2 of 0', 'q 2–4 of 20', 'r 4–6 of 40', 'q 6–8 of 24', 'p 8–10 of 8']);
  });

  it('neither sound nor cover where they are muted', () => {
    expect(spansOf(partOf(window('p', 0, 0, 10), window('q', 4, 20, 2, { muted: true })))).toEqual([
      'p 0–10 of 0',
    ]);
  });
});

describe('how far a passage sounds', () => {
  const until = (...passages: RecordingPassage[]) =>
    Object.fromEntries(soundsUntil(partOf(...passages), time));

  it('ends with it where something else follows, or nothing, or the same a little later', () => {
    expect(until(window('p', 0, 0, 4), window('q', 4, 8, 2))).toEqual({ p: 4, q: 10 });
    expect(until(window('p', 0, 0, 4), window('q', 4.5, 4, 2))).toEqual({ p: 4, q: 6 });
    expect(until(window('p', 0, 0, 4), window('q', 4, 4, 2, { gainDb: -6 }))).toEqual({ p: 4, q: 6 });
    expect(until(window('p', 0, 0, 4), window('q', 4, 4, 2, { muted: true }))).toEqual({ p: 4, q: 6 });
    expect(until(window('p', 0, 0, 4), window('q', 4, 4, 2, { spare: true }))).toEqual({ p: 4 });
  });

  it('reaches to where another covers what follows, and no further', () => {
    expect(until(window('p', 0, 0, 4), window('q', 4, 4, 4), window('r', 6, 20, 1))).toEqual({
      p: 6,
      q: 8,
      r: 21,
    });
  });

  it('ends with it where it sounds at a speed of its own', () => {
    // Half as fast, so its seconds in the song are more than those of its recording.
    const clock = { keeps: 'song', bpm: 240 } as const;
    expect(until(window('p', 0, 0, 4, { clock }), window('q', 8, 4, 2, { clock }))).toEqual({ p: 4, q: 6 });
  });
});

describe('pieces that follow each other as they were recorded', () => {
  it('are one: a cut alone is not heard', () => {
    const cut = partOf(window('p', 0, 0, 4), window('q', 4, 4, 2), window('r', 6, 6, 1));
    expect(spansOf(cut)).toEqual(['p 0–7 of 0']);
    // So a note sung across a cut is heard to its end.
    expect([...soundsUntil(cut, time)]).toEqual([
      ['p', 7],
      ['q', 7],
      ['r', 7],
    ]);
  });

  it.each<[string, Partial<RecordingPassage>]>([
    ['another level', { gainDb: -6 }],
    ['a fade', { fadeInSeconds: 0.1 }],
    ['another place', { startTicks: 4.1 * 1920 }],
    ['another piece', { offsetSeconds: 4.1 }],
  ])('are not where one has %s', (_, more) => {
    expect(spansOf(partOf(window('p', 0, 0, 4), window('q', 4, 4, 2, more)))).toHaveLength(2);
  });

  it('are one also after a hundred cuts, none of them on a beat', () => {
    const slow = { ...songWith(whole), tempoMap: [{ startTicks: 0, bpm: 92 }] };
    const at92 = createTimeMap(slow);
    let [song, made]: [Song, number] = [slow, 0];
    for (let i = 1; i <= 100; i++) {
      const places = song.parts[0].passages.map(({ id }) => ({ partId: 'voice', passageId: id }));
      const cut = planSplit(findPassages(song, places), i * 767, at92, () => `piece${made++}`);
      song = applyEdit(song, cut!).song;
    }
    const part = song.parts[0] as RecordingPart;
    expect(part.passages).toHaveLength(101);
    expect(soundingSpans(part, at92)).toEqual(soundingSpans(whole, at92));
  });

  it('keep the fades at their ends', () => {
    const part = partOf(
      window('p', 0, 0, 4, { fadeInSeconds: 1 }),
      window('q', 4, 4, 2, { fadeOutSeconds: 0.5 }),
    );
    expect(soundingSpans(part, time)).toMatchObject([
      { fadeInSeconds: 1, fadeOutSeconds: 0.5, toSeconds: 6 },
    ]);
  });
});

describe('a passage of notes', () => {
  const note = (id: string, startTicks: number, more: Partial<Note> = {}): Note => ({
    id,
    startTicks,
    lengthTicks: 480,
    midi: 60,
    velocity: 80,
    ...more,
  });
  const part = (more: object): NotePart =>
    ({
      ...notePart([]),
      passages: [
        {
          type: 'notes',
          id: 'p',
          startTicks: 3840,
          lengthTicks: 960,
          notes: [
            note('a', 0),
            note('b', 960),
            note('c', 1800, { bends: [{ afterTicks: 300, semitones: 1 }] }),
          ],
          ...more,
        },
      ],
    }) as NotePart;
  const heard = (each: NotePart) =>
    placedNotes(each).map(({ id, startTicks, lengthTicks }) => [id, startTicks, lengthTicks]);

  it('sounds whole as long as it is no window', () => {
    expect(heard(part({}))).toEqual([
      ['a', 3840, 480],
      ['b', 4800, 480],
      ['c', 5640, 480],
    ]);
  });

  it('as a window hides what begins outside it, and ends what rings beyond it, with its bends', () => {
    const windowed = part({ offsetTicks: 960 });
    expect(heard(windowed)).toEqual([
      ['b', 3840, 480],
      ['c', 4680, 120],
    ]);
    expect(placedNotes(windowed)[1].bends).toBeUndefined();
  });

  it('does not sound where it or its notes are muted', () => {
    expect(soundingNotesOf(part({ muted: true }))).toEqual([]);
    expect(soundingNotesOf(part({ notes: [note('a', 0, { muted: true }), note('b', 9)] }))).toHaveLength(1);
  });
});
