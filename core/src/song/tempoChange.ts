/** Another tempo for a song that holds recordings, which keep their speed: what stays where it sounds, what keeps its bars. */
import type { Seconds, Ticks } from '../signal/index.ts';
import { chordEntriesOf } from './changes.ts';
import type { Edit, SimpleEdit } from './editSchema.ts';
import { keyChangesOf } from './keys.ts';
import { notesOriginTicks } from './placed.ts';
import { clockAlong, clockKeeping, followingTicks } from './passageTime.ts';
import type { ChordEntry, Note, NotePart, Part, PassageClock, RecordingPassage, Song } from './schema.ts';
import { createTimeMap, type TimeMap } from './timeMap.ts';

/**
 * `sound`: everything stays where it is heard and the grid moves beneath it; `bars`: what is written keeps its bar and beat;
 * `all`: recordings do so too, slower or faster, and follow the tempo from then on.
 */
export type TempoKeeps = 'sound' | 'bars' | 'all';

/** What a change of tempo would tear apart, to be asked about. */
export interface TempoQuestion {
  /** Note parts that would come apart from the recording they were made from, if they kept their bars. */
  apart: { notes: string; recording: string }[];
  /** Other parts that are counted in bars, beside recordings that are not. */
  others: string[];
}

const hasNotes = (part: Part): part is NotePart =>
  part.kind !== 'recording' && part.passages.some(({ notes }) => notes.length > 0);

/** Recordings that keep their speed at any tempo. */
const steadyRecordings = ({ parts }: Song): Part[] =>
  parts.filter(
    (part) => part.kind === 'recording' && part.passages.some(({ clock }) => clock?.keeps !== 'song'),
  );

/** What a tempo does where there is nothing to ask: notes, and recordings that follow, are played faster or slower by it. */
export const tempoKeepsUnasked = (song: Song): TempoKeeps =>
  steadyRecordings(song).length > 0 ? 'sound' : 'bars';

/**
 * Undefined where there is nothing to ask: no recordings, or nothing that could come apart from them.
 * @param throughout the tempo changed, and will no longer: recordings may have been played so
 */
export function tempoQuestion(song: Song, throughout = false): TempoQuestion | undefined {
  const recordings = steadyRecordings(song);
  if (recordings.length === 0) return undefined;
  const apart: TempoQuestion['apart'] = [];
  const others: string[] = [];
  for (const part of song.parts) {
    if (!hasNotes(part)) continue;
    const source = recordings.find(({ id }) => id === part.madeFromPartId);
    if (source) apart.push({ notes: part.name, recording: source.name });
    else others.push(part.name);
  }
  const laterRecordings = recordings.some(({ passages }) =>
    passages.some(({ startTicks }) => startTicks > 0),
  );
  const asked =
    throughout || apart.length + others.length > 0 || chordEntriesOf(song).length > 0 || laterRecordings;
  return asked ? { apart, others } : undefined;
}

/**
 * The edit that sets the first tempo of a song, in quarters a minute.
 * @param throughout it becomes the only one
 */
export function planTempo(song: Song, bpm: number, keeps: TempoKeeps, throughout = false): Edit {
  const tempoMap = throughout
    ? [{ startTicks: 0, bpm }]
    : [{ ...song.tempoMap[0], bpm }, ...song.tempoMap.slice(1)];
  const set: SimpleEdit = { type: 'song.set', patch: { tempoMap } };
  const before = createTimeMap(song);
  if (keeps === 'all') return { type: 'batch', edits: [...recordingsFollow(song, before), set] };
  if (keeps === 'bars') return set;
  const after = createTimeMap({ tempoMap, metreMap: song.metreMap });
  const movedExactly = (ticks: Ticks): Ticks => after.ticksAt(before.secondsAt(ticks));
  const moved = (ticks: Ticks): Ticks => Math.round(movedExactly(ticks));
  const edits: SimpleEdit[] = [set];
  for (const part of song.parts) edits.push(...partEdits(part, movedExactly));
  const changes = chordEntriesOf(song);
  if (changes.length > 0)
    edits.push({ type: 'changes.put', remove: idsOf(changes), put: apartFrom(changes, moved) });
  const keys = keyChangesOf(song);
  if (keys.length > 0)
    edits.push({
      type: 'song.set',
      patch: { keyChanges: apartFrom([{ startTicks: 0, key: keys[0].key }, ...keys], moved).slice(1) },
    });
  if (song.sections?.length)
    edits.push({
      type: 'song.set',
      patch: {
        sections: apartFrom(song.sections, moved).map((section) =>
          section.endTicks === undefined
            ? section
            : { ...section, endTicks: Math.max(section.startTicks + 1, moved(section.endTicks)) },
        ),
      },
    });
  return { type: 'batch', edits };
}

/** Every recording goes on sounding as it does, and goes along with the tempo. */
function recordingsFollow({ parts }: Song, time: TimeMap): SimpleEdit[] {
  return parts.flatMap((part) =>
    part.passages.flatMap((passage): SimpleEdit[] => {
      if (passage.type !== 'recording' || passage.clock?.keeps === 'song' || passage.durationSeconds === 0)
        return [];
      const clock = clockKeeping(passage, 'song', time);
      return [{ type: 'passage.set', partId: part.id, passageId: passage.id, patch: { clock } }];
    }),
  );
}

/**
 * The edits that put a part elsewhere in time, note by note.
 * @param movedExactly to fractions of a tick
 */
export function partEdits(part: Part, movedExactly: (ticks: Ticks) => Ticks): SimpleEdit[] {
  const moved = (ticks: Ticks): Ticks => Math.round(movedExactly(ticks));
  const edits: SimpleEdit[] = [];
  if (part.kind !== 'drums' && part.follows)
    edits.push({
      type: 'part.follow',
      partId: part.id,
      follows: { ...part.follows, writtenOver: apartFrom(part.follows.writtenOver, moved) },
    });
  for (const passage of part.passages) {
    const place = { partId: part.id, passageId: passage.id };
    const startTicks = Math.max(0, moved(passage.startTicks));
    if (passage.type === 'recording') {
      const clock = clockAsHeard(passage, movedExactly);
      if (startTicks !== passage.startTicks || clock)
        edits.push({ type: 'passage.set', ...place, patch: { startTicks, ...(clock && { clock }) } });
      continue;
    }
    const lengthTicks = moved(passage.startTicks + passage.lengthTicks) - startTicks;
    // Notes that are hidden before a window keep their distance in time to it.
    const origin = notesOriginTicks(passage);
    const newOrigin = moved(origin);
    const offset = passage.offsetTicks !== undefined && { offsetTicks: Math.max(0, startTicks - newOrigin) };
    edits.push({ type: 'passage.set', ...place, patch: { startTicks, lengthTicks, ...offset } });
    const put = passage.notes.map((note) =>
      movedNote(note, origin, offset ? startTicks - offset.offsetTicks : startTicks, moved),
    );
    if (put.length > 0) edits.push({ type: 'passage.notes', ...place, remove: [], put });
  }
  return edits;
}

/** Looked at in so many places, a passage is as long as before if it is so to a tick. */
const PLACES = 16;

/** A passage that follows the tempo goes on sounding when it does: what it counts as its own tempo changes instead. */
function clockAsHeard(passage: RecordingPassage, moved: (ticks: Ticks) => Ticks): PassageClock | undefined {
  const { clock, startTicks, offsetSeconds, durationSeconds } = passage;
  if (clock?.keeps !== 'song' || durationSeconds === 0) return undefined;
  const { toTicks } = followingTicks(passage, clock);
  const way = moved(startTicks) - startTicks;
  const isElsewhere = (_: unknown, i: number) => {
    const ticks = toTicks(offsetSeconds + (durationSeconds * (i + 1)) / PLACES);
    return Math.abs(moved(ticks) - ticks - way) >= 1;
  };
  if (!Array.from({ length: PLACES }, isElsewhere).some(Boolean)) return undefined;
  return clockAlong(passage, (recorded) => moved(toTicks(recorded)));
}

function movedNote(
  note: Note,
  originTicks: Ticks,
  newOriginTicks: Ticks,
  moved: (ticks: Ticks) => Ticks,
): Note {
  const from = originTicks + note.startTicks;
  const startTicks = moved(from);
  return {
    ...note,
    startTicks: Math.max(0, startTicks - newOriginTicks),
    lengthTicks: Math.max(1, moved(from + note.lengthTicks) - startTicks),
    ...(note.bends && {
      bends: note.bends.map((bend) => ({ ...bend, afterTicks: moved(from + bend.afterTicks) - startTicks })),
    }),
  };
}

const idsOf = (entries: readonly Pick<ChordEntry, 'id'>[]) => entries.map(({ id }) => id);

/** Entries of which each holds until the next; two that would fall on one place stay a tick apart. */
function apartFrom<T extends { startTicks: Ticks }>(
  entries: readonly T[],
  moved: (ticks: Ticks) => Ticks,
): T[] {
  let last = -1;
  return entries.map((entry) => {
    last = Math.max(last + 1, moved(entry.startTicks));
    return { ...entry, startTicks: last };
  });
}

/** Nearer than this to a bar line a recording begins on it: beats are read to 12 ms, and played no better. */
export const SAME_PLACE_SECONDS = 0.03;

/**
 * Seconds by which a place is moved to a bar line: to the nearest that does not make anything begin before the song.
 * @param earliestSeconds where the first of what moves along begins
 */
export function secondsToBarLine(placeSeconds: Seconds, earliestSeconds: Seconds, time: TimeMap): Seconds {
  const { bar } = time.barAt(Math.round(time.ticksAt(Math.max(0, placeSeconds))));
  const ways = [bar, bar + 1].map((each) => time.secondsAt(time.barStartTicks(each)) - placeSeconds);
  const allowed = ways
    .filter((way) => earliestSeconds + way >= -SAME_PLACE_SECONDS)
    .map((way) => Math.max(way, -earliestSeconds));
  return allowed.reduce((best, way) => (Math.abs(way) < Math.abs(best) ? way : best), allowed[0] ?? 0);
}

/**
 * Moves a recording, and what was made from it, by seconds; nothing goes before the start of the song. Undefined where
 * nothing would move.
 */
export function planShift(song: Song, partId: string, bySeconds: Seconds): Edit | undefined {
  const time = createTimeMap(song);
  const parts = song.parts.filter(
    (part) => part.id === partId || (part.kind !== 'recording' && part.madeFromPartId === partId),
  );
  const first = Math.min(
    ...parts.flatMap(({ passages }) => passages.map(({ startTicks }) => time.secondsAt(startTicks))),
  );
  const by = Math.max(bySeconds, -first);
  if (!Number.isFinite(by) || Math.abs(by) < 1e-6) return undefined;
  // What follows the tempo goes on doing so from its new place, with what was made from it.
  const byTicks = time.ticksAt(first + by) - time.ticksAt(first);
  const follows = parts.every(
    (part) =>
      part.kind !== 'recording' ||
      part.passages.every((passage) => passage.type === 'recording' && passage.clock?.keeps === 'song'),
  );
  const moved = follows
    ? (ticks: Ticks) => ticks + byTicks
    : (ticks: Ticks) => time.ticksAt(time.secondsAt(ticks) + by);
  const edits = parts.flatMap((part) => partEdits(part, moved));
  return edits.length > 0 ? { type: 'batch', edits } : undefined;
}

/** Beats that were read, and the bar lines among them. */
export interface ReadBeats {
  bpm: number;
  beats: readonly Seconds[];
  downbeats: readonly Seconds[];
}

/** The last bar line may lie so far from where it was heard. */
const LAST_BAR_SECONDS = 0.02;

/** The tempo to offer: a whole number where that keeps the last bar within 20 ms, else what was read. */
export function offeredBpm({ bpm, beats, downbeats }: ReadBeats): number {
  const whole = Math.round(bpm);
  const [first, last] = [downbeats.at(0), downbeats.at(-1)];
  if (first === undefined || last === undefined || last <= first || Math.abs(whole - bpm) > 0.5) return bpm;
  const count = beats.filter((seconds) => seconds >= first - 1e-6 && seconds < last - 1e-6).length;
  return Math.abs(first + (count * 60) / whole - last) <= LAST_BAR_SECONDS ? whole : bpm;
}
