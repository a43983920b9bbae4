/** Notes as the canvas sees them, whether they come from a line or from a note part. */
import type { Cents, Seconds } from '@plundra/core/signal';
import { correctedNote, isPitchChanged, isTimeChanged, risksOf, type Risk } from '@plundra/core/retune';
import {
  createPassageTime,
  isDoubtful,
  melodyLineOf,
  railMidi,
  wantedSpan,
  type LineNote,
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

/** What a note was shown as, and what that depended on: of thousands of notes an edit changes a few. */
const known = new WeakMap<
  LineNote,
  { originSeconds: Seconds; tuningCents: Cents; bars: boolean; shown: CanvasNote }
>();

export function notesOfLine(passage: RecordingPassage, time: TimeMap): CanvasNote[] {
  const { line } = passage;
  if (!line) return [];
  const { originSeconds } = createPassageTime(passage, time);
  const { tuningCents } = line;
  // Without a contour there is nothing to lay beside a rail: several notes at once are bars.
  const bars = !melodyLineOf(passage);
  return line.notes.map((note) => {
    const before = known.get(note);
    if (before?.originSeconds === originSeconds && before.tuningCents === tuningCents && before.bars === bars)
      return before.shown;
    const shown = bars
      ? barOf(note, originSeconds, tuningCents)
      : { ...barOf(note, originSeconds, tuningCents), ...besideRail(note, originSeconds, tuningCents) };
    known.set(note, { originSeconds, tuningCents, bars, shown });
    return shown;
  });
}

function barOf(note: LineNote, originSeconds: Seconds, tuningCents: Cents): CanvasNote {
  const wanted = wantedSpan(note);
  return {
    id: note.id,
    startSeconds: originSeconds + wanted.startSeconds,
    endSeconds: originSeconds + wanted.endSeconds,
    midi: railMidi(note, tuningCents),
    velocity: note.velocity,
    doubtful: isDoubtful(note),
    muted: note.muted,
  };
}

/** How a note was played, and how its sound will differ from that. */
function besideRail(
  note: LineNote,
  originSeconds: Seconds,
  tuningCents: Cents,
): Pick<CanvasNote, 'played' | 'sound' | 'risks'> {
  const corrected = note.target && correctedNote(note, tuningCents);
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
    played: {
      startSeconds: originSeconds + note.startSeconds,
      endSeconds: originSeconds + note.endSeconds,
      midi: note.midi,
    },
  };
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
