/** Putting notes into a passage that may be too small for them. */
import type { SimpleEdit } from './editSchema.ts';
import type { Note, NotePassage } from './schema.ts';

/**
 * The edits that remove notes from a passage and put others; the passage grows to hold them, at either end. Notes of
 * `put` count from the start of the passage as it is, and may begin before it, but not before the song.
 */
export function putNotes(
  partId: string,
  passage: NotePassage,
  put: readonly Note[],
  remove: readonly string[] = [],
): SimpleEdit[] {
  const place = { partId, passageId: passage.id };
  const earlier = Math.min(
    passage.startTicks,
    put.reduce((most, note) => Math.max(most, -note.startTicks), 0),
  );
  const placed = put.map((note) => ({ ...note, startTicks: Math.max(0, note.startTicks + earlier) }));
  const end = placed.reduce(
    (most, note) => Math.max(most, note.startTicks + note.lengthTicks),
    passage.lengthTicks + earlier,
  );
  const edits: SimpleEdit[] = [];
  if (earlier > 0)
    edits.push({ type: 'passage.adjust', ...place, which: 'all', add: { startTicks: earlier }, set: {} });
  if (earlier > 0 || end > passage.lengthTicks)
    edits.push({
      type: 'passage.set',
      ...place,
      patch: { startTicks: passage.startTicks - earlier, lengthTicks: end },
    });
  edits.push({ type: 'passage.notes', ...place, remove: [...remove], put: placed });
  return edits;
}
