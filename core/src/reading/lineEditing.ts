/**
 * Cleaning up a line by hand: join, cut, draw, octave. Each returns the notes to remove and to put, ready for an
 * edit; pitches are measured again on the contour, so a joined note lands on the pitch that sounds.
 */
import { quantile, type Midi, type Seconds } from '../signal/index.ts';
import { hzToMidi } from '../theory/index.ts';
import type { LineNote } from '../song/index.ts';
import type { Contour } from './line.ts';

export interface NoteChange {
  remove: string[];
  put: LineNote[];
}

/** Shortest note that editing leaves behind. */
export const SHORTEST_NOTE_SECONDS = 0.03;
/** A note that was moved by octaves lies as near as this to what was read, but for these. */
const SAME_PITCH_SEMITONES = 1.5;
/** Confidence of a note that the user drew or joined: it is certain now. */
const SETTLED = 1;

/** Pitch of the stable part of a span of the contour, in doubt of its quiet frames; undefined where fewer than three have one. */
export function measurePitch(contour: Contour, startSeconds: Seconds, endSeconds: Seconds): Midi | undefined {
  const length = endSeconds - startSeconds;
  const from = startSeconds + Math.min(0.08, length * 0.35);
  const to = endSeconds - Math.min(0.05, length * 0.15);
  const voiced: number[] = [];
  const quiet: number[] = [];
  const first = Math.max(0, Math.ceil(from / contour.hopSeconds));
  const last = Math.min(contour.f0Hz.length - 1, Math.floor(to / contour.hopSeconds));
  for (let t = first; t <= last; t++) {
    const f0Hz = contour.f0Hz[t];
    if (f0Hz !== 0) (f0Hz > 0 ? voiced : quiet).push(hzToMidi(Math.abs(f0Hz)));
  }
  const measured = voiced.length >= 3 ? voiced : quiet;
  return measured.length >= 3 ? quantile(measured, 0.5) : undefined;
}

/** Octaves by which a note was moved since it was read: the contour still lies where it was read. */
function octavesMoved(note: LineNote, contour: Contour): number {
  const read = measurePitch(contour, note.startSeconds, note.endSeconds);
  if (read === undefined) return 0;
  const octaves = Math.round((note.midi - read) / 12);
  return Math.abs(note.midi - read - 12 * octaves) < SAME_PITCH_SEMITONES ? octaves : 0;
}

/** Pitch of a span in the octave that a note was moved to; that of the note where nothing can be measured. */
function measuredLike(note: LineNote, contour: Contour, startSeconds: Seconds, endSeconds: Seconds): Midi {
  const measured = measurePitch(contour, startSeconds, endSeconds);
  return measured === undefined ? note.midi : measured + 12 * octavesMoved(note, contour);
}

/** Makes one note of several: from the first start to the last end. Fewer than two notes: no change. */
export function joinNotes(notes: readonly LineNote[], contour: Contour): NoteChange {
  if (notes.length < 2) return { remove: [], put: [] };
  const ordered = [...notes].sort((a, b) => a.startSeconds - b.startSeconds);
  const [first, ...rest] = ordered;
  const endSeconds = Math.max(...ordered.map((note) => note.endSeconds));
  const longest = ordered.reduce((a, b) => (lengthOf(b) > lengthOf(a) ? b : a));
  const { target, namedMidi: _, ...played } = first;
  const joined: LineNote = {
    ...played,
    endSeconds,
    midi: measuredLike(longest, contour, first.startSeconds, endSeconds),
    velocity: Math.max(...ordered.map((note) => note.velocity)),
    confidence: SETTLED,
  };
  if (longest.namedMidi !== undefined) joined.namedMidi = longest.namedMidi;
  const wanted = longest.target?.midi;
  const startSeconds = target?.startSeconds;
  if (wanted !== undefined || startSeconds !== undefined) {
    joined.target = {
      ...(wanted !== undefined && { midi: wanted }),
      ...(startSeconds !== undefined && {
        startSeconds,
        endSeconds: startSeconds + endSeconds - first.startSeconds,
      }),
    };
  }
  return { remove: rest.map((note) => note.id), put: [joined] };
}

/** Makes two notes of one at a time inside it; undefined when either would be too short. */
export function cutNote(
  note: LineNote,
  atSeconds: Seconds,
  contour: Contour,
  newId: string,
): NoteChange | undefined {
  if (
    atSeconds - note.startSeconds < SHORTEST_NOTE_SECONDS ||
    note.endSeconds - atSeconds < SHORTEST_NOTE_SECONDS
  ) {
    return undefined;
  }
  const { target, ...played } = note;
  const half = (startSeconds: Seconds, endSeconds: Seconds, noteId: string): LineNote => ({
    ...played,
    id: noteId,
    startSeconds,
    endSeconds,
    midi: measuredLike(note, contour, startSeconds, endSeconds),
    confidence: SETTLED,
    ...(target?.midi !== undefined && { target: { midi: target.midi } }),
  });
  return {
    remove: [],
    put: [half(note.startSeconds, atSeconds, note.id), half(atSeconds, note.endSeconds, newId)],
  };
}

/** A note drawn by hand: on the measured pitch where that is within a semitone and a half, else as drawn. */
export function drawNote(
  drawn: { id: string; startSeconds: Seconds; endSeconds: Seconds; midi: Midi; velocity: number },
  contour: Contour,
): LineNote {
  const measured = measurePitch(contour, drawn.startSeconds, drawn.endSeconds);
  const heard = measured !== undefined && Math.abs(measured - drawn.midi) <= 1.5;
  return { ...drawn, midi: heard ? measured : drawn.midi, confidence: SETTLED };
}

/** Sets new edges of what was played and measures the pitch again. */
export function trimNote(
  note: LineNote,
  startSeconds: Seconds,
  endSeconds: Seconds,
  contour: Contour,
): LineNote {
  const start = Math.max(0, Math.min(startSeconds, endSeconds - SHORTEST_NOTE_SECONDS));
  const measured = measuredLike(note, contour, start, endSeconds);
  const near = Math.abs(measured - note.midi) < 1;
  return { ...note, startSeconds: start, endSeconds, midi: near ? measured : note.midi, confidence: SETTLED };
}

/** Moves what was played by whole octaves: the reading took the wrong one. */
export function shiftOctave(note: LineNote, octaves: number): LineNote {
  const { namedMidi, target } = note;
  return {
    ...note,
    midi: Math.min(127, Math.max(0, note.midi + 12 * octaves)),
    confidence: SETTLED,
    ...(namedMidi !== undefined && { namedMidi: namedMidi + 12 * octaves }),
    ...(target?.midi !== undefined && { target: { ...target, midi: target.midi + 12 * octaves } }),
  };
}

function lengthOf(note: LineNote): Seconds {
  return note.endSeconds - note.startSeconds;
}
