import { describe, expect, it } from 'vitest';
import { applyEdit, createSong, createTimeMap, type Note, type NotePart } from '@plundra/core/song';
import { drumRowsOf, inDrumRows } from './drumRows.ts';
import { createPassageEditor } from './passageEditor.ts';
import type { LabelledEdit, NoteEditing } from './noteEditing.ts';

const hit = (id: string, startTicks: number, midi: number): Note => ({
  id,
  startTicks,
  lengthTicks: 120,
  midi,
  velocity: 90,
});

function drums(notes: Note[]) {
  const part: NotePart = {
    kind: 'drums',
    id: 'd',
    name: 'Drums',
    mark: 'DR',
    colour: 0,
    levelDb: 0,
    pan: 0,
    mute: false,
    solo: false,
    passages: [{ type: 'notes', id: 'p', startTicks: 0, lengthTicks: 3840, notes }],
  };
  const song = { ...createSong('s', 'Song'), parts: [part] };
  const editing = createPassageEditor('d', part.passages[0], createTimeMap(song), () => 'new');
  const rows = drumRowsOf(editing.notes);
  return {
    rows,
    editing: inDrumRows(editing, rows),
    after(make: (editing: NoteEditing) => LabelledEdit | undefined): Note[] {
      const edited = applyEdit(song, make(inDrumRows(editing, rows))!.edit).song.parts[0];
      return edited.kind === 'drums' ? edited.passages[0].notes : [];
    },
  };
}

describe('drum rows', () => {
  it('hold what is struck and one of every kind, without gaps', () => {
    const { rows, editing } = drums([hit('a', 0, 36), hit('b', 480, 56)]);
    // The kinds' keys of General MIDI level 1, and the cowbell.
    expect(rows).toEqual([36, 38, 42, 45, 46, 49, 56, 62, 63, 70]);
    expect(editing.notes.map(({ midi }) => midi)).toEqual([0, 6]);
  });

  it('are what a hit is drawn on and moved between', () => {
    const set = drums([hit('a', 0, 36), hit('b', 480, 38)]);
    const both = new Set(['a', 'b']);
    expect(
      set.after((editing) => editing.move(both, { seconds: 0, semitones: 1 })).map(({ midi }) => midi),
    ).toEqual([38, 42]);
    // The lowest row holds.
    expect(
      set.after((editing) => editing.move(both, { seconds: 0, semitones: -1 })).map(({ midi }) => midi),
    ).toEqual([36, 36]);
    const drawn = set.after((editing) => editing.draw(1, 1.1, 7.4));
    expect(drawn.find(({ id }) => id === 'new')?.midi).toBe(63);
  });

  it('leave the drum alone when a hit moves in time', () => {
    const [moved] = drums([hit('a', 0, 56)]).after((editing) =>
      editing.move(new Set(['a']), { seconds: 0.5, semitones: 0 }),
    );
    expect(moved).toMatchObject({ midi: 56, startTicks: 960 });
  });
});
