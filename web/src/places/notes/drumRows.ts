/** Drums as rows that lie next to each other: on the canvas "pitch" 0 is the lowest row, whatever key it stands for. */
import { HIT_KINDS, KEY_OF_KIND } from '@plundra/core/theory';
import type { CanvasNote } from './canvasNote.ts';
import type { NoteEditing } from './noteEditing.ts';

/** Keys of the rows, lowest first: those that are struck, and one of every kind, so that any can be added. */
export function drumRowsOf(notes: readonly CanvasNote[]): number[] {
  const keys = new Set(HIT_KINDS.map((kind) => KEY_OF_KIND[kind]));
  for (const { midi } of notes) keys.add(Math.round(midi));
  return [...keys].sort((a, b) => a - b);
}

/** The same editing with rows for keys; moving by a semitone moves by a row. */
export function inDrumRows(editing: NoteEditing, rows: readonly number[]): NoteEditing {
  const rowOf = new Map(rows.map((key, row) => [key, row]));
  const keyAt = (row: number) => keyOfRow(rows, row);
  const placed = (midi: number) => rowOf.get(Math.round(midi)) ?? 0;
  return {
    ...editing,
    notes: editing.notes.map((note) => ({
      ...note,
      midi: placed(note.midi),
      ...(note.played && { played: { ...note.played, midi: placed(note.played.midi) } }),
    })),
    move: (ids, { seconds, semitones }) =>
      editing.move(ids, {
        seconds,
        semitones,
        ...(semitones !== 0 && { toMidi: (midi) => keyAt(placed(midi) + semitones) }),
      }),
    draw: (startSeconds, endSeconds, row) => editing.draw(startSeconds, endSeconds, keyAt(row)),
    setPitch: (ids, row) => editing.setPitch(ids, keyAt(row)),
    octave: () => undefined,
  };
}

/** Key of the nearest row there is. */
export function keyOfRow(rows: readonly number[], row: number): number {
  return rows[Math.min(rows.length - 1, Math.max(0, Math.round(row)))];
}
