import { describe, expect, it } from 'vitest';
import { notePart, songWith } from '../test/songs.ts';
import {
  applyEdit,
  EditError,
  MAX_NOTES,
  MAX_NOTES_IN_SONG,
  MAX_PARTS,
  MAX_PASSAGES,
  songSchema,
  type Edit,
  type Note,
  type NotePart,
  type SimpleEdit,
} from './index.ts';

const part = (id: string, passages: NotePart['passages'] = []) => ({ ...notePart([]), id, passages });
const passage = (id: string, notes: Note[] = []) => ({
  type: 'notes' as const,
  id,
  startTicks: 0,
  lengthTicks: 960,
  notes,
});
const notesFrom = (from: number, count: number) =>
  Array.from({ length: count }, (_, i): Note => ({
    id: `n${from + i}`,
    startTicks: i,
    lengthTicks: 1,
    midi: 60,
    velocity: 80,
  }));
const refusal = (song: Parameters<typeof applyEdit>[0], edit: Edit) => {
  try {
    applyEdit(song, edit);
  } catch (error) {
    if (error instanceof EditError) return error.message;
    throw error;
  }
  return undefined;
};

describe('what a song cannot hold', () => {
  it('a part too many is refused with a sentence, the last that fits is taken', () => {
    const add = (count: number): Edit => ({
      type: 'batch',
      edits: Array.from({ length: count }, (_, i): SimpleEdit => ({
        type: 'part.add',
        part: part(`p${i}`),
        index: i,
      })),
    });
    songSchema.parse(applyEdit(songWith(), add(MAX_PARTS)).song);
    expect(refusal(songWith(), add(MAX_PARTS + 1))).toBe(
      'The parts of a song are at most 500; this would make 501, so nothing was changed. Use a second song for the rest.',
    );
  });

  it('a passage too many is refused', () => {
    const passages = Array.from({ length: MAX_PASSAGES - 1 }, (_, i) => passage(`q${i}`));
    const song = songWith(part('keys', passages));
    const add = (id: string): Edit => ({ type: 'passage.add', partId: 'keys', passage: passage(id) });
    const full = applyEdit(song, add('last')).song;
    songSchema.parse(full);
    expect(refusal(full, add('more'))).toMatch(/at most 2,000/);
  });

  it('a note too many is refused', () => {
    const song = songWith(part('keys', [passage('p', notesFrom(0, MAX_NOTES - 1))]));
    const add = (from: number): Edit => ({
      type: 'passage.notes',
      partId: 'keys',
      passageId: 'p',
      remove: [],
      put: notesFrom(from, 1),
    });
    const full = applyEdit(song, add(MAX_NOTES - 1)).song;
    expect(refusal(full, add(MAX_NOTES))).toMatch(/at most 200,000/);
  });

  it('more notes than can be opened are refused, and can still be taken out', () => {
    const crowd = (id: string) => part(id, [passage('p', notesFrom(0, MAX_NOTES))]);
    const two = songWith(crowd('a'), crowd('b'));
    expect(MAX_NOTES_IN_SONG).toBeLessThan(3 * MAX_NOTES);
    expect(refusal(two, { type: 'part.add', part: crowd('c'), index: 0 })).toMatch(/at most 500,000/);
    const three = songWith(crowd('a'), crowd('b'), crowd('c'));
    expect(refusal(three, { type: 'part.remove', partId: 'c' })).toBeUndefined();
    expect(refusal(three, { type: 'part.set', partId: 'c', patch: { mute: true } })).toBeUndefined();
  });

  it('room that would push the song beyond its end is refused', () => {
    const song = songWith(part('keys', [{ ...passage('p'), startTicks: 9e8 }]));
    expect(refusal(song, { type: 'time.insert', atTicks: 0, lengthTicks: 2e8 })).toMatch(/too long/);
  });

  it('bars go into as many passages as there can be, in one small edit', () => {
    const passages = Array.from({ length: MAX_PASSAGES }, (_, i) => ({
      ...passage(`q${i}`),
      startTicks: i * 960,
    }));
    const song = songWith(part('keys', passages));
    const applied = applyEdit(song, { type: 'time.insert', atTicks: 0, lengthTicks: 3840 });
    expect(applied.song.parts[0].passages[1999].startTicks).toBe(1999 * 960 + 3840);
    expect(JSON.stringify(applied.inverse).length).toBeLessThan(100);
    expect(applyEdit(applied.song, applied.inverse).song).toEqual(song);
  });
});
