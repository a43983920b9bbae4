/** What edits do to lists of notes: some removed and put, or all of them moved by the same amount. Each with its inverse. */
import { EditError, type EditOf } from './editSchema.ts';
import { railMidi, wantedSpan } from './lineNotes.ts';
import { MAX_TICKS, type ChordEntry, type Line, type LineNote, type Note } from './schema.ts';

export type NoteAdjustment = Pick<EditOf<'passage.adjust'>, 'which' | 'add' | 'set'>;
export type LineAdjustment = Pick<EditOf<'line.adjust'>, 'which' | 'add' | 'set'>;

/** In order of their start; what starts together has an order too, so that the inverse of an edit restores it. */
export const byStart = (a: ChordEntry, b: ChordEntry) => a.startTicks - b.startTicks;
export const byStartSeconds = (a: LineNote, b: LineNote) =>
  a.startSeconds - b.startSeconds || a.midi - b.midi || compareIds(a, b);
export const byStartTicks = (a: Note, b: Note) =>
  a.startTicks - b.startTicks || a.midi - b.midi || compareIds(a, b);
const compareIds = (a: { id: string }, b: { id: string }) => (a.id < b.id ? -1 : a.id > b.id ? 1 : 0);

/** Removes and puts notes by id; putting a note that exists replaces it. Keeps them in order of their start. */
export function changeNotes<N extends { id: string }>(
  notes: readonly N[],
  change: { remove: string[]; put: N[] },
  order: (a: N, b: N) => number,
): { notes: N[]; undo: { remove: string[]; put: N[] } } {
  const gone = new Set(change.remove);
  const replaced = new Map(change.put.map((note) => [note.id, note]));
  const before: N[] = [];
  const known = new Set<string>();
  const kept: N[] = [];
  for (const note of notes) {
    if (gone.has(note.id) || replaced.has(note.id)) {
      before.push(note);
      known.add(note.id);
    } else {
      kept.push(note);
    }
  }
  for (const noteId of gone) {
    if (!known.has(noteId)) throw new EditError('A note that should be removed is not there any more.');
  }
  const merged = [...kept, ...replaced.values()].sort(order);
  const added = change.put.filter((note) => !known.has(note.id)).map((note) => note.id);
  return { notes: merged, undo: { remove: added, put: before } };
}

/** The notes an adjustment names; throws where one is gone. */
export function namedNotes<N extends { id: string }>(
  notes: readonly N[],
  which: 'all' | readonly string[],
): readonly N[] {
  if (which === 'all') return notes;
  const wanted = new Set(which);
  const named = notes.filter(({ id }) => wanted.has(id));
  if (named.length !== wanted.size)
    throw new EditError('A note that should be changed is not there any more.');
  return named;
}

/** A note of a note part, moved. Throws {@link EditError} where it would leave the range of MIDI or of the song. */
export function adjustNote(note: Note, { add, set }: Pick<NoteAdjustment, 'add' | 'set'>): Note {
  const moved = {
    ...note,
    startTicks: note.startTicks + (add.startTicks ?? 0),
    midi: set.midi ?? note.midi + (add.midi ?? 0),
    velocity: set.velocity ?? note.velocity + (add.velocity ?? 0),
  };
  if (moved.startTicks < 0 || moved.startTicks > MAX_TICKS)
    throw new EditError('A note would begin outside of the song, so nothing was moved.');
  if (moved.midi < 0 || moved.midi > 127)
    throw new EditError('A note would leave the range of MIDI (C−1 to G9), so nothing was moved.');
  checkVelocity(moved.velocity);
  return withMute(moved, set.muted);
}

/** A note of a line with another target. Throws {@link EditError} where they cannot be. */
export function adjustLineNote(
  note: LineNote,
  { add, set }: Pick<LineAdjustment, 'add' | 'set'>,
  tuningCents: Line['tuningCents'],
): LineNote {
  const velocity = set.velocity ?? note.velocity + (add.velocity ?? 0);
  checkVelocity(velocity);
  const adjusted = withMute({ ...note, velocity, confidence: set.confidence ?? note.confidence }, set.muted);
  const target: Record<string, number> = { ...note.target };
  if (add.railSemitones !== undefined) {
    target.midi = railMidi(note, tuningCents) + add.railSemitones;
    if (target.midi < 0 || target.midi > 127)
      throw new EditError('A note would leave the range of MIDI (C−1 to G9), so nothing was moved.');
  }
  if (add.seconds !== undefined) {
    const span = wantedSpan(note);
    target.startSeconds = span.startSeconds + add.seconds;
    target.endSeconds = span.endSeconds + add.seconds;
    if (target.startSeconds < 0)
      throw new EditError('A note would begin before its recording, so nothing was moved.');
  }
  for (const [field, value] of Object.entries(set.target ?? {})) {
    if (value === null) delete target[field];
    else if (value !== undefined) target[field] = value;
  }
  if (Object.keys(target).length > 0) adjusted.target = target;
  else delete adjusted.target;
  return adjusted;
}

function withMute<N extends { muted?: true | undefined }>(note: N, muted: boolean | undefined): N {
  if (muted === undefined) return note;
  if (muted) return { ...note, muted: true };
  const sounding = { ...note };
  delete sounding.muted;
  return sounding;
}

function checkVelocity(velocity: number): void {
  if (velocity < 1 || velocity > 127)
    throw new EditError('A velocity would leave its range of 1 to 127, so nothing was changed.');
}
