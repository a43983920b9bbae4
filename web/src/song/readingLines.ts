/** Readings as lines of the song: pure functions. */
import type { MelodyResult, NotesResult } from '@plundra/contract';
import type { Cents } from '@plundra/core/signal';
import { ownsNote, transposedLineNote, type Line, type LineNote, type Take } from '@plundra/core/song';

/** Seconds of the recording. */
export interface Span {
  fromSeconds: number;
  toSeconds: number;
}

/** A fresh line from a reading. A recording that was transposed as a whole stays transposed, note by note. */
export function lineOf(readingId: string, reading: MelodyResult, semitones = 0): Line {
  return { readingId, ...notesOfReading(reading, semitones) };
}

/** @param tuningCents that of the line they go into, where it has another than was heard */
export function notesOfReading(
  { notes, tuningCents: heardCents }: NotesResult,
  semitones: number,
  tuningCents = heardCents,
): Pick<Line, 'tuningCents' | 'notes'> {
  const read = notes.map((note, i) => ({
    id: `n${i + 1}`,
    ...note,
    velocity: Math.max(1, Math.round(note.velocity)),
  }));
  return {
    tuningCents,
    notes:
      semitones === 0
        ? read
        : read.map((note) => transposedLineNote(note, tuningCents, Math.round(semitones))),
  };
}

/** What the reading heard less surely, as notes that a line of this tuning may take. */
export function faintNotesOf(
  { faintNotes }: Pick<MelodyResult, 'faintNotes'>,
  semitones: number,
  tuningCents: Cents,
): LineNote[] {
  return notesOfReading({ tuningCents, notes: faintNotes }, semitones).notes.map((note) => ({
    ...note,
    id: `faint-${note.id}`,
  }));
}

export const semitonesOf = ({ stretch }: Pick<Take, 'stretch'>): number => stretch?.semitones ?? 0;

/**
 * Lines for the take that was read and those of the same recording that nobody has read yet, each as it sounds: they may have been
 * transposed apart from each other.
 */
export function linesOfTakes(
  takes: readonly Take[],
  takeId: string,
  lineAt: (semitones: number) => Line,
): { id: string; line: Line }[] {
  const hash = takes.find(({ id }) => id === takeId)?.recordingHash;
  return takes
    .filter((take) => take.id === takeId || (take.recordingHash === hash && !take.line))
    .map((take) => {
      const line = lineAt(semitonesOf(take));
      return { id: take.id, line: takes.length > 1 ? withOwnIds(line, take.id) : line };
    });
}

/** Notes of several takes of a part have names of their own. */
export function withOwnIds(line: Line, takeId: string): Line {
  const mine = takeId.slice(0, 40);
  return { ...line, notes: line.notes.map((note) => ({ ...note, id: `${mine}.${note.id}`.slice(0, 64) })) };
}

/** What exchanges the notes of a line that belong to a span for those of a fresh reading. */
export function replaceWithin(
  line: Line,
  fresh: Pick<Line, 'notes'>,
  { fromSeconds, toSeconds }: Span,
): { remove: string[]; put: LineNote[] } {
  const span = { offsetSeconds: fromSeconds, durationSeconds: toSeconds - fromSeconds };
  const within = (note: LineNote) => ownsNote(span, note);
  return {
    remove: line.notes.filter(within).map(({ id }) => id),
    put: fresh.notes.filter(within).map((note) => ({ ...note, id: crypto.randomUUID() })),
  };
}
