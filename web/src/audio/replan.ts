/**
 * What has to be done when the notes of a part change while they sound: the sampler cannot take a planned note back, but it
 * can stop all that a part sounds at a given time.
 */

export interface TimedNote {
  midi: number;
  /** Context time. */
  onSeconds: number;
  offSeconds: number;
}

export interface Replan<Note extends TimedNote> {
  /** When everything the part sounds is stopped, in order. */
  cuts: number[];
  /** What is struck, in order; a note that should have begun before is struck late. */
  notes: Note[];
}

/** Starts closer than this are one. */
const SAME_SECONDS = 0.002;
/** A cut comes after what was planned for its time, and before what is struck then. */
const AFTER_SECONDS = 0.0005;

/**
 * @param planned what sounds at `now` or was planned up to `horizon`
 * @param wanted what should sound, in order of start
 * @returns null when both are the same
 */
export function replan<Note extends TimedNote>(
  planned: readonly TimedNote[],
  wanted: readonly Note[],
  now: number,
  horizon: number,
): Replan<Note> | null {
  const reached = (note: TimedNote) => note.offSeconds > now && note.onSeconds < horizon;
  const [before, after] = [planned.filter(reached), wanted.filter(reached)];
  const left = [...before];
  const isNew = after.filter((note) => {
    const same = left.findIndex(
      ({ midi, onSeconds }) => midi === note.midi && Math.abs(onSeconds - note.onSeconds) < SAME_SECONDS,
    );
    if (same >= 0) left.splice(same, 1);
    return same < 0;
  });
  if (isNew.length === 0 && left.length === 0) return null;
  // Each planned start is undone at its time, and what should sound then is struck again.
  const starts = [...new Set(before.map(({ onSeconds }) => onSeconds).filter((on) => on > now))];
  const cuts = [now, ...starts.map((on) => on + AFTER_SECONDS)].sort((a, b) => a - b);
  const notes: Note[] = [];
  for (const cut of cuts)
    for (const note of after)
      if (note.onSeconds <= cut && note.offSeconds > cut + SAME_SECONDS)
        notes.push({ ...note, onSeconds: cut + AFTER_SECONDS });
  for (const note of after)
    if (note.onSeconds > now && !notes.some((each) => isSame(each, note))) notes.push(note);
  return { cuts, notes: notes.sort((a, b) => a.onSeconds - b.onSeconds) };
}

function isSame(struck: TimedNote, note: TimedNote): boolean {
  return struck.midi === note.midi && Math.abs(struck.onSeconds - note.onSeconds) < SAME_SECONDS;
}
