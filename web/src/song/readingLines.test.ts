import { describe, expect, it } from 'vitest';
import { railMidi, soundingMidi } from '@plundra/core/song';
import {
  faintNotesOf,
  lineOf,
  linesOfTakes,
  notesOfReading,
  replaceWithin,
  withOwnIds,
} from './readingLines.ts';

const read = (midi: number, startSeconds = 0) => ({
  startSeconds,
  endSeconds: startSeconds + 1,
  midi,
  velocity: 80.4,
  confidence: 0.9,
});
const melody = {
  tuningCents: -20,
  notes: [read(59.8), read(62.1, 1)],
  faintNotes: [read(64.8, 2)],
  contour: { hopSeconds: 0.01, f0Hz: [], confidence: [] },
  kind: { kind: 'voice' as const, reason: '' },
};

describe('a line made from a reading', () => {
  it('has notes with names of their own and whole velocities, and asks nothing of them', () => {
    const line = lineOf('r', melody);
    expect(line).toMatchObject({ readingId: 'r', tuningCents: -20 });
    expect(line.notes.map(({ id, velocity, target }) => [id, velocity, target])).toEqual([
      ['n1', 80, undefined],
      ['n2', 80, undefined],
    ]);
    expect(withOwnIds(line, 'take').notes.map(({ id }) => id)).toEqual(['take.n1', 'take.n2']);
  });

  it('of a recording that sounds transposed as a whole sounds where that did, in its own tuning', () => {
    for (const semitones of [-3, 2])
      for (const notes of [
        lineOf('r', melody, semitones).notes,
        notesOfReading({ tuningCents: -20, notes: melody.notes }, semitones).notes,
        faintNotesOf(melody, semitones, -20),
      ])
        for (const note of notes) {
          expect(soundingMidi(note, -20)).toBeCloseTo(note.midi + semitones, 9);
          // Rails lie as low as the recording is tuned.
          expect(railMidi(note, -20) - Math.round(railMidi(note, -20))).toBeCloseTo(-0.2, 9);
        }
  });

  it('is in the tuning of the line that its notes go into, where that was set by hand', () => {
    for (const semitones of [0, 2])
      for (const notes of [
        notesOfReading({ tuningCents: -20, notes: melody.notes }, semitones, 10).notes,
        faintNotesOf(melody, semitones, 10),
      ])
        for (const note of notes)
          expect(railMidi(note, 10) - Math.round(railMidi(note, 10))).toBeCloseTo(0.1, 9);
    expect(notesOfReading({ tuningCents: -20, notes: melody.notes }, 2, 10).tuningCents).toBe(10);
  });

  it('keeps what lies outside a span that is read again', () => {
    const line = lineOf('r', melody);
    const fresh = lineOf('s', { ...melody, notes: [read(59), read(61, 0.9), read(63, 1.2)] });
    const { remove, put } = replaceWithin(line, fresh, { fromSeconds: 1, toSeconds: 2 });
    expect(remove).toEqual(['n2']);
    // One that was begun just before the span belongs to it, as it does behind a cut.
    expect(put.map(({ midi }) => midi)).toEqual(expect.arrayContaining([63]));
    expect(put.map(({ midi }) => midi)).not.toContain(59);
    expect(new Set(put.map(({ id }) => id)).has('n3')).toBe(false);
  });

  it('goes to all takes of its recording that nobody has read, as each of them sounds', () => {
    const take = (id: string, semitones: number, more = {}) => ({
      id,
      recordingHash: 'a',
      line: null,
      stretch: { how: 'stretch' as const, semitones, onsets: [] },
      ...more,
    });
    const lineAt = (semitones: number) => lineOf('r', melody, semitones);
    const takes = [
      take('plain', 0),
      take('higher', 2),
      take('read', 5, { line: lineOf('before', melody) }),
      take('other', 0, { recordingHash: 'b' }),
    ];
    for (const asked of ['plain', 'higher']) {
      const lines = linesOfTakes(takes, asked, lineAt);
      expect(lines.map(({ id, line }) => [id, soundingMidi(line.notes[0], -20)])).toEqual([
        ['plain', expect.closeTo(59.8, 9)],
        ['higher', expect.closeTo(61.8, 9)],
      ]);
      expect(lines[0].line.notes[0].id).not.toBe(lines[1].line.notes[0].id);
    }
    // Who reads a take again asks for it.
    expect(linesOfTakes(takes, 'read', lineAt).map(({ id }) => id)).toEqual(['plain', 'higher', 'read']);
    expect(linesOfTakes([take('plain', 0)], 'plain', lineAt)[0].line.notes[0].id).toBe('n1');
  });
});
