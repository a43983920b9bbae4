/** Time put into a song or taken out of it, so that everything after it moves along: one edit says so, and this is what it does. */
import type { Ticks } from '../signal/index.ts';
import { chordEntriesOf, type ChordEntriesChange } from './changes.ts';
import { insertTime, removeTime, withoutTime } from './changeMoves.ts';
import { EditError, type Edit, type EditOf, type SimpleEdit } from './editSchema.ts';
import {
  MAX_TICKS,
  TICKS_PER_QUARTER,
  type ChordEntry,
  type NotePassage,
  type Part,
  type RecordingPassage,
  type Song,
} from './schema.ts';
import { createTimeMap } from './timeMap.ts';

/** Names of recordings that sound across the start of a bar (1 = first): they are not cut, and stay where they are. */
export function recordingsAcross(song: Song, bar: number): string[] {
  const time = createTimeMap(song);
  const atTicks = time.barStartTicks(bar);
  const atSeconds = time.secondsAt(atTicks);
  return song.parts
    .filter(({ passages }) =>
      passages.some(
        (passage) =>
          passage.type === 'recording' &&
          passage.startTicks < atTicks &&
          time.secondsAt(passage.startTicks) + passage.durationSeconds > atSeconds,
      ),
    )
    .map(({ name }) => name);
}

/** How many notes of note parts start within so many bars from a bar on, and go with them. */
export function notesWithin(song: Song, bar: number, bars: number): number {
  const time = createTimeMap(song);
  const [from, to] = [time.barStartTicks(bar), time.barStartTicks(bar + bars)];
  let count = 0;
  for (const { passages } of song.parts)
    for (const passage of passages)
      if (passage.type === 'notes')
        for (const note of passage.notes) {
          const start = passage.startTicks + note.startTicks;
          if (start >= from && start < to) count++;
        }
  return count;
}

/**
 * So many bars in front of a bar (1 = first): what starts there or later moves by them. A note that sounds across the
 * place stays; the new bars have the tempo and the metre of the time before them. Undefined where nothing moves.
 */
export function planInsertion(song: Song, bar: number, bars: number): Edit | undefined {
  const atTicks = createTimeMap(song).barStartTicks(bar);
  const { beats, unit } =
    song.metreMap.findLast(({ startTicks }) => startTicks < atTicks) ?? song.metreMap[0];
  const where = { atTicks, lengthTicks: (bars * beats * 4 * TICKS_PER_QUARTER) / unit };
  return insertionEdits(song, where).length > 0 ? { type: 'time.insert', ...where } : undefined;
}

/**
 * So many bars from a bar on taken out: what starts within them goes, what starts after them moves up. Tempo, metre, bend,
 * section and chord in force at their end hold from there on. A recording that begins within them begins at the place.
 */
export function planRemoval(song: Song, bar: number, bars: number, createId: () => string): Edit | undefined {
  const time = createTimeMap(song);
  const atTicks = time.barStartTicks(bar);
  const where = { atTicks, lengthTicks: time.barStartTicks(bar + bars) - atTicks, chordId: createId() };
  return removalEdits(song, where).length > 0 ? { type: 'time.remove', ...where } : undefined;
}

/** What putting in time does, edit by edit. Throws {@link EditError} where the song would become too long. */
export function insertionEdits(
  song: Song,
  { atTicks, lengthTicks }: Pick<EditOf<'time.insert'>, 'atTicks' | 'lengthTicks'>,
): SimpleEdit[] {
  if (latestTicks(song) + lengthTicks > MAX_TICKS)
    throw new EditError('The song would become too long for its bars to be counted, so nothing was put in.');
  const startOf = (ticks: Ticks) => (ticks >= atTicks ? ticks + lengthTicks : ticks);
  return plan(song, {
    atTicks,
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
  { atTicks, lengthTicks, chordId }: Pick<EditOf<'time.remove'>, 'atTicks' | 'lengthTicks' | 'chordId'>,
): SimpleEdit[] {
  const end = atTicks + lengthTicks;
  const startOf = (ticks: Ticks) => (ticks >= end ? ticks - lengthTicks : Math.min(ticks, atTicks));
  return plan(song, {
    atTicks,
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
    song.sections?.at(-1)?.startTicks ?? 0,
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
  return [
    ...frameEdits(song, shift),
    ...song.parts.flatMap((part) => [
      ...writtenOverEdits(part, shift),
      ...part.passages.flatMap((passage) =>
        passage.type === 'notes'
          ? notePassageEdits(part, passage, shift)
          : recordingEdits(part, passage, shift),
      ),
    ]),
  ];
}

/** Changes, sections, tempo and metre. */
function frameEdits(song: Song, shift: Shift): SimpleEdit[] {
  const { remove, put } = shift.changes(chordEntriesOf(song));
  const patch = {
    tempoMap: fromZero(shift.map(song.tempoMap)),
    metreMap: fromZero(shift.map(song.metreMap)),
    ...(song.sections && { sections: shift.map(song.sections) }),
  };
  const edits: SimpleEdit[] = [];
  if (remove.length + put.length > 0) edits.push({ type: 'changes.put', remove, put });
  const stays =
    same(patch.tempoMap, song.tempoMap) &&
    same(patch.metreMap, song.metreMap) &&
    same(patch.sections ?? [], song.sections ?? []);
  if (!stays) edits.push({ type: 'song.set', patch });
  return edits;
}

/** A map starts with the song, also where its first entry would have moved. */
function fromZero<T extends { startTicks: Ticks }>([first, ...rest]: readonly T[]): T[] {
  return [{ ...first, startTicks: 0 }, ...rest];
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

function recordingEdits(part: Part, { id, startTicks }: RecordingPassage, shift: Shift): SimpleEdit[] {
  const moved = shift.startOf(startTicks);
  if (moved === startTicks) return [];
  return [{ type: 'passage.set', partId: part.id, passageId: id, patch: { startTicks: moved } }];
}

function notePassageEdits(part: Part, passage: NotePassage, shift: Shift): SimpleEdit[] {
  const at = { partId: part.id, passageId: passage.id };
  const { startTicks, lengthTicks, notes } = passage;
  const start = shift.startOf(startTicks);
  const length = Math.max(0, shift.endOf(startTicks + lengthTicks) - start);
  if (lengthTicks > 0 && length === 0) return [{ type: 'passage.remove', ...at }];
  const edits: SimpleEdit[] = [];
  if (start !== startTicks || length !== lengthTicks)
    edits.push({ type: 'passage.set', ...at, patch: { startTicks: start, lengthTicks: length } });
  const remove = notes.filter((note) => shift.goes(startTicks + note.startTicks)).map(({ id }) => id);
  const gone = new Set(remove);
  const put = notes.flatMap((note) => {
    const place = shift.startOf(startTicks + note.startTicks) - start;
    return gone.has(note.id) || place === note.startTicks ? [] : [{ ...note, startTicks: place }];
  });
  if (remove.length + put.length > 0) edits.push({ type: 'passage.notes', ...at, remove, put });
  return edits;
}

/** Whether entries that were moved stand where they did. */
function same(a: readonly { startTicks: Ticks }[], b: readonly { startTicks: Ticks }[]): boolean {
  return a.length === b.length && a.every(({ startTicks }, i) => startTicks === b[i].startTicks);
}
