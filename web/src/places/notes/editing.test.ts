import { describe, expect, it } from 'vitest';
import type { Contour } from '@plundra/core/reading';
import {
  applyEdit,
  createSong,
  createTimeMap,
  channelBends,
  soundingMidi,
  withBends,
  type Line,
  type LineNote,
  type Note,
  type NotePart,
  type NotePassage,
  type RecordingPart,
  type Song,
  placedRecordings,
} from '@plundra/core/song';
import { isCorrected } from '@plundra/core/retune';
import { notesOfPassage } from './canvasNote.ts';
import { createLineEditor } from './lineEditor.ts';
import { followed, type LabelledEdit } from './noteEditing.ts';
import { createPassageEditor } from './passageEditor.ts';
import { replaceWithin } from '../../song/readingLines.ts';

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
  edit: (
    make: (editor: ReturnType<typeof createLineEditor>) => LabelledEdit | undefined,
    pitchMeans?: 'name' | 'target',
  ) => LineNote[];
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
    takes: [
      {
        id: 't',
        recordingHash: 'a'.repeat(64),
        line: {
          readingId: 'r',
          tuningCents: 0,
          notes: [{ ...note('a', 1, 60.2), confidence: 0.6 }, note('b', 1.5, 62)],
        },
      },
    ],
    passages: [
      { type: 'recording', id: 't', takeId: 't', startTicks: 3840, offsetSeconds: 0, durationSeconds: 20 },
    ],
  };
  const song = { ...createSong('s', 'Song'), parts: [part] };
  return {
    song,
    edit(make, pitchMeans) {
      const change = make(
        createLineEditor('p', placedRecordings(part)[0], contour, createTimeMap(song), ids(), pitchMeans),
      );
      const [after] = change ? applyEdit(song, change.edit).song.parts : song.parts;
      return after.kind === 'recording' ? after.takes[0].line!.notes : [];
    },
  };
}

describe('editing a line', () => {
  it('shows notes in song time on their rails', () => {
    const { song } = lineSong();
    const editor = createLineEditor(
      'p',
      placedRecordings(song.parts[0] as RecordingPart)[0],
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

  it('says in Tune what a note should be, and leaves what was played', () => {
    const [a] = lineSong().edit(
      (editor) => editor.move(new Set(['a']), { seconds: 0.25, semitones: 2 }),
      'target',
    );
    expect(a).toMatchObject({
      startSeconds: 1,
      midi: 60.2,
      target: { midi: 62, startSeconds: 1.25, endSeconds: 1.75 },
    });
    expect(a.namedMidi).toBeUndefined();
  });

  it('says in Clean up what note it was: by keys, dragging and typing, and no sound changes', () => {
    const moved = lineSong().edit((editor) => editor.move(new Set(['a']), { seconds: 0, semitones: 1 }))[0];
    const typed = lineSong().edit((editor) => editor.setPitch(new Set(['a']), 61))[0];
    for (const note of [moved, typed]) {
      expect(note).toMatchObject({ midi: 60.2, namedMidi: 61 });
      expect(note.target).toBeUndefined();
      expect(soundingMidi(note, 0)).toBe(60.2);
      expect(isCorrected({ notes: [note], tuningCents: 0 })).toBe(false);
    }
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

  it('moves edges that touch together, and stops others at the next note', () => {
    // a: 1–1.5 s of the recording, b: 1.5–2 s; second 0 of the recording is second 2 of the song.
    const longer = lineSong().edit((editor) => editor.trim('a', 3, 3.7));
    expect(longer.map((note) => [note.id, note.startSeconds, note.endSeconds])).toEqual([
      ['a', 1, expect.closeTo(1.7)],
      ['b', expect.closeTo(1.7), 2],
    ]);
    const earlier = lineSong().edit((editor) => editor.trim('b', 3.3, 4));
    expect(earlier.map((note) => [note.startSeconds, note.endSeconds])).toEqual([
      [1, expect.closeTo(1.3)],
      [expect.closeTo(1.3), 2],
    ]);
    // Between two others the right one is meant on either side.
    const { song } = lineSong();
    const [passage] = placedRecordings(song.parts[0] as RecordingPart);
    const [a, b] = passage.line!.notes;
    const c = { ...b, id: 'c', startSeconds: 2.5, endSeconds: 3 };
    const three = { ...passage, line: { ...passage.line!, notes: [a, b, c] } };
    const put = (from: number, to: number) => {
      const edit = createLineEditor('p', three, contour, createTimeMap(song), ids()).trim(
        'b',
        from,
        to,
      )!.edit;
      return edit.type === 'line.notes' ? edit.put.map((note) => [note.id, note.endSeconds]) : [];
    };
    expect(put(3.5, 4.8)).toEqual([['b', 2.5]]);
    expect(put(3.6, 4)).toEqual([
      ['b', 2],
      ['a', expect.closeTo(1.6)],
    ]);
    const over = lineSong().edit((editor) => editor.trim('a', 3, 9));
    expect(over[1].endSeconds - over[1].startSeconds).toBeCloseTo(0.03);
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
    expect(lineSong().edit((editor) => editor.setPitch(new Set(['a']), 61.5), 'target')[0].target?.midi).toBe(
      61.5,
    );
  });

  it('copies and pastes with distances kept', () => {
    const notes = lineSong().edit((editor) => editor.paste(editor.copy(new Set(['a', 'b']))!, 7 * 1920));
    expect(notes.slice(2).map((note) => note.startSeconds)).toEqual([8, 8.5]);
  });

  it('leaves out what would lie outside the recording, and says so', () => {
    const { song } = lineSong();
    const passages = placedRecordings(song.parts[0] as RecordingPart);
    const editor = createLineEditor('p', passages[0], contour, createTimeMap(song), ids());
    const change = editor.paste(editor.copy(new Set(['a', 'b']))!, Math.round(18.2 * 1920))!;
    expect(change.label).toBe('Paste 1 note, 1 outside the recording left out');
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
  const edit = (make: (editor: ReturnType<typeof createPassageEditor>) => LabelledEdit | undefined) => {
    const change = make(createPassageEditor('p', part.passages[0], createTimeMap(song), ids()));
    const [after] = change ? applyEdit(song, change.edit).song.parts : song.parts;
    return (after as NotePart).passages[0];
  };

  it('sings words, which stay at the start of what is cut and go along with what is copied', () => {
    const sung = (notes: readonly { lyric?: string }[]) => notes.map(({ lyric }) => lyric);
    const before = edit((editor) => editor.setLyric?.('a', 'Fer-')).notes;
    expect(before.find(({ id }) => id === 'a')?.lyric).toBe('Fer-');
    const singing = { ...part.passages[0], notes: before } as NotePassage;
    const editor = createPassageEditor('p', singing, createTimeMap(song), ids());
    const after = (change: LabelledEdit | undefined) => {
      const from = { ...song, parts: [{ ...part, passages: [singing] } as NotePart] };
      return (applyEdit(from, change!.edit).song.parts[0] as NotePart).passages[0].notes;
    };
    const first = editor.notes.find(({ id }) => id === 'a')!;
    const halves = after(editor.cut('a', (first.startSeconds + first.endSeconds) / 2));
    expect(sung(halves).filter(Boolean)).toEqual(['Fer-']);
    expect(halves.find(({ id }) => id === 'a')?.lyric).toBe('Fer-');
    const pasted = after(editor.paste(editor.copy(new Set(['a']))!, 3840));
    expect(sung(pasted).filter(Boolean)).toEqual(['Fer-', 'Fer-']);
    expect(sung(after(editor.setLyric?.('a', ''))).filter(Boolean)).toEqual([]);
  });

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

  it('grows towards the start of the song with a note that moves there; the others stay where they are', () => {
    const passage = edit((editor) => editor.move(new Set(['b']), { seconds: -1.5, semitones: 0 }));
    expect(passage).toMatchObject({ startTicks: 1440, lengthTicks: 4400 });
    expect(passage.notes.map((each) => [each.id, passage.startTicks + each.startTicks])).toEqual([
      ['b', 1440],
      ['a', 3840],
    ]);
    const first = edit((editor) => editor.move(new Set(['b']), { seconds: -9, semitones: 0 }));
    expect(first).toMatchObject({ startTicks: 0, lengthTicks: 5840 });
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

  it('is followed where a single note goes, but does not jump among several', () => {
    const made = { label: 'Move 1 note', edit: { type: 'batch' as const, edits: [] } };
    expect(followed(made, new Set(['a']))).toEqual({ ...made, select: ['a'], reveal: true });
    expect(followed(made, new Set(['a', 'b']))).toBe(made);
    expect(followed(undefined, new Set(['a']))).toBeUndefined();
  });

  it('has no doubtful notes', () => {
    const time = createTimeMap(createSong('s', 'Song'));
    const note = { id: 'a', startTicks: 0, lengthTicks: 240, midi: 60, velocity: 80 };
    const passage = { type: 'notes' as const, id: 'p', startTicks: 0, lengthTicks: 960, notes: [note] };
    expect(notesOfPassage(passage, time).map(({ doubtful }) => doubtful)).toEqual([false]);
  });

  it('sets pitch, octave, velocity; pastes', () => {
    expect(edit((editor) => editor.setPitch(new Set(['a']), 64.4)).notes[0].midi).toBe(64);
    expect(edit((editor) => editor.octave(new Set(['a']), 1)).notes[0].midi).toBe(72);
    expect(edit((editor) => editor.setVelocity(new Set(['a']), () => 0)).notes[0].velocity).toBe(1);
    expect(edit((editor) => editor.paste(editor.copy(new Set(['b']))!, 3360)).notes.at(-1)).toMatchObject({
      startTicks: 3840,
      lengthTicks: 480,
      midi: 62,
    });
  });

  it('pastes what was copied elsewhere in the same bars and lengths, before its start as well', () => {
    const clip = {
      notes: [
        { startTicks: 960, lengthTicks: 700, midi: 50, velocity: 70 },
        { startTicks: 20_000, lengthTicks: 5000, midi: 52, velocity: 71 },
      ],
    };
    const passage = edit((editor) => editor.paste(clip, 0));
    const placed = passage.notes.map(({ midi, startTicks, lengthTicks }) => [
      midi,
      passage.startTicks + startTicks,
      lengthTicks,
    ]);
    expect(placed).toEqual([
      [50, 960, 700],
      [60, 3840, 480],
      [62, 4320, 480],
      [52, 20_000, 5000],
    ]);
    expect(passage.startTicks + passage.lengthTicks).toBe(25_000);
  });
});

describe('notes that bend', () => {
  const bent: Note = {
    id: 'a',
    startTicks: 480,
    lengthTicks: 960,
    midi: 60,
    velocity: 80,
    bends: [
      { afterTicks: 0, semitones: 0.2 },
      { afterTicks: 600, semitones: -1.2 },
    ],
  };
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
        startTicks: 0,
        lengthTicks: 3840,
        notes: [bent, withBends({ ...bent, id: 'b', startTicks: 1920 }, [])],
      },
    ],
  };
  const song = { ...createSong('s', 'Song'), parts: [part] };
  const after = (make: (editor: ReturnType<typeof createPassageEditor>) => LabelledEdit | undefined) => {
    const change = make(createPassageEditor('p', part.passages[0], createTimeMap(song), ids()))!;
    return (applyEdit(song, change.edit).song.parts[0] as NotePart).passages[0].notes;
  };
  const only = new Set(['a']);

  it('take their bends along when moved and copied, and away when they go', () => {
    const moved = after((editor) => editor.move(only, { seconds: 1, semitones: 2 }));
    expect(moved.find(({ id }) => id === 'a')!.bends).toEqual(bent.bends);
    expect(channelBends(after((editor) => editor.drop(only)))).toEqual([]);
    const copied = after((editor) => editor.paste(editor.copy(only)!, 2400));
    expect(copied.map(({ bends }) => bends)).toEqual([bent.bends, undefined, bent.bends]);
  });

  it('keep their shape where it sounds when trimmed, cut and joined', () => {
    const [trimmed] = after((editor) => editor.trim('a', 0.5, 0.75));
    expect(trimmed).toMatchObject({ startTicks: 960, lengthTicks: 480 });
    expect(trimmed.bends).toEqual([
      { afterTicks: 0, semitones: 0.2 },
      { afterTicks: 120, semitones: -1.2 },
    ]);
    const halves = after((editor) => editor.cut('a', (480 + 700) / 1920));
    expect(halves[1].bends).toEqual([{ afterTicks: 0, semitones: -1.2 }]);
    expect(channelBends(halves)).toEqual(channelBends(part.passages[0].notes));
    const [joined] = after((editor) => editor.join(new Set(['a', 'b'])));
    expect(joined.bends).toEqual([...bent.bends!, { afterTicks: 1440, semitones: 0 }]);
  });

  it('can be straightened', () => {
    const [straight] = after((editor) => editor.straighten!(only));
    expect(straight).not.toHaveProperty('bends');
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
    // What was begun just before the span belongs to it, as it does to a passage.
    const early = replaceWithin(line, fresh, { fromSeconds: 2.03, toSeconds: 2.97 });
    expect(early.remove).toEqual(['n3']);
    // Fresh notes must not take the names of those that stay.
    for (const { id } of put) expect(line.notes.map((each) => each.id)).not.toContain(id);
  });
});
