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
  notesOriginTicks,
  shownNotes,
  soundingTicks,
  isDoubtful,
  melodyLineOf,
  playedCentsOff,
  railMidi,
  wantedSpan,
  type LineNote,
  type Note,
  type NotePassage,
  type PlacedRecording,
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
  /** The passage that shows it, where one does. */
  passageId?: string;
  /** Line notes only: where and how it was played, in song time. */
  played?: { startSeconds: Seconds; endSeconds: Seconds; midi: number; centsOff: Cents };
  /** The syllable that is sung on it. */
  lyric?: string;
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

/** More passages than this are not kept in mind. */
const MOST_KNOWN = 2500;

/** One for each passage. */
function lastOf<N extends object>(known: Map<string, LastShown<N>>, passageId: string): LastShown<N> {
  let last = known.get(passageId);
  if (last) return last;
  if (known.size >= MOST_KNOWN) known.clear();
  known.set(passageId, (last = new LastShown()));
  return last;
}

const lastLines = new Map<string, LastShown<LineNote>>();
const lastPassages = new Map<string, LastShown<Note>>();

/** @param toSeconds up to which second of its recording the passage sounds; its own end where nothing follows it */
export function notesOfLine(
  passage: PlacedRecording,
  time: TimeMap,
  toSeconds = passage.offsetSeconds + passage.durationSeconds,
): readonly CanvasNote[] {
  const { line } = passage;
  if (!line) return [];
  const { toSong } = createPassageTime(passage, time);
  const { tuningCents } = line;
  // Without a contour there is nothing to lay beside a rail: several notes at once are bars.
  const bars = !melodyLineOf(passage);
  const { toHeard } = heardTime(passage);
  const { id: passageId, shownSeconds } = passage;
  const end = toSong(toSeconds);
  const { clock } = passage;
  const settings = [
    toSong(0),
    clock,
    // What keeps its own time does not mind another tempo elsewhere.
    clock?.keeps === 'song' && time,
    tuningCents,
    bars,
    passage.stretch,
    shownSeconds.from,
    shownSeconds.to,
    end,
  ];
  return lastOf(lastLines, passageId).show(line.notes, settings, (note) => {
    const bar = { ...barOf(note, toSong, tuningCents, toHeard), passageId };
    const shown = bars ? bar : { ...bar, ...besideRail(note, toSong, tuningCents) };
    return endingAt(shown, end);
  });
}

/** A note that crosses a cut is shown as far as it sounds. */
function endingAt(note: CanvasNote, endSeconds: Seconds): CanvasNote {
  const { played } = note;
  if (note.endSeconds <= endSeconds && (!played || played.endSeconds <= endSeconds)) return note;
  return {
    ...note,
    endSeconds: Math.max(note.startSeconds, Math.min(note.endSeconds, endSeconds)),
    ...(played && { played: { ...played, endSeconds: Math.min(played.endSeconds, endSeconds) } }),
  };
}

/** Notes that a line does not hold, or not yet, where it would show them. */
export function notesBesideLine(
  passage: PlacedRecording,
  notes: readonly LineNote[],
  time: TimeMap,
): CanvasNote[] {
  const { toSong } = createPassageTime(passage, time);
  const { toHeard } = heardTime(passage);
  return notes.map((note) => barOf(note, toSong, passage.line?.tuningCents ?? 0, toHeard));
}

function barOf(
  note: LineNote,
  toSong: (seconds: Seconds) => Seconds,
  tuningCents: Cents,
  toHeard: (seconds: Seconds) => Seconds,
): CanvasNote {
  const wanted = wantedSpan(note);
  return {
    id: note.id,
    startSeconds: toSong(toHeard(wanted.startSeconds)),
    endSeconds: toSong(toHeard(wanted.endSeconds)),
    midi: railMidi(note, tuningCents),
    velocity: note.velocity,
    doubtful: isDoubtful(note),
    muted: note.muted,
  };
}

/** How a note was played, and how its sound will differ from that. */
function besideRail(
  note: LineNote,
  toSong: (seconds: Seconds) => Seconds,
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
      startSeconds: toSong(note.startSeconds),
      endSeconds: toSong(note.endSeconds),
      midi: note.midi,
      centsOff: playedCentsOff(note, tuningCents),
    },
  };
}

export function notesOfPassage(passage: NotePassage, time: TimeMap): readonly CanvasNote[] {
  const startTicks = notesOriginTicks(passage);
  const { offsetTicks, lengthTicks } = passage;
  const settings = [startTicks, time, offsetTicks, offsetTicks === undefined ? 0 : lengthTicks];
  return lastOf(lastPassages, passage.id).show(shownNotes(passage), settings, (note) => ({
    id: note.id,
    passageId: passage.id,
    startSeconds: time.secondsAt(startTicks + note.startTicks),
    endSeconds: time.secondsAt(startTicks + note.startTicks + soundingTicks(passage, note)),
    midi: note.midi,
    velocity: note.velocity,
    muted: note.muted,
    doubtful: false,
    ...(note.lyric && { lyric: note.lyric }),
    ...(note.bends && {
      bends: note.bends.map(({ afterTicks, semitones }) => ({
        seconds: time.secondsAt(startTicks + note.startTicks + afterTicks),
        semitones,
      })),
    }),
  }));
}
