import { describe, expect, it } from 'vitest';
import type { Contour } from '@plundra/core/reading';
import {
  applyEdit,
  createSong,
  createTimeMap,
  type Line,
  type LineNote,
  type Note,
  type NotePart,
  type RecordingPart,
  type Song,
} from '@plundra/core/song';
import { createLineEditor } from './lineEditor.ts';
import { copyNotes, type Change } from './noteEditing.ts';
import { createPassageEditor } from './passageEditor.ts';
import { replaceWithin } from './readingLines.ts';

const strip = { mark: 'XX', colour: 0, levelDb: 0, pan: 0, mute: false, solo: false };
const ids = () => {
  let next = 0;
  return () => `new${next++}`;
};
const contour: Contour = {
  hopSeconds: 0.01,
  f0Hz: new Float32Array(2000).fill(440),
  confidence: new Float32Array(2000).fill(1),
};

// 120 bpm: a second is 1920 ticks. The passage starts at bar 2, so its second 0 is second 2 of the song.
function lineSong(): {
  song: Song;
  edit: (make: (editor: ReturnType<typeof createLineEditor>) => Change | undefined) => LineNote[];
} {
  const note = (id: string, startSeconds: number, midi: number): LineNote => ({
    id,
    startSeconds,
    endSeconds: startSeconds + 0.5,
    midi,
    velocity: 80,
    confidence: 0.9,
  });
  const part: RecordingPart = {
    ...strip,
    kind: 'recording',
    id: 'p',
    name: 'Voice',
    material: 'voice',
    passages: [
      {
        type: 'recording',
        id: 't',
        startTicks: 3840,
        recordingHash: 'a'.repeat(64),
        offsetSeconds: 0,
        durationSeconds: 20,
        line: {
          readingId: 'r',
          tuningCents: 0,
          notes: [{ ...note('a', 1, 60.2), confidence: 0.6 }, note('b', 1.5, 62)],
        },
      },
    ],
  };
  const song = { ...createSong('s', 'Song'), parts: [part] };
  return {
    song,
    edit(make) {
      const change = make(createLineEditor('p', part.passages[0], contour, createTimeMap(song), ids()));
      const [after] = change ? applyEdit(song, change.edit).song.parts : song.parts;
      return after.kind === 'recording' ? after.passages[0].line!.notes : [];
    },
  };
}

describe('editing a line', () => {
  it('shows notes in song time on their rails', () => {
    const { song } = lineSong();
    const editor = createLineEditor(
      'p',
      (song.parts[0] as RecordingPart).passages[0],
      contour,
      createTimeMap(song),
      ids(),
    );
    expect(editor.notes[0]).toMatchObject({
      startSeconds: 3,
      endSeconds: 3.5,
      midi: 60,
      played: { midi: 60.2 },
    });
  });

  it('moves what a note should be and leaves what was played', () => {
    const [a] = lineSong().edit((editor) => editor.move(new Set(['a']), { seconds: 0.25, semitones: 2 }));
    expect(a).toMatchObject({
      startSeconds: 1,
      midi: 60.2,
      target: { midi: 62, startSeconds: 1.25, endSeconds: 1.75 },
    });
  });

  it('keeps doubtful notes as they are, without doubt, and touches no others', () => {
    const [a, b] = lineSong().edit((editor) => editor.keep!(new Set(['a', 'b'])));
    expect([a.confidence, b.confidence]).toEqual([1, 0.9]);
    expect(a).toMatchObject({ startSeconds: 1, midi: 60.2 });
    expect(a.target).toBeUndefined();
  });

  it('never moves before the start of the recording', () => {
    const [a] = lineSong().edit((editor) => editor.move(new Set(['a']), { seconds: -9, semitones: 0 }));
    expect(a.target).toMatchObject({ startSeconds: 0, endSeconds: 0.5 });
  });

  it('mutes notes and lets them sound again', () => {
    const muted = lineSong().edit((editor) => editor.mute(new Set(['a']), true));
    expect(muted.map((note) => note.muted)).toEqual([true, undefined]);
    const [a] = lineSong().edit((editor) => editor.mute(new Set(['a']), false));
    expect(a).not.toHaveProperty('muted');
  });

  it('trims in song time', () => {
    const [a] = lineSong().edit((editor) => editor.trim('a', 3.1, 3.4));
    expect(a.startSeconds).toBeCloseTo(1.1);
    expect(a.endSeconds).toBeCloseTo(1.4);
  });

  it('draws, cuts, joins and drops', () => {
    const drawn = lineSong().edit((editor) => editor.draw(5, 5.6, 69.4));
    expect(drawn[2].startSeconds).toBeCloseTo(3);
    expect(drawn[2].midi).toBeCloseTo(69);
    expect(lineSong().edit((editor) => editor.draw(5, 5.01, 69))).toHaveLength(2);
    expect(
      lineSong()
        .edit((editor) => editor.cut('b', 3.75))
        .map((note) => note.startSeconds),
    ).toEqual([1, 1.5, 1.75]);
    expect(lineSong().edit((editor) => editor.join(new Set(['a', 'b'])))).toMatchObject([
      { id: 'a', startSeconds: 1, endSeconds: 2, midi: 69 },
    ]);
    expect(
      lineSong()
        .edit((editor) => editor.drop(new Set(['a'])))
        .map((note) => note.id),
    ).toEqual(['b']);
    expect(lineSong().edit((editor) => editor.drop(new Set()))).toHaveLength(2);
  });

  it('raises velocities together within 1–127 and shifts octaves', () => {
    expect(
      lineSong()
        .edit((editor) => editor.setVelocity(new Set(['a', 'b']), (velocity) => velocity + 100))
        .map((note) => note.velocity),
    ).toEqual([127, 127]);
    expect(lineSong().edit((editor) => editor.octave(new Set(['b']), -1))[1].midi).toBe(50);
    expect(lineSong().edit((editor) => editor.setPitch(new Set(['a']), 61.5))[0].target?.midi).toBe(61.5);
  });

  it('copies and pastes with distances kept', () => {
    const notes = lineSong().edit((editor) =>
      editor.paste(copyNotes(editor.notes, new Set(['a', 'b']))!, 10),
    );
    expect(notes.slice(2).map((note) => note.startSeconds)).toEqual([8, 8.5]);
  });
});

describe('editing a note part', () => {
  const note = (id: string, startTicks: number, midi: number): Note => ({
    id,
    startTicks,
    lengthTicks: 480,
    midi,
    velocity: 80,
  });
  const part: NotePart = {
    ...strip,
    kind: 'notes',
    id: 'p',
    name: 'Flute',
    program: 73,
    passages: [
      {
        type: 'notes',
        id: 't',
        startTicks: 3840,
        lengthTicks: 2000,
        notes: [note('a', 0, 60), note('b', 480, 62)],
      },
    ],
  };
  const song = { ...createSong('s', 'Song'), parts: [part] };
  const edit = (make: (editor: ReturnType<typeof createPassageEditor>) => Change | undefined) => {
    const change = make(createPassageEditor('p', part.passages[0], createTimeMap(song), ids()));
    const [after] = change ? applyEdit(song, change.edit).song.parts : song.parts;
    return (after as NotePart).passages[0];
  };

  it('moves by ticks and whole semitones', () => {
    expect(
      edit((editor) => editor.move(new Set(['a']), { seconds: 0.25, semitones: 1 })).notes,
    ).toMatchObject(
      [{ id: 'b' }, { id: 'a', startTicks: 480, midi: 61 }].reverse().sort((x, y) => (x.id < y.id ? -1 : 1)),
    );
    expect(
      edit((editor) => editor.move(new Set(['a']), { seconds: -5, semitones: -99 })).notes[0],
    ).toMatchObject({ startTicks: 0, midi: 0 });
  });

  it('lets the passage grow with its notes', () => {
    const passage = edit((editor) => editor.draw(5, 6, 70));
    expect(passage.lengthTicks).toBe(7680 - 1920 + 1920);
    expect(passage.notes.at(-1)).toMatchObject({ startTicks: 5760, lengthTicks: 1920, midi: 70 });
  });

  it('cuts, joins, trims', () => {
    expect(
      edit((editor) => editor.cut('a', 2.125)).notes.map((each) => [each.startTicks, each.lengthTicks]),
    ).toEqual([
      [0, 240],
      [240, 240],
      [480, 480],
    ]);
    expect(edit((editor) => editor.join(new Set(['a', 'b']))).notes).toMatchObject([
      { startTicks: 0, lengthTicks: 960, midi: 60 },
    ]);
    expect(edit((editor) => editor.trim('b', 2.3, 2.6)).notes[1]).toMatchObject({
      startTicks: 576,
      lengthTicks: 576,
    });
    expect(
      edit((editor) => editor.trim('b', 9, 2.5)).notes.find((each) => each.id === 'b')?.lengthTicks,
    ).toBeGreaterThan(0);
  });

  it('sets pitch, octave, velocity; pastes', () => {
    expect(edit((editor) => editor.setPitch(new Set(['a']), 64.4)).notes[0].midi).toBe(64);
    expect(edit((editor) => editor.octave(new Set(['a']), 1)).notes[0].midi).toBe(72);
    expect(edit((editor) => editor.setVelocity(new Set(['a']), () => 0)).notes[0].velocity).toBe(1);
    expect(
      edit((editor) => editor.paste(copyNotes(editor.notes, new Set(['b']))!, 4)).notes.at(-1),
    ).toMatchObject({ startTicks: 3840, lengthTicks: 480, midi: 62 });
  });
});

describe('reading a range again', () => {
  it('exchanges the notes that start in it, and no others', () => {
    const note = (id: string, startSeconds: number) => ({
      id,
      startSeconds,
      endSeconds: startSeconds + 0.4,
      midi: 60,
      velocity: 80,
      confidence: 0.9,
    });
    const line: Line = {
      readingId: 'a',
      reads: 'notes',
      tuningCents: 0,
      notes: [note('n1', 0.5), note('n2', 1.9), note('n3', 2), note('n4', 3)],
    };
    const fresh: Line = {
      ...line,
      notes: [note('n1', 1.5), note('n2', 2.2), note('n3', 2.4), note('n4', 3.1)],
    };
    const { remove, put } = replaceWithin(line, fresh, { fromSeconds: 2, toSeconds: 3 });
    expect(remove).toEqual(['n3']);
    expect(put.map(({ startSeconds }) => startSeconds)).toEqual([2.2, 2.4]);
    // Fresh notes must not take the names of those that stay.
    for (const { id } of put) expect(line.notes.map((each) => each.id)).not.toContain(id);
  });
});
