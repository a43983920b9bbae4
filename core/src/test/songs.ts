/** Small songs for tests. */
import {
  createSong,
  type LineNote,
  type Note,
  type NotePart,
  type RecordingPart,
  type Song,
} from '../song/index.ts';

const strip = { mark: 'XX', colour: 0, levelDb: 0, pan: 0, mute: false, solo: false };

export function lineNote(
  id: string,
  startSeconds: number,
  endSeconds: number,
  midi: number,
  more: Partial<LineNote> = {},
): LineNote {
  return { id, startSeconds, endSeconds, midi, velocity: 80, confidence: 0.95, ...more };
}

export function recordingPart(
  notes: LineNote[] | null,
  more: { startTicks?: number; tuningCents?: number } = {},
): RecordingPart {
  return {
    ...strip,
    kind: 'recording',
    id: 'voice',
    name: 'Lead voice',
    material: 'voice',
    takes: [
      {
        id: 'take',
        recordingHash: 'a'.repeat(64),
        line: notes && { readingId: 'r', tuningCents: more.tuningCents ?? 0, notes },
      },
    ],
    passages: [
      {
        type: 'recording',
        id: 'take',
        takeId: 'take',
        startTicks: more.startTicks ?? 0,
        offsetSeconds: 0,
        durationSeconds: 60,
      },
    ],
  };
}

export function notePart(notes: Note[], more: Partial<NotePart> = {}): NotePart {
  return {
    ...strip,
    kind: 'notes',
    id: 'flute',
    name: 'Flute',
    program: 73,
    passages: [{ type: 'notes', id: 'p', startTicks: 0, lengthTicks: 100_000, notes }],
    ...more,
  } as NotePart;
}

export function songWith(...parts: Song['parts']): Song {
  return { ...createSong('song', 'Ferry at Six'), parts };
}
