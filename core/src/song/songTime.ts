/** Time put into a song or taken out of it, so that everything after it moves along: one edit says so, and this is what it does. */
import type { Ticks } from '../signal/index.ts';
import { chordEntriesOf, type ChordEntriesChange } from './changes.ts';
import { insertTime, movedEnds, removeTime, withoutTime } from './changeMoves.ts';
import { EditError, type Edit, type EditOf, type SimpleEdit } from './editSchema.ts';
import { fromZero, samePlaces } from './entries.ts';
import { keyChangesOf, movedKeys } from './keys.ts';
import {
  MAX_TICKS,
  TICKS_PER_QUARTER,
  type ChordEntry,
  type Note,
  type NotePassage,
  type Part,
  type Passage,
  type RecordingPart,
  type RecordingPassage,
  type Song,
} from './schema.ts';
import { splitEdits } from './arrange.ts';
import { isShown, passageEndTicks, placedNotes } from './placed.ts';
import { createTimeMap, type TimeMap } from './timeMap.ts';

/** Names of recordings that sound across the start of a bar (1 = first), where they will be cut. */
export function recordingsAcross(song: Song, bar: number): string[] {
  const time = createTimeMap(song);
  const atTicks = time.barStartTicks(bar);
  return song.parts
    .filter(
      ({ kind, passages }) =>
        kind === 'recording' &&
        passages.some((each) => each.startTicks < atTicks && passageEndTicks(each, time) > atTicks),
    )
    .map(({ name }) => name);
}

/** How many notes of note parts start within so many bars from a bar on, and go with them. */
export function notesWithin(song: Song, bar: number, bars: number): number {
  const time = createTimeMap(song);
  const [from, to] = [time.barStartTicks(bar), time.barStartTicks(bar + bars)];
  let count = 0;
  for (const part of song.parts)
    if (part.kind !== 'recording')
      for (const { startTicks } of placedNotes(part)) if (startTicks >= from && startTicks < to) count++;
  return count;
}

/**
 * So many bars in front of a bar (1 = first): what starts there or later moves by them. A note that sounds across the
 * place stays, a recording is cut there; the new bars have the tempo and the metre of the time before them. Undefined where
 * nothing moves.
 */
export function planInsertion(song: Song, bar: number, bars: number): Edit | undefined {
  const atTicks = createTimeMap(song).barStartTicks(bar);
  const { beats, unit } =
    song.metreMap.findLast(({ startTicks }) => startTicks < atTicks) ?? song.metreMap[0];
  const where = { atTicks, lengthTicks: (bars * beats * 4 * TICKS_PER_QUARTER) / unit, cuts: true as const };
  return insertionEdits(song, where).length > 0 ? { type: 'time.insert', ...where } : undefined;
}

/**
 * So many bars from a bar on taken out: what starts within them goes, what starts after them moves up; of recordings what
 * sounds within them goes. Tempo, metre, bend, section and chord in force at their end hold from there on.
 */
export function planRemoval(song: Song, bar: number, bars: number, createId: () => string): Edit | undefined {
  const time = createTimeMap(song);
  const atTicks = time.barStartTicks(bar);
  const where = {
    atTicks,
    lengthTicks: time.barStartTicks(bar + bars) - atTicks,
    chordId: createId(),
    cuts: true as const,
  };
  return removalEdits(song, where).length > 0 ? { type: 'time.remove', ...where } : undefined;
}

/** What takes back an insertion; recordings that it cut become whole again. */
export function insertionInverse(
  song: Song,
  { atTicks, lengthTicks }: EditOf<'time.insert'>,
  edits: readonly SimpleEdit[],
): Edit {
  const remove: SimpleEdit = { type: 'time.remove', atTicks, lengthTicks, chordId: UNUSED_ID };
  const whole = edits.flatMap((edit): SimpleEdit[] => {
    if (edit.type === 'passage.add')
      return [{ type: 'passage.remove', partId: edit.partId, passageId: edit.passage.id }];
    return [];
  });
  const back = edits.flatMap((edit): SimpleEdit[] => {
    if (edit.type !== 'passage.set') return [];
    const passage = (song.parts.find(({ id }) => id === edit.partId)?.passages as Passage[]).find(
      ({ id }) => id === edit.passageId,
    )!;
    if (passage.type !== 'recording') return [];
    const { startTicks, durationSeconds, fadeOutSeconds = null } = passage;
    // One that began just before the place moved along as a whole, and would not come back by itself.
    if (edit.patch.durationSeconds === undefined)
      return startTicks < atTicks ? [{ ...edit, patch: { startTicks } }] : [];
    const faded = edit.patch.fadeOutSeconds !== undefined && { fadeOutSeconds };
    return [{ ...edit, patch: { durationSeconds, ...faded } }];
  });
  const more = [...whole, ...back];
  return more.length === 0 ? remove : { type: 'batch', edits: [remove, ...more] };
}

/** For edits that make something whose name does not matter. */
const UNUSED_ID = 'none';

/** What putting in time does, edit by edit. Throws {@link EditError} where the song would become too long. */
export function insertionEdits(
  song: Song,
  { atTicks, lengthTicks, cuts }: Pick<EditOf<'time.insert'>, 'atTicks' | 'lengthTicks' | 'cuts'>,
): SimpleEdit[] {
  if (latestTicks(song) + lengthTicks > MAX_TICKS)
    throw new EditError('The song would become too long for its bars to be counted, so nothing was put in.');
  const startOf = (ticks: Ticks) => (ticks >= atTicks ? ticks + lengthTicks : ticks);
  return plan(song, {
    atTicks,
    untilTicks: atTicks,
    cuts,
    startOf,
    endOf: (ticks) => (ticks > atTicks ? ticks + lengthTicks : ticks),
    goes: () => false,
    map: (entries) => entries.map((entry) => ({ ...entry, startTicks: startOf(entry.startTicks) })),
    changes: (changes) => insertTime(changes, [], atTicks, lengthTicks).changes,
  });
}

/** What taking out time does, edit by edit. */
export function removalEdits(
  song: Song,
  {
    atTicks,
    lengthTicks,
    chordId,
    cuts,
  }: Pick<EditOf<'time.remove'>, 'atTicks' | 'lengthTicks' | 'chordId' | 'cuts'>,
): SimpleEdit[] {
  const end = atTicks + lengthTicks;
  const startOf = (ticks: Ticks) => (ticks >= end ? ticks - lengthTicks : Math.min(ticks, atTicks));
  return plan(song, {
    atTicks,
    untilTicks: end,
    cuts,
    startOf,
    endOf: startOf,
    goes: (ticks) => ticks >= atTicks && ticks < end,
    map: (entries) => withoutTime(entries, atTicks, end),
    changes: (changes) => removeTime(changes, [], atTicks, lengthTicks, () => chordId).changes,
  });
}

/** The last tick at which anything stands or ends. */
function latestTicks(song: Song): Ticks {
  let latest = Math.max(
    song.tempoMap[song.tempoMap.length - 1].startTicks,
    song.metreMap[song.metreMap.length - 1].startTicks,
    chordEntriesOf(song).at(-1)?.startTicks ?? 0,
    keyChangesOf(song).at(-1)?.startTicks ?? 0,
    ...(song.sections ?? []).map(({ startTicks, endTicks }) => Math.max(startTicks, endTicks ?? 0)),
  );
  for (const part of song.parts) {
    if (part.kind !== 'drums') latest = Math.max(latest, part.follows?.writtenOver.at(-1)?.startTicks ?? 0);
    for (const passage of part.passages) {
      const last =
        passage.type === 'recording'
          ? 0
          : Math.max(passage.lengthTicks, passage.notes.at(-1)?.startTicks ?? 0);
      latest = Math.max(latest, passage.startTicks + last);
    }
  }
  return latest;
}

/** What happens to time at a place. */
interface Shift {
  atTicks: Ticks;
  /** Where time goes on: the place itself, or behind what is taken out. */
  untilTicks: Ticks;
  /** Whether recordings are cut at both. */
  cuts: true | undefined;
  /** The new place of what starts or ends at a tick. */
  startOf(ticks: Ticks): Ticks;
  endOf(ticks: Ticks): Ticks;
  /** Whether a note that starts there goes. */
  goes(ticks: Ticks): boolean;
  /** Entries of which each holds until the next. */
  map<T extends { startTicks: Ticks }>(entries: readonly T[]): T[];
  changes(changes: readonly ChordEntry[]): ChordEntriesChange;
}

/** Empty where nothing moves. */
function plan(song: Song, shift: Shift): SimpleEdit[] {
  const time = createTimeMap(song);
  return [
    ...frameEdits(song, shift),
    ...song.parts.flatMap((part) => [
      ...writtenOverEdits(part, shift),
      ...(part.kind === 'recording'
        ? recordingEdits(part, shift, time)
        : part.passages.flatMap((passage) => notePassageEdits(part, passage, shift))),
    ]),
  ];
}

/** Chords, sections, tempo, metre and keys. */
function frameEdits(song: Song, shift: Shift): SimpleEdit[] {
  const { remove, put } = shift.changes(chordEntriesOf(song));
  const patch = {
    tempoMap: fromZero(shift.map(song.tempoMap)),
    metreMap: fromZero(shift.map(song.metreMap)),
    ...(song.keyChanges && movedKeys(song, shift.map)),
    ...(song.sections && { sections: movedEnds(shift.map(song.sections), song.sections, shift.endOf) }),
  };
  const edits: SimpleEdit[] = [];
  if (remove.length + put.length > 0) edits.push({ type: 'changes.put', remove, put });
  const stays =
    samePlaces(patch.tempoMap, song.tempoMap) &&
    samePlaces(patch.metreMap, song.metreMap) &&
    samePlaces(patch.keyChanges ?? [], keyChangesOf(song)) &&
    samePlaces(patch.sections ?? [], song.sections ?? []) &&
    (patch.sections ?? []).every(({ endTicks }, i) => endTicks === song.sections![i].endTicks);
  if (!stays) edits.push({ type: 'song.set', patch });
  return edits;
}

/** What a part was written over moves along with its notes. */
function writtenOverEdits(part: Part, shift: Shift): SimpleEdit[] {
  if (part.kind === 'drums' || !part.follows) return [];
  const { writtenOver } = part.follows;
  const { remove, put } = shift.changes(writtenOver);
  if (remove.length + put.length === 0) return [];
  const gone = new Set([...remove, ...put.map(({ id }) => id)]);
  const moved = [...writtenOver.filter(({ id }) => !gone.has(id)), ...put];
  return [
    {
      type: 'part.follow',
      partId: part.id,
      follows: { ...part.follows, writtenOver: moved.sort((a, b) => a.startTicks - b.startTicks) },
    },
  ];
}

function recordingEdits(part: RecordingPart, shift: Shift, time: TimeMap): SimpleEdit[] {
  const taken = new Set(part.passages.map(({ id }) => id));
  const edits: SimpleEdit[] = [];
  const gone = new Set<string>();
  for (const passage of part.passages)
    for (const edit of shift.cuts
      ? cutEdits(part, passage, shift, time, taken)
      : movedEdits(part, passage, shift)) {
      edits.push(edit);
      if (edit.type === 'passage.remove') gone.add(edit.passageId);
    }
  const still = new Set(part.passages.filter(({ id }) => !gone.has(id)).map(({ takeId }) => takeId));
  for (const { id } of part.takes)
    if (!still.has(id) && part.passages.some(({ takeId }) => takeId === id))
      edits.push({ type: 'take.remove', partId: part.id, takeId: id });
  return edits;
}

function movedEdits(part: Part, { id, startTicks }: RecordingPassage, shift: Shift): SimpleEdit[] {
  const moved = shift.startOf(startTicks);
  if (moved === startTicks) return [];
  return [{ type: 'passage.set', partId: part.id, passageId: id, patch: { startTicks: moved } }];
}

/** The whole passage moves by as much as what comes after the place. */
function movedBy(part: Part, { id, startTicks }: RecordingPassage, shift: Shift): SimpleEdit[] {
  const by = shift.startOf(shift.untilTicks) - shift.untilTicks;
  return [{ type: 'passage.set', partId: part.id, passageId: id, patch: { startTicks: startTicks + by } }];
}

/** What lies before the place stays, what lies behind moves, and what would be between goes. */
function cutEdits(
  part: Part,
  passage: RecordingPassage,
  shift: Shift,
  time: TimeMap,
  taken: Set<string>,
): SimpleEdit[] {
  const { id, startTicks } = passage;
  const end = passageEndTicks(passage, time);
  if (end <= shift.atTicks) return [];
  if (startTicks >= shift.untilTicks) return movedEdits(part, passage, shift);
  const tail = splitEdits({ part, passage }, shift.untilTicks, shift.startOf(shift.untilTicks), time, () =>
    freeId(id, taken),
  );
  if (startTicks < shift.atTicks) {
    const head = splitEdits({ part, passage }, shift.atTicks, shift.atTicks, time, () => 'unused');
    const shorter = head.filter(({ type }) => type === 'passage.set');
    if (shorter.length > 0) return [...shorter, ...tail.filter(({ type }) => type === 'passage.add')];
    // Less than a passage lies on one side of the place: there is nothing to cut, and it goes with its greater part.
    if (shift.atTicks === shift.untilTicks)
      return end - shift.atTicks > shift.atTicks - startTicks ? movedBy(part, passage, shift) : [];
    if (tail.length === 0) return [];
  }
  // It begins in what is taken out: of it only the tail is left, under its own name, so that nothing overlaps.
  const rest = tail.find((edit) => edit.type === 'passage.add')?.passage;
  const place = { partId: part.id, passageId: id };
  if (rest?.type !== 'recording') return [{ type: 'passage.remove', ...place }];
  const { offsetSeconds, durationSeconds } = rest;
  const fade = passage.fadeInSeconds !== undefined && { fadeInSeconds: null };
  return [
    {
      type: 'passage.set',
      ...place,
      patch: { startTicks: rest.startTicks, offsetSeconds, durationSeconds, ...fade },
    },
  ];
}

/** A name for a second half that whoever takes this step finds too. */
function freeId(id: string, taken: Set<string>): string {
  for (let k = 2; ; k++) {
    const name = `${id.slice(0, 56)}~${k}`;
    if (taken.has(name)) continue;
    taken.add(name);
    return name;
  }
}

function notePassageEdits(part: Part, passage: NotePassage, shift: Shift): SimpleEdit[] {
  const at = { partId: part.id, passageId: passage.id };
  const { startTicks, lengthTicks, offsetTicks = 0, notes } = passage;
  const start = shift.startOf(startTicks);
  const length = Math.max(0, shift.endOf(startTicks + lengthTicks) - start);
  if (lengthTicks > 0 && length === 0) return [{ type: 'passage.remove', ...at }];
  const edits: SimpleEdit[] = [];
  if (start !== startTicks || length !== lengthTicks)
    edits.push({ type: 'passage.set', ...at, patch: { startTicks: start, lengthTicks: length } });
  // What a window hides keeps its distance to the edge behind which it is hidden.
  const hidden = (note: Note) => !isShown(passage, note);
  const remove = notes
    .filter((note) => !hidden(note) && shift.goes(startTicks - offsetTicks + note.startTicks))
    .map(({ id }) => id);
  const gone = new Set(remove);
  const put = notes.flatMap((note) => {
    const place = hidden(note)
      ? note.startTicks + (note.startTicks < offsetTicks ? 0 : length - lengthTicks)
      : shift.startOf(startTicks - offsetTicks + note.startTicks) - start + offsetTicks;
    return gone.has(note.id) || place === note.startTicks ? [] : [{ ...note, startTicks: place }];
  });
  if (remove.length + put.length > 0) edits.push({ type: 'passage.notes', ...at, remove, put });
  return edits;
}
