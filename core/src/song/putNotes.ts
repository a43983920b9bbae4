/** Putting notes into a passage that may be too small for them. */
import type { SimpleEdit } from './editSchema.ts';
import type { Ticks } from '../signal/index.ts';
import { isShown, notesOriginTicks } from './placed.ts';
import type { Note, NotePassage } from './schema.ts';

/**
 * The edits that remove notes from a passage and put others; the passage grows to show them, at either end. Notes of
 * `put` count from {@link notesOriginTicks} of the passage as it is, and may begin before it, but not before the song.
 */
export function putNotes(
  partId: string,
  passage: NotePassage,
  put: readonly Note[],
  remove: readonly string[] = [],
): SimpleEdit[] {
  const place = { partId, passageId: passage.id };
  const { offsetTicks = 0, lengthTicks } = passage;
  const origin = notesOriginTicks(passage);
  const inSong = (startTicks: Ticks) => (startTicks < 0 ? Math.max(startTicks, -origin) : startTicks);
  // Notes count from 0 on: where one begins before that, all the others move back.
  const later = put.reduce((most, { startTicks }) => Math.max(most, -inSong(startTicks)), 0);
  const placed = put.map((note) => ({ ...note, startTicks: inSong(note.startTicks) + later }));
  const windowed = passage.offsetTicks !== undefined;
  const hidden = new Set(
    windowed ? passage.notes.filter((note) => !isShown(passage, note)).map(({ id }) => id) : [],
  );
  let begin = offsetTicks + later;
  let end = begin + lengthTicks;
  for (const note of placed) {
    if (hidden.has(note.id)) continue;
    begin = Math.min(begin, note.startTicks);
    end = Math.max(end, note.startTicks + note.lengthTicks);
  }
  const edits: SimpleEdit[] = [];
  if (later > 0)
    edits.push({ type: 'passage.adjust', ...place, which: 'all', add: { startTicks: later }, set: {} });
  const from = windowed ? begin : 0;
  const grows = begin < offsetTicks + later || end > offsetTicks + later + lengthTicks;
  if (later > 0 || grows)
    edits.push({
      type: 'passage.set',
      ...place,
      patch: {
        startTicks: origin - later + from,
        lengthTicks: end - from,
        ...(windowed && { offsetTicks: from }),
      },
    });
  edits.push({ type: 'passage.notes', ...place, remove: [...remove], put: placed });
  return edits;
}
