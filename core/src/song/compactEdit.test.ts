import { describe, expect, it } from 'vitest';
import { lineNote, notePart, recordingPart, songWith } from '../test/songs.ts';
import {
  applyEdit,
  compactEdit,
  planTranspose,
  railMidi,
  wantedSpan,
  type Edit,
  type LineNote,
  type Note,
  type NotePart,
  type Song,
} from './index.ts';

const COUNT = 20_000;
const notes = Array.from({ length: COUNT }, (_, i): Note => ({
  id: `n${i}`,
  startTicks: i * 120,
  lengthTicks: 100,
  midi: 40 + (i % 40),
  velocity: 60 + (i % 20),
}));
const line = Array.from({ length: 50 }, (_, i) => lineNote(`l${i}`, i, i + 0.9, 60.1 + (i % 9) / 7));
const song = songWith(recordingPart(line, { tuningCents: -12.34 }), notePart(notes));
const flute = { partId: 'flute', passageId: 'p' };
const voice = { partId: 'voice', takeId: 'take' };
const bytes = (edit: Edit) => JSON.stringify(edit).length;
const notesOf = ({ parts }: Song) => (parts[1] as NotePart).passages[0].notes;

const ofNotes = (map: (note: Note) => Note, which = notes): Edit => ({
  type: 'passage.notes',
  ...flute,
  remove: [],
  put: which.map(map),
});
const ofLine = (map: (note: LineNote) => LineNote): Edit => ({
  type: 'line.notes',
  ...voice,
  remove: [],
  put: line.map(map),
});

describe('an edit of many notes', () => {
  it.each<[string, Edit]>([
    ['moved', ofNotes((note) => ({ ...note, startTicks: note.startTicks + 240 }))],
    ['transposed', ofNotes((note) => ({ ...note, midi: note.midi + 7 }))],
    ['made louder', ofNotes((note) => ({ ...note, velocity: note.velocity + 12 }))],
    ['muted', ofNotes((note) => ({ ...note, muted: true }))],
    ['of a line, transposed', ofLine((note) => ({ ...note, target: { midi: railMidi(note, -12.34) + 5 } }))],
    [
      'of a line, moved by what a hand moved it',
      ofLine((note) => {
        const span = wantedSpan(note);
        const by = 0.0123456789;
        return {
          ...note,
          target: { startSeconds: span.startSeconds + by, endSeconds: span.endSeconds + by },
        };
      }),
    ],
    ['of a line, tuned', ofLine((note) => ({ ...note, target: { centre: 1, vibratoKept: 0.5 } }))],
    ['of a line, sure', ofLine((note) => ({ ...note, confidence: 1 }))],
  ])('that are %s says so in a few words, and so does its inverse', (_, edit) => {
    const short = compactEdit(song, edit);
    expect(bytes(short)).toBeLessThan(300);
    const { song: after, inverse } = applyEdit(song, short);
    expect(after).toEqual(applyEdit(song, edit).song);
    expect(bytes(inverse)).toBeLessThan(300);
    expect(applyEdit(after, inverse).song).toEqual(song);
  });

  it('names those that are meant where not all are', () => {
    const half = notes.slice(0, COUNT / 2);
    const short = compactEdit(
      song,
      ofNotes((note) => ({ ...note, midi: note.midi + 1 }), half),
    );
    expect(short).toMatchObject({ type: 'passage.adjust', add: { midi: 1 } });
    expect(short).toHaveProperty('which.length', COUNT / 2);
  });

  it('is left as it is where the notes change differently', () => {
    const edit = ofNotes((note) => ({ ...note, lengthTicks: note.lengthTicks + (note.midi % 3) }));
    expect(compactEdit(song, edit)).toBe(edit);
  });

  it('can be taken back where velocities met their end', () => {
    const loud = ofNotes((note) => ({ ...note, velocity: 127 }));
    const { song: after, inverse } = applyEdit(song, compactEdit(song, loud));
    expect(notesOf(after).every(({ velocity }) => velocity === 127)).toBe(true);
    expect(applyEdit(after, inverse).song).toEqual(song);
  });

  it('is short inside of a batch, and unharmed behind an edit of the same notes', () => {
    const up = ofNotes((note) => ({ ...note, midi: note.midi + 1 }));
    const batch = { type: 'batch', edits: [up, up] } as Edit;
    const short = compactEdit(song, batch);
    expect(short).toMatchObject({ edits: [{ type: 'passage.adjust' }, { type: 'passage.notes' }] });
    expect(applyEdit(song, short).song).toEqual(applyEdit(song, batch).song);
  });

  it('is short when a whole song is transposed', () => {
    const { edit } = planTranspose(song, { fifths: 3, mode: 'major' }, 2);
    const short = compactEdit(song, edit);
    expect(bytes(short)).toBeLessThan(1000);
    expect(applyEdit(song, short).song).toEqual(applyEdit(song, edit).song);
  });
});
