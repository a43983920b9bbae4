/** Parts as they are made from what comes in: pure functions to song data. */
import type { Recording } from '@plundra/contract';
import { instrumentName, type Sound } from '../audio/instruments.ts';
import { guessMaterial, markOf, LONGEST_NAME, nameOfFile, wholeRecording } from '@plundra/core/song';
import type { Note, NotePart, NotePassage, RecordingPart, SimpleEdit, Song } from '@plundra/core/song';

/** Colour that fewest parts have, the first of those. */
export function nextColour(song: Song): number {
  const used = Array.from(
    { length: 10 },
    (_, colour) => song.parts.filter((part) => part.colour === colour).length,
  );
  return used.indexOf(Math.min(...used));
}

/** A name that no part has yet: "Strum", "Strum 2". */
export function freeName(song: Song, wanted: string): string {
  const taken = new Set(song.parts.map(({ name }) => name));
  let name = wanted.slice(0, LONGEST_NAME);
  for (let number = 2; taken.has(name); number++) {
    const ending = ` ${number}`;
    name = `${wanted.slice(0, LONGEST_NAME - ending.length)}${ending}`;
  }
  return name;
}

const MADE_LEVEL_DB = -4;

/**
 * A part of notes in song ticks, in one passage from the first of them on.
 * @param notes at least one, in any order
 */
export function notePartOf(
  song: Song,
  what: string,
  program: number,
  notes: readonly Note[],
  createId: () => string,
): Extract<NotePart, { kind: 'notes' }> {
  const sound = instrumentName(program);
  return {
    kind: 'notes',
    program,
    id: createId(),
    name: freeName(song, `${what} · ${sound}`),
    mark: markOf(sound),
    colour: nextColour(song),
    levelDb: MADE_LEVEL_DB,
    pan: 0,
    mute: false,
    solo: false,
    passages: [notePassageOf(notes, createId)],
  };
}

/** A passage that holds notes in song ticks. */
export function notePassageOf(notes: readonly Note[], createId: () => string): NotePassage {
  const start = Math.min(...notes.map(({ startTicks }) => startTicks));
  const end = Math.max(...notes.map(({ startTicks, lengthTicks }) => startTicks + lengthTicks));
  return {
    type: 'notes',
    id: createId(),
    startTicks: start,
    lengthTicks: end - start,
    notes: notes.map((note) => ({ ...note, startTicks: note.startTicks - start })),
  };
}

/** A part for recordings that has none yet. */
export function emptyRecordingPart(song: Song, wanted: string, createId: () => string): RecordingPart {
  const name = freeName(song, wanted);
  return {
    kind: 'recording',
    id: createId(),
    name,
    mark: markOf(name),
    colour: nextColour(song),
    levelDb: 0,
    pan: 0,
    mute: false,
    solo: false,
    material: guessMaterial(name),
    takes: [],
    passages: [],
  };
}

export function recordingPart(
  song: Song,
  recording: Recording,
  fileName: string,
  startTicks: number,
  createId: () => string,
): RecordingPart {
  return {
    ...emptyRecordingPart(song, nameOfFile(fileName), createId),
    ...wholeRecording(recording, startTicks, createId),
  };
}

/** A note part beside the recording it was made from; right below it. */
export function notePartFromLine(
  song: Song,
  source: RecordingPart,
  passages: readonly Omit<NotePassage, 'id'>[],
  program: Sound,
  instrument: string,
  createId: () => string,
): { part: NotePart; edit: SimpleEdit } {
  const name = freeName(song, `${source.name} · ${instrument}`);
  const shared = {
    id: createId(),
    name,
    mark: markOf(instrument),
    colour: nextColour(song),
    levelDb: -4,
    pan: 0,
    mute: false,
    solo: false,
    madeFromPartId: source.id,
    ...(source.group && { group: source.group }),
    passages: passages.map((passage) => ({ id: createId(), ...passage })),
  };
  const part: NotePart =
    program === 'drums' ? { ...shared, kind: 'drums' } : { ...shared, kind: 'notes', program };
  return {
    part,
    edit: { type: 'part.add', part, index: song.parts.findIndex((each) => each.id === source.id) + 1 },
  };
}
