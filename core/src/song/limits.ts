/** What a song can hold at the most, checked where an edit adds something. Each check costs what the edit touches. */
import { EditError } from './editSchema.ts';
import { MAX_NOTES, MAX_PARTS, MAX_PASSAGES, MAX_TAKES, MAX_CHORDS, type Part, type Song } from './schema.ts';

/** Of all parts together: more than this would take a browser minutes to open. */
export const MAX_NOTES_IN_SONG = 500_000;

const number = (count: number) => count.toLocaleString('en');

function refuseAbove(count: number, most: number, what: string): void {
  if (count > most)
    throw new EditError(
      `${what} at most ${number(most)}; this would make ${number(count)}, so nothing was changed. Use a second song for the rest.`,
    );
}

export const checkParts = (count: number) => refuseAbove(count, MAX_PARTS, 'The parts of a song are');
export const checkPassages = (count: number) =>
  refuseAbove(count, MAX_PASSAGES, 'The passages of a part are');
export const checkTakes = (count: number) => refuseAbove(count, MAX_TAKES, 'The takes of a part are');
export const checkChords = (count: number) => refuseAbove(count, MAX_CHORDS, 'The chords of a song are');
export const checkNotes = (count: number) => refuseAbove(count, MAX_NOTES, 'The notes of a passage are');

/** Notes of note parts and of lines. */
export function countNotesOf({ parts }: Pick<Song, 'parts'>): number {
  let count = 0;
  for (const part of parts) count += notesOfPart(part);
  return count;
}

export function notesOfPart(part: Part): number {
  let count = 0;
  if (part.kind === 'recording') for (const { line } of part.takes) count += line?.notes.length ?? 0;
  else for (const { notes } of part.passages) count += notes.length;
  return count;
}

/** Only where notes came. */
export function checkNotesOfSong(before: Song, after: Song): void {
  const count = countNotesOf(after);
  if (count > MAX_NOTES_IN_SONG && count > countNotesOf(before))
    refuseAbove(count, MAX_NOTES_IN_SONG, 'The notes of a song are');
}
