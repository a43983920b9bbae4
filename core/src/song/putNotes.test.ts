import { describe, expect, it } from 'vitest';
import { notePart, songWith } from '../test/songs.ts';
import { applyEdit, putNotes, type Note, type NotePassage } from './index.ts';

const note = (id: string, startTicks: number): Note => ({
  id,
  startTicks,
  lengthTicks: 240,
  midi: 60,
  velocity: 80,
});
const placed = { ...notePart([note('a', 0)]).passages[0], startTicks: 1920, lengthTicks: 960 } as NotePassage;
const part = { ...notePart([]), passages: [placed] };

/** Where notes lie in the song after others were put among them. */
function after(put: Note[], remove: string[] = []) {
  const song = songWith(part);
  const edits = putNotes(part.id, placed, put, remove);
  const [changed] = applyEdit(song, { type: 'batch', edits }).song.parts;
  const passage = changed.passages[0] as NotePassage;
  return {
    starts: Object.fromEntries(
      passage.notes.map(({ id, startTicks }) => [id, passage.startTicks + startTicks]),
    ),
    from: passage.startTicks,
    to: passage.startTicks + passage.lengthTicks,
  };
}

describe('notes that are put into a passage', () => {
  it('lie where they are put; the passage grows to hold them', () => {
    expect(after([note('b', 480)])).toEqual({ starts: { a: 1920, b: 2400 }, from: 1920, to: 2880 });
    expect(after([note('b', 900)])).toMatchObject({ starts: { a: 1920, b: 2820 }, to: 3060 });
  });

  it('may begin before it: what it holds stays where it is', () => {
    expect(after([note('b', -960)])).toEqual({ starts: { a: 1920, b: 960 }, from: 960, to: 2880 });
    expect(after([note('b', -960), note('c', 480)]).starts).toEqual({ a: 1920, b: 960, c: 2400 });
    // Nothing begins before the song.
    expect(after([note('b', -4000)])).toMatchObject({ starts: { a: 1920, b: 0 }, from: 0 });
  });

  it('replace what is taken away', () => {
    expect(after([note('b', 480)], ['a']).starts).toEqual({ b: 2400 });
  });
});
