/** From a recording to the notes of a note part, and from a changed recording to notes that were made from it before. */
import type { Ticks } from '../signal/index.ts';
import type { Contour } from '../reading/index.ts';
import { bendsOfNote, soundingNotes } from '../retune/index.ts';
import {
  chosenPassages,
  createPassageTime,
  melodyLineOf,
  notesOriginTicks,
  placedRecordings,
  putNotes,
  readsHits,
  withBends,
  type Edit,
  type Note,
  type NotePart,
  type NotePassage,
  type PlacedRecording,
  type RecordingPart,
  type Song,
  type TimeMap,
} from '../song/index.ts';

interface MakingOptions {
  /** Line notes that are meant; absent: all. */
  only?: ReadonlySet<string> | undefined;
  /** Notes bend as the contour does; absent: they are straight. */
  contour?: Contour | undefined;
}

/** Notes made from a recording are named after their line notes, so that they are found again; those drawn by hand are not. */
const MADE = 'r-';
const LONGEST_ID = 64;
const madeId = (lineNoteId: string) => `${MADE}${lineNoteId}`.slice(0, LONGEST_ID);

/**
 * Notes of what sounds of a recording, in ticks from the start of its passage. What begins outside the passage is left
 * out; each note lasts at least a tick.
 */
export function notesOfRecording(
  passage: PlacedRecording,
  time: TimeMap,
  wanted: MakingOptions = {},
): Note[] {
  const { toTicks } = createPassageTime(passage, time);
  const { offsetSeconds, durationSeconds } = passage;
  const line = melodyLineOf(passage);
  const ticksAt = (seconds: number): Ticks => Math.round(toTicks(seconds)) - passage.startTicks;
  const lineNotes = new Map(line?.notes.map((note) => [note.id, note]));
  return soundingNotes(passage).flatMap(({ startSeconds, endSeconds, ...note }) => {
    if (wanted.only && !wanted.only.has(note.id)) return [];
    const read = lineNotes.get(note.id);
    // One that was begun just before its passage sounds from there on.
    const early = read !== undefined && read.startSeconds < offsetSeconds && endSeconds > offsetSeconds;
    const startTicks = early ? Math.max(0, ticksAt(startSeconds)) : ticksAt(startSeconds);
    if (startTicks < 0 || startSeconds >= offsetSeconds + durationSeconds) return [];
    const made: Note = {
      ...note,
      id: madeId(note.id),
      startTicks,
      lengthTicks: Math.max(1, ticksAt(endSeconds) - startTicks),
    };
    if (!wanted.contour || !line || !read) return [made];
    const bends = bendsOfNote(read, line.tuningCents, wanted.contour).map(({ afterSeconds, semitones }) => ({
      afterTicks: Math.max(0, ticksAt(startSeconds + afterSeconds) - startTicks),
      semitones,
    }));
    return [withBends(made, bends)];
  });
}

/** A passage that holds such notes, where their recording lies. */
export function passageOfRecording(
  passage: PlacedRecording,
  time: TimeMap,
  wanted: MakingOptions = {},
): Omit<NotePassage, 'id'> {
  const notes = notesOfRecording(passage, time, wanted);
  return {
    type: 'notes',
    startTicks: passage.startTicks,
    lengthTicks: notes.reduce((most, note) => Math.max(most, note.startTicks + note.lengthTicks), 0),
    notes,
  };
}

/**
 * The passages of a recording part as passages of notes, each where it lies; those without notes are left out.
 * @param wanted.hits those that were read as hits, or those that were not: no part plays both
 */
export function passagesOfRecording(
  part: RecordingPart,
  time: TimeMap,
  wanted: Pick<MakingOptions, 'only'> & {
    hits: boolean;
    contourOf?: (passage: PlacedRecording) => Contour | undefined;
  },
): Omit<NotePassage, 'id'>[] {
  const { only, hits, contourOf } = wanted;
  return placedRecordings(part)
    .filter((passage) => readsHits(passage) === hits)
    .map((passage) => passageOfRecording(passage, time, { only, contour: contourOf?.(passage) }))
    .filter(({ notes }) => notes.length > 0);
}

export interface FollowingPlan {
  edit: Edit;
  /** How many notes of the part would change, be added and be removed. */
  changed: number;
  added: number;
  removed: number;
}

/** Whether a part still has notes that can be brought up to date. */
export function isTiedToRecording(part: NotePart): boolean {
  return part.passages.some(({ notes }) => notes.some(({ id }) => id.startsWith(MADE)));
}

/**
 * What brings a note part up to date with the recording it was made from; undefined where nothing would change. Notes that
 * were drawn by hand stay, and velocities and mutes that were set by hand. Of several parts made from one recording each
 * keeps its share; a note that was read since goes to the one that plays nearest to it.
 * @param contourOf of the line of a passage, where it has one: a part that bends goes on doing so
 */
export function planFollowing(
  song: Song,
  part: NotePart,
  time: TimeMap,
  contourOf: (passage: PlacedRecording) => Contour | undefined,
): FollowingPlan | undefined {
  const source = song.parts.find(({ id }) => id === part.madeFromPartId);
  const read = source?.kind === 'recording' ? placedRecordings(source).filter(({ line }) => line) : [];
  const hits = holdsHits(part, read);
  const recorded = read.filter((each) => readsHits(each) === hits);
  const [first] = chosenPassages(part) as (NotePassage | undefined)[];
  if (recorded.length === 0 || !first || !isTiedToRecording(part)) return undefined;
  const bends = notesOf(part).some((note) => note.bends);
  const now = recorded.flatMap((passage) =>
    notesOfRecording(passage, time, bends ? { contour: contourOf(passage) } : {}).map((note) => ({
      ...note,
      startTicks: note.startTicks + passage.startTicks,
    })),
  );
  const known = new Map(
    part.passages.flatMap((passage) => passage.notes.map((note) => [note.id, { note, passage }] as const)),
  );
  const siblings = song.parts.filter(
    (each): each is NotePart =>
      each.kind !== 'recording' && each.id !== part.id && each.madeFromPartId === source!.id,
  );
  const elsewhere = new Set(siblings.flatMap(notesOf).map(({ id }) => id));
  const changes = new Map(
    part.passages.map((passage) => [passage, { put: [] as Note[], remove: [] as string[] }]),
  );
  let [changed, added, removed] = [0, 0, 0];
  for (const wanted of now) {
    const before = known.get(wanted.id);
    if (!before && (elsewhere.has(wanted.id) || !playsNearest(part, siblings, wanted.midi))) continue;
    const passage = before?.passage ?? passageAt(chosenPassages(part), wanted.startTicks) ?? first;
    const placed = { ...wanted, startTicks: wanted.startTicks - notesOriginTicks(passage) };
    const { muted: _, ...sounding } = placed;
    const after: Note = before
      ? { ...sounding, velocity: before.note.velocity, ...(before.note.muted && { muted: true as const }) }
      : placed;
    if (before && JSON.stringify(sorted(before.note)) === JSON.stringify(sorted(after))) continue;
    changes.get(passage)!.put.push(after);
    if (before) changed++;
    else added++;
  }
  const still = new Set(now.map(({ id }) => id));
  for (const { note, passage } of known.values()) {
    if (!note.id.startsWith(MADE) || still.has(note.id)) continue;
    changes.get(passage)!.remove.push(note.id);
    removed++;
  }
  const edits = [...changes].flatMap(([passage, { put, remove }]) =>
    put.length + remove.length > 0 ? putNotes(part.id, passage, put, remove) : [],
  );
  return edits.length > 0 ? { edit: { type: 'batch', edits }, changed, added, removed } : undefined;
}

/** Whether a part was made from hits: a drum kit may play what was read as a melody, too. */
function holdsHits(part: NotePart, read: readonly PlacedRecording[]): boolean {
  const made = new Set(notesOf(part).map(({ id }) => id));
  const from = read.find(({ line }) => line!.notes.some(({ id }) => made.has(madeId(id))));
  // Nothing of it is left where all was read anew.
  return from ? readsHits(from) : part.kind === 'drums' && read.some(readsHits);
}

/** The last passage that has begun at a tick. */
const passageAt = (passages: readonly NotePassage[], ticks: Ticks) =>
  passages
    .filter(({ startTicks }) => startTicks <= ticks)
    .sort((a, b) => b.startTicks - a.startTicks)
    .at(0);

const notesOf = (part: NotePart): Note[] => part.passages.flatMap(({ notes }) => notes);
const sorted = (note: Note) => Object.entries(note).sort(([a], [b]) => (a < b ? -1 : 1));

/** Whether none of the other parts has a note nearer to a pitch. */
function playsNearest(part: NotePart, others: readonly NotePart[], midi: number): boolean {
  const distance = (each: NotePart) =>
    Math.min(Infinity, ...notesOf(each).map((note) => Math.abs(note.midi - midi)));
  const own = distance(part);
  return others.every((other) => distance(other) >= own);
}
