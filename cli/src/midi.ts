/** `plundra midi`: what is read from a recording as a MIDI file. */
import { randomUUID } from 'node:crypto';
import { writeFile } from 'node:fs/promises';
import { basename } from 'node:path';
import { writeSongMidi } from '@plundra/core/formats';
import {
  markOf,
  createSong,
  createTimeMap,
  wholeRecording,
  type NotePart,
  type PlacedRecording,
} from '@plundra/core/song';
import { notesOfHits, type ReadNote } from '@plundra/core/reading';
import { voiceChord } from '@plundra/core/theory';
import { passageOfRecording } from '@plundra/core/arranging';
import {
  parseKind,
  readChordsWithProgress,
  parseSensitivity,
  readHitsWithProgress,
  readNotesWithProgress,
  readWithProgress,
} from './readWithProgress.ts';
import { parseCommand, single, UsageError } from './usage.ts';

interface Reading {
  tuningCents: number;
  notes: ReadNote[];
  contour?: { hopSeconds: number; f0Hz: number[]; confidence: number[] };
}

const CHORD_VELOCITY = 80;

/** The chords of a recording as a keyboard player would lay them, each moving little from the one before. */
async function voicedChords(path: string): Promise<Reading> {
  const { chords } = await readChordsWithProgress(path);
  let previous: number[] = [];
  const notes = chords.flatMap(({ startSeconds, endSeconds, chord, confidence }) => {
    if (!chord) return [];
    previous = voiceChord(chord, { voicing: 'keyboard' }, previous);
    return previous.map((midi) => ({ startSeconds, endSeconds, midi, velocity: CHORD_VELOCITY, confidence }));
  });
  return { tuningCents: 0, notes };
}

/** `plundra midi`: a recording's notes as a MIDI file, placed by a tempo (120 bpm unless told). */
export async function midi(args: string[]): Promise<void> {
  const { values, positionals } = parseCommand(args, {
    out: { type: 'string' },
    melody: { type: 'boolean' },
    notes: { type: 'boolean' },
    hits: { type: 'boolean' },
    chords: { type: 'boolean' },
    kind: { type: 'string', default: 'auto' },
    sensitivity: { type: 'string', default: '0.5' },
    bends: { type: 'boolean', default: false },
    bpm: { type: 'string', default: '120' },
  });
  if (!values.out) throw new UsageError('--out OUT.mid is missing.');
  const bpm = Number(values.bpm);
  if (!(bpm >= 10 && bpm <= 400))
    throw new UsageError(`--bpm must lie between 10 and 400, not “${values.bpm}”.`);
  const path = single(positionals, 'recording');
  if ([values.melody, values.notes, values.hits, values.chords].filter(Boolean).length > 1)
    throw new UsageError(
      'Choose one of --melody, --notes, --hits and --chords: one line, all notes of a chordal recording, drums, or voiced chords.',
    );
  if ((values.notes || values.hits || values.chords) && values.bends)
    throw new UsageError('--bends follow the contour of one line; use them with --melody only.');
  const sensitivity = parseSensitivity(values.sensitivity);
  const reading: Reading = values.hits
    ? { tuningCents: 0, notes: notesOfHits((await readHitsWithProgress(path, sensitivity)).hits) }
    : values.chords
      ? await voicedChords(path)
      : values.notes
        ? await readNotesWithProgress(path, sensitivity)
        : await readWithProgress(path, parseKind(values.kind));
  const name = basename(path).replace(/\.[^.]+$/, '') || 'Melody';
  const song = { ...createSong(randomUUID(), name), tempoMap: [{ startTicks: 0, bpm }] };
  const time = createTimeMap(song);
  const line = {
    readingId: 'command-line',
    tuningCents: reading.tuningCents,
    notes: reading.notes.map((note) => ({ id: randomUUID(), ...note })),
  };
  const endSeconds = line.notes.reduce((most, note) => Math.max(most, note.endSeconds), 0);
  const { takes, passages } = wholeRecording(
    { hash: '0'.repeat(64), durationSeconds: endSeconds },
    0,
    randomUUID,
  );
  const shownSeconds = { from: 0, to: endSeconds };
  const passage: PlacedRecording = { ...takes[0], ...passages[0], line, shownSeconds };
  const contour = reading.contour && {
    hopSeconds: reading.contour.hopSeconds,
    f0Hz: Float32Array.from(reading.contour.f0Hz),
    confidence: Float32Array.from(reading.contour.confidence),
  };
  const part: NotePart = {
    ...(values.hits ? { kind: 'drums' as const } : { kind: 'notes' as const, program: 0 }),
    id: randomUUID(),
    name,
    mark: markOf(name),
    colour: 0,
    levelDb: 0,
    pan: 0,
    mute: false,
    solo: false,
    passages: [
      {
        id: randomUUID(),
        ...passageOfRecording(passage, time, values.bends ? { contour } : {}),
      },
    ],
  };
  await writeFile(values.out, writeSongMidi({ ...song, parts: [part] }, { bends: values.bends }));
}
