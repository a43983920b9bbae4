/** Chords of a note part: no sound is needed, and the beats are those of the song. */
import { readChordsOfNotes, type ChordsReading } from '@plundra/core/reading';
import { beatsOfRecording, soundingNotesOf, type NotePart, type TimeMap } from '@plundra/core/song';

/** Seconds of a note part are those of the song. */
export const WHOLE_SONG = { startTicks: 0, offsetSeconds: 0, durationSeconds: Infinity };

export function readChordsOfPart(part: NotePart, time: TimeMap): ChordsReading {
  const notes = soundingNotesOf(part).map(({ startTicks, lengthTicks, midi }) => ({
    startSeconds: time.secondsAt(startTicks),
    endSeconds: time.secondsAt(startTicks + lengthTicks),
    midi,
  }));
  const end = notes.reduce((most, { endSeconds }) => Math.max(most, endSeconds), 0);
  return readChordsOfNotes(notes, beatsOfRecording([WHOLE_SONG], time, end + 0.01));
}
