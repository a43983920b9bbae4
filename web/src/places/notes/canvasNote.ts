/** Notes as the canvas sees them, whether they come from a line or from a note part. */
import type { Cents, Seconds, Semitones } from '@plundra/core/signal';
import { sameEnds } from './sameEnds.ts';
import {
  correctedNote,
  heardTime,
  isPitchChanged,
  isTimeChanged,
  risksOf,
  type Risk,
} from '@plundra/core/retune';
import {
  createPassageTime,
  isDoubtful,
  melodyLineOf,
  playedCentsOff,
  railMidi,
  wantedSpan,
  type LineNote,
  type Note,
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
  played?: { startSeconds: Seconds; endSeconds: Seconds; midi: number; centsOff: Cents };
  /** How its pitch bends, from song seconds on. */
  bends?: readonly { seconds: Seconds; semitones: Semitones }[];
  /** Line notes whose sound will differ from the recording: how. */
  sound?: { midi: number; vibratoKept: number; driftKept: number };
  /** Why its correction may be heard. */
  risks?: Risk[];
}

/**
 * The last canvas note of each note. Notes stay the same objects as long as they are not edited, so of thousands those before and
 * behind an edit are taken over, as the same objects.
 */
class LastShown<N extends object> {
  private settings: readonly unknown[] = [];
  private known = new WeakMap<N, CanvasNote>();
  private notes: readonly N[] = [];
  private shown: readonly CanvasNote[] = [];

  /** `settings`: everything but the note that its look depends on. */
  show(
    notes: readonly N[],
    settings: readonly unknown[],
    look: (note: N) => CanvasNote,
  ): readonly CanvasNote[] {
    if (settings.some((each, i) => each !== this.settings[i])) {
      this.known = new WeakMap();
      this.notes = this.shown = [];
      this.settings = settings;
    }
    const { same, sameAtEnd } = sameEnds(this.notes, notes);
    const between = notes.slice(same, notes.length - sameAtEnd).map((note) => {
      let shown = this.known.get(note);
      if (!shown) this.known.set(note, (shown = look(note)));
      return shown;
    });
    this.shown = [
      ...this.shown.slice(0, same),
      ...between,
      ...this.shown.slice(this.shown.length - sameAtEnd),
    ];
    this.notes = notes;
    return inOrder(this.shown);
  }
}

/** In order of where they should sound, which for a moved note need not be the order of the recording. */
export function inOrder(notes: readonly CanvasNote[]): readonly CanvasNote[] {
  for (let i = 1; i < notes.length; i++)
    if (notes[i - 1].startSeconds > notes[i].startSeconds)
      return notes.toSorted((a, b) => a.startSeconds - b.startSeconds);
  return notes;
}

const lastLine = new LastShown<LineNote>();
const lastPassage = new LastShown<Note>();

export function notesOfLine(passage: RecordingPassage, time: TimeMap): readonly CanvasNote[] {
  const { line } = passage;
  if (!line) return [];
  const { originSeconds } = createPassageTime(passage, time);
  const { tuningCents } = line;
  // Without a contour there is nothing to lay beside a rail: several notes at once are bars.
  const bars = !melodyLineOf(passage);
  const { toHeard } = heardTime(passage);
  return lastLine.show(line.notes, [originSeconds, tuningCents, bars, passage.stretch], (note) => {
    const bar = barOf(note, originSeconds, tuningCents, toHeard);
    return bars ? bar : { ...bar, ...besideRail(note, originSeconds, tuningCents) };
  });
}

/** Notes that a line does not hold, or not yet, where it would show them. */
export function notesBesideLine(
  passage: RecordingPassage,
  notes: readonly LineNote[],
  time: TimeMap,
): CanvasNote[] {
  const { originSeconds } = createPassageTime(passage, time);
  const { toHeard } = heardTime(passage);
  return notes.map((note) => barOf(note, originSeconds, passage.line?.tuningCents ?? 0, toHeard));
}

function barOf(
  note: LineNote,
  originSeconds: Seconds,
  tuningCents: Cents,
  toHeard: (seconds: Seconds) => Seconds,
): CanvasNote {
  const wanted = wantedSpan(note);
  return {
    id: note.id,
    startSeconds: originSeconds + toHeard(wanted.startSeconds),
    endSeconds: originSeconds + toHeard(wanted.endSeconds),
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
      centsOff: playedCentsOff(note, tuningCents),
    },
  };
}

export function notesOfPassage(passage: NotePassage, time: TimeMap): readonly CanvasNote[] {
  const { startTicks } = passage;
  return lastPassage.show(passage.notes, [startTicks, time], (note) => ({
    id: note.id,
    startSeconds: time.secondsAt(startTicks + note.startTicks),
    endSeconds: time.secondsAt(startTicks + note.startTicks + note.lengthTicks),
    midi: note.midi,
    velocity: note.velocity,
    muted: note.muted,
    doubtful: false,
    ...(note.bends && {
      bends: note.bends.map(({ afterTicks, semitones }) => ({
        seconds: time.secondsAt(startTicks + note.startTicks + afterTicks),
        semitones,
      })),
    }),
  }));
}
