/** Chords of a note part: no sound is needed, and the beats are those of the song. */
import { readChordsOfNotes, type ChordsReading } from '@plundra/core/reading';
import { soundingNotesOf, type NotePart, type TimeMap } from '@plundra/core/song';

export function readChordsOfPart(part: NotePart, time: TimeMap): ChordsReading {
  const notes = soundingNotesOf(part).map(({ startTicks, lengthTicks, midi }) => ({
    startSeconds: time.secondsAt(startTicks),
    endSeconds: time.secondsAt(startTicks + lengthTicks),
    midi,
  }));
  const end = notes.reduce((most, { endSeconds }) => Math.max(most, endSeconds), 0);
  const beats: number[] = [];
  for (let ticks = 0; time.secondsAt(ticks) <= end + 0.01; ticks += time.beatTicksAt(ticks))
    beats.push(time.secondsAt(ticks));
  const beatsPerBar = Math.round(time.barStartTicks(2) / time.beatTicksAt(0));
  return readChordsOfNotes(notes, { beats, beatsPerBar, firstDownbeat: 0 });
}
