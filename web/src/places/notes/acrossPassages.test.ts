import { describe, expect, it } from 'vitest';
import {
  applyEdit,
  createSong,
  createTimeMap,
  placedRecordings,
  soundsUntil,
  type LineNote,
  type NotePart,
  type RecordingPart,
  type SimpleEdit,
  type Song,
} from '@plundra/core/song';
import { acrossPassages } from './acrossPassages.ts';
import { createLineEditor } from './lineEditor.ts';
import type { LabelledEdit } from './noteEditing.ts';
import { createOnsetEditor } from './onsetEditor.ts';
import { createPassageEditor } from './passageEditor.ts';

const look = { mark: 'XX', colour: 0, levelDb: 0, pan: 0, mute: false, solo: false };
const note = (id: string, startSeconds: number, midi: number): LineNote => ({
  id,
  startSeconds,
  endSeconds: startSeconds + 0.5,
  midi,
  velocity: 80,
  confidence: 0.5,
});
const contour = { hopSeconds: 0.1, f0Hz: new Float32Array(100).fill(220), confidence: new Float32Array(100) };
// 120 bpm: a second is 1920 ticks. The second half of the take lies at second 10, before its first half.
const voice: RecordingPart = {
  ...look,
  kind: 'recording',
  id: 'voice',
  name: 'Lead voice',
  material: 'voice',
  takes: [
    {
      id: 't',
      recordingHash: 'a'.repeat(64),
      line: { readingId: 'r', tuningCents: 0, notes: [note('a', 1, 60), note('b', 5, 62), note('c', 6, 64)] },
    },
  ],
  passages: [
    { type: 'recording', id: 'p', takeId: 't', startTicks: 20 * 1920, offsetSeconds: 0, durationSeconds: 4 },
    { type: 'recording', id: 'q', takeId: 't', startTicks: 10 * 1920, offsetSeconds: 4, durationSeconds: 4 },
  ],
};
const song: Song = { ...createSong('s', 'Song'), parts: [voice] };
const time = createTimeMap(song);
let ids = 0;
const createId = () => `new${ids++}`;
const editing = acrossPassages(
  placedRecordings(voice).map((passage) => {
    const fromSeconds = time.secondsAt(passage.startTicks);
    return {
      editing: createLineEditor('voice', passage, contour, time, createId),
      fromSeconds,
      toSeconds: fromSeconds + passage.durationSeconds,
    };
  }),
  time,
)!;
const lineAfter = (change: LabelledEdit | undefined) =>
  (applyEdit(song, change!.edit).song.parts[0] as RecordingPart).takes[0].line!.notes;

describe('editing all passages of a recording', () => {
  it('shows their notes where they lie in the song', () => {
    expect(editing.notes.map(({ id, startSeconds, passageId }) => [id, startSeconds, passageId])).toEqual([
      ['b', 11, 'q'],
      ['c', 12, 'q'],
      ['a', 21, 'p'],
    ]);
  });

  it('changes notes of several passages in one step, and says how many', () => {
    const change = editing.setVelocity(new Set(['a', 'b', 'c']), () => 100);
    expect(change?.label).toBe('Set velocity of 3 notes');
    expect(lineAfter(change).map(({ velocity }) => velocity)).toEqual([100, 100, 100]);
    const kept = editing.keep?.(new Set(['a', 'b']));
    expect(lineAfter(kept).map(({ confidence }) => confidence)).toEqual([1, 1, 0.5]);
    expect(editing.drop(new Set(['a', 'c']))).toMatchObject({ label: 'Drop 2 notes', select: [] });
  });

  it('draws in the passage that lies there, at the second of the recording', () => {
    const drawn = lineAfter(editing.draw(13, 13.4, 67)).find(({ id }) => id.startsWith('new'));
    expect(drawn?.startSeconds).toBeCloseTo(7);
    const later = lineAfter(editing.draw(22.5, 23, 67)).find(({ id }) => id.startsWith('new'));
    expect(later?.startSeconds).toBeCloseTo(2.5);
  });

  it('joins within passages, not across them', () => {
    expect(editing.join(new Set(['a', 'b']))).toBeUndefined();
    expect(lineAfter(editing.join(new Set(['a', 'b', 'c']))).map(({ id }) => id)).toEqual(['a', 'b']);
  });

  it('pastes each note into the passage that lies there', () => {
    const clip = editing.copy(new Set(['a', 'b']))!;
    const pasted = lineAfter(editing.paste(clip, 1920));
    const made = pasted.filter(({ id }) => id.startsWith('new')).map(({ startSeconds }) => startSeconds);
    [2, 6].forEach((seconds, i) => expect(made[i]).toBeCloseTo(seconds));
  });

  it('shows and trims a note that was sung across a cut as far as it sounds', () => {
    // The same take, cut at second 5.5: b lasts from 5 to 5.8.
    const [first, second] = [
      { ...voice.passages[0], startTicks: 0, durationSeconds: 5.5 },
      { ...voice.passages[1], startTicks: 5.5 * 1920, offsetSeconds: 5.5, durationSeconds: 2.5 },
    ];
    const long = { ...note('b', 5, 62), endSeconds: 5.8 };
    const cutVoice = (passages: RecordingPart['passages']): RecordingPart => ({
      ...voice,
      takes: [{ ...voice.takes[0], line: { ...voice.takes[0].line!, notes: [long] } }],
      passages,
    });
    const editorOf = (part: RecordingPart) => {
      const [passage] = placedRecordings(part);
      const until = soundsUntil(part, time).get(passage.id);
      return createLineEditor('voice', passage, contour, time, createId, 'name', until);
    };
    const endOf = (change: LabelledEdit | undefined) =>
      (change!.edit as Extract<SimpleEdit, { type: 'line.notes' }>).put[0].endSeconds;
    const goesOn = editorOf(cutVoice([first, second]));
    expect(goesOn.notes[0].endSeconds).toBeCloseTo(5.8);
    expect(endOf(goesOn.trim('b', 5, 5.7))).toBeCloseTo(5.7);
    expect(endOf(goesOn.trim('b', 5, 9))).toBeCloseTo(5.8);
    const ends = editorOf(cutVoice([first, { ...second, startTicks: 6 * 1920 }]));
    expect(ends.notes[0].endSeconds).toBeCloseTo(5.5);
    expect(endOf(ends.trim('b', 5, 5.7))).toBeCloseTo(5.5);
  });

  it('of one passage is its own editing, and of none is nothing', () => {
    const only = createLineEditor('voice', placedRecordings(voice)[0], contour, time, createId);
    expect(acrossPassages([{ editing: only, fromSeconds: 0, toSeconds: 1 }], time)).toBe(only);
    expect(acrossPassages([], time)).toBeNull();
  });
});

describe('editing a passage of notes that is a window', () => {
  const keys: NotePart = {
    ...look,
    kind: 'notes',
    id: 'keys',
    name: 'Electric piano',
    program: 4,
    passages: [
      {
        type: 'notes',
        id: 'k',
        startTicks: 3840,
        lengthTicks: 1920,
        offsetTicks: 960,
        notes: [0, 960, 1920, 3840].map((startTicks, i) => ({
          id: `n${i}`,
          startTicks,
          lengthTicks: 480,
          midi: 60,
          velocity: 80,
        })),
      },
    ],
  };
  const windowed: Song = { ...createSong('s', 'Song'), parts: [keys] };
  const editor = createPassageEditor('keys', keys.passages[0], time, createId);
  const after = (change: LabelledEdit | undefined) =>
    (applyEdit(windowed, change!.edit).song.parts[0] as NotePart).passages[0];

  it('shows and changes only what it shows', () => {
    expect(editor.notes.map(({ id, startSeconds }) => [id, startSeconds])).toEqual([
      ['n1', 2],
      ['n2', 2.5],
    ]);
    const louder = after(editor.setVelocity(new Set(['n0', 'n1', 'n2', 'n3']), () => 99));
    expect(louder.notes.map(({ velocity }) => velocity)).toEqual([80, 99, 99, 80]);
  });

  it('grows to show what is put beyond its edges; what it hid lies where it lay', () => {
    const grown = after(editor.draw(3.25, 3.5, 72));
    expect(grown).toMatchObject({ startTicks: 3840, offsetTicks: 960, lengthTicks: 2880 });
    const earlier = after(editor.draw(1.75, 2, 72));
    // At the place where a hidden note would have begun, half a beat before.
    expect(earlier).toMatchObject({ startTicks: 3360, offsetTicks: 480, lengthTicks: 2400 });
    expect(earlier.notes.map(({ startTicks }) => startTicks)).toEqual([0, 480, 960, 1920, 3840]);
  });
});

describe('onsets of a take that several passages show', () => {
  const stretch = {
    how: 'stretch' as const,
    semitones: 0,
    onsets: [1, 5, 6].map((seconds) => ({ id: `o${seconds}`, seconds })),
  };

  it('are shown by the passage in which they lie, and moved without loss of the others', () => {
    const [second, first] = placedRecordings(voice).map((passage) =>
      createOnsetEditor('voice', { ...passage, line: null, stretch }, stretch, time, createId),
    );
    expect(first.notes.map(({ id, startSeconds }) => [id, startSeconds])).toEqual([['o1', 21]]);
    expect(second.notes.map(({ id, startSeconds }) => [id, startSeconds])).toEqual([
      ['o5', 11],
      ['o6', 12],
    ]);
    const moved = second.move(new Set(['o5']), { seconds: 0.1, semitones: 0 });
    const { takes } = applyEdit(song, moved!.edit).song.parts[0] as RecordingPart;
    expect(takes[0].stretch!.onsets.map(({ seconds, targetSeconds }) => [seconds, targetSeconds])).toEqual([
      [1, undefined],
      [5, expect.closeTo(5.1)],
      [6, undefined],
    ]);
  });
});
