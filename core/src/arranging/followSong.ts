/** The song as it sounds when its parts follow the chords. What was played stays in the song. */
import type { Cents, Seconds, Ticks } from '../signal/index.ts';
import {
  changeAt,
  chordEntriesOf,
  createPassageTime,
  createTimeMap,
  keyAt,
  melodyLineOf,
  nearestNote,
  notesOriginTicks,
  placedRecordings,
  railMidi,
  wantedSpan,
  type ChordEntry,
  type Follows,
  type Keyed,
  type NotePassage,
  type Part,
  type LineNote,
  type RecordingPart,
  type Take,
  type Song,
  type TimeMap,
} from '../song/index.ts';
import type { Key } from '../theory/index.ts';
import { followNote } from './follow.ts';

/** The same song when nothing follows; parts that do not follow are the same objects. */
export function followedSong(song: Song): Song {
  const changes = chordEntriesOf(song);
  if (song.followOff || changes.length === 0 || !song.parts.some((part) => followsOf(part))) return song;
  const time = createTimeMap(song);
  return { ...song, parts: song.parts.map((part) => followedPart(part, changes, song, time)) };
}

export function followsOf(part: Part): Follows | undefined {
  return part.kind === 'drums' ? undefined : part.follows;
}

function followedPart(part: Part, changes: readonly ChordEntry[], keyed: Keyed, time: TimeMap): Part {
  const follows = followsOf(part);
  if (!follows) return part;
  const goes = rememberedGoes(changes, keyed, follows);
  if (part.kind === 'notes')
    return { ...part, passages: part.passages.map((passage) => followedNotes(passage, goes)) };
  if (part.kind === 'recording') return { ...part, takes: followedTakes(part, goes, time) };
  return part;
}

/** Shorter notes pass: they may lie beside a note of the chord. In ticks, a little less than a quarter. */
const HELD_TICKS = 720;

type Goes = (midi: number, ticks: number, lengthTicks: number) => number;

/** Worked out once for each pitch, pair of chords and key: a part plays few pitches over each chord. */
function rememberedGoes(changes: readonly ChordEntry[], keyed: Keyed, follows: Follows): Goes {
  const known = new Map<
    ChordEntry | undefined,
    Map<ChordEntry | undefined, Map<Key | null, Map<number, number>>>
  >();
  const inside = <K, V>(map: Map<K, V>, at: K, make: () => V): V => {
    let value = map.get(at);
    if (value === undefined) map.set(at, (value = make()));
    return value;
  };
  return (midi, ticks, lengthTicks) => {
    const held = lengthTicks >= HELD_TICKS;
    // Undefined where it is not known what it was written over.
    const from = changeAt(follows.writtenOver, ticks);
    const to = changeAt(changes, ticks);
    const key = keyAt(keyed, ticks);
    const overFrom = inside(
      known,
      from,
      () => new Map<ChordEntry | undefined, Map<Key | null, Map<number, number>>>(),
    );
    const overBoth = inside(overFrom, to, () => new Map<Key | null, Map<number, number>>());
    const pitches = inside(overBoth, key, () => new Map<number, number>());
    return inside(pitches, held ? midi : -1 - midi, () =>
      followNote(midi, from?.chord, to?.chord, key, follows, held),
    );
  };
}

function followedNotes(passage: NotePassage, goes: Goes): NotePassage {
  return {
    ...passage,
    notes: passage.notes.map((note) => {
      // A note that is struck a little early belongs to the chord it sounds in.
      const middle = notesOriginTicks(passage) + note.startTicks + Math.min(note.lengthTicks / 2, 480);
      return { ...note, midi: goes(note.midi, middle, note.lengthTicks) };
    }),
  };
}

/**
 * Single lines follow through their corrections; what has no line of its own is left as it is. A note follows the chord at
 * the place of its passage.
 */
function followedTakes(part: RecordingPart, goes: Goes, time: TimeMap): Take[] {
  const placed = placedRecordings(part);
  return part.takes.map((take) => {
    const line = melodyLineOf(take);
    if (!line) return take;
    const followed = new Map<LineNote, LineNote>();
    for (const passage of placed) {
      if (passage.takeId !== take.id) continue;
      const { toTicks } = createPassageTime(passage, time);
      for (const note of passage.line?.notes ?? [])
        followed.set(note, followedNote(note, line.tuningCents, toTicks, goes));
    }
    return { ...take, line: { ...line, notes: line.notes.map((note) => followed.get(note) ?? note) } };
  });
}

function followedNote(
  note: LineNote,
  tuningCents: Cents,
  toTicks: (seconds: Seconds) => Ticks,
  goes: Goes,
): LineNote {
  const { startSeconds, endSeconds } = wantedSpan(note);
  const middle = toTicks(startSeconds + Math.min(0.2, (endSeconds - startSeconds) / 2));
  const rail = railMidi(note, tuningCents);
  const from = nearestNote(rail, tuningCents);
  const lengthTicks = toTicks(endSeconds) - toTicks(startSeconds);
  const to = goes(from, middle, lengthTicks);
  if (to === from) return note;
  return { ...note, target: { ...note.target, midi: Math.min(127, Math.max(0, to + rail - from)) } };
}
