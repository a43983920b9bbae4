/** Notes as the canvas sees them, whether they come from a line or from a note part. */
import type { Seconds } from '@plundra/core/signal';
import { correctedNote, isPitchChanged, isTimeChanged, risksOf, type Risk } from '@plundra/core/retune';
import {
  createPassageTime,
  isDoubtful,
  melodyLineOf,
  railMidi,
  wantedSpan,
  type NotePassage,
  type RecordingPassage,
  type TimeMap,
} from '@plundra/core/song';

export interface CanvasNote {
  id: string;
  /** Song time where it should sound. */
  startSeconds: Seconds;
  endSeconds: Seconds;
  /** Pitch of the rail or bar. */
  midi: number;
  velocity: number;
  doubtful: boolean;
  muted?: true;
  /** Line notes only: where and how it was played, in song time. */
  played?: { startSeconds: Seconds; endSeconds: Seconds; midi: number };
  /** Line notes whose sound will differ from the recording: how. */
  sound?: { midi: number; vibratoKept: number; driftKept: number };
  /** Why its correction may be heard. */
  risks?: Risk[];
}

export function notesOfLine(passage: RecordingPassage, time: TimeMap): CanvasNote[] {
  const { line } = passage;
  if (!line) return [];
  const { originSeconds } = createPassageTime(passage, time);
  return line.notes.map((note) => {
    const wanted = wantedSpan(note);
    const shown = {
      id: note.id,
      startSeconds: originSeconds + wanted.startSeconds,
      endSeconds: originSeconds + wanted.endSeconds,
      midi: railMidi(note, line.tuningCents),
      velocity: note.velocity,
      doubtful: isDoubtful(note),
      muted: note.muted,
    };
    // Without a contour there is nothing to lay beside a rail: several notes at once are bars.
    if (!melodyLineOf(passage)) return shown;
    const corrected = note.target && correctedNote(note, line.tuningCents);
    const changed = corrected && (isPitchChanged(corrected) || isTimeChanged(corrected));
    return {
      ...(changed && {
        sound: {
          midi: corrected.toMidi,
          vibratoKept: corrected.vibratoKept,
          driftKept: corrected.driftKept,
        },
        risks: risksOf(corrected),
      }),
      ...shown,
      played: {
        startSeconds: originSeconds + note.startSeconds,
        endSeconds: originSeconds + note.endSeconds,
        midi: note.midi,
      },
    };
  });
}

export function notesOfPassage(passage: NotePassage, time: TimeMap): CanvasNote[] {
  return passage.notes.map((note) => ({
    id: note.id,
    startSeconds: time.secondsAt(passage.startTicks + note.startTicks),
    endSeconds: time.secondsAt(passage.startTicks + note.startTicks + note.lengthTicks),
    midi: note.midi,
    velocity: note.velocity,
    muted: note.muted,
    doubtful: false,
  }));
}
