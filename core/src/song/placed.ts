/**
 * What sounds where: the one place where passages, takes and notes become times of the song. Playing, the canvas, locking,
 * reading of chords, following and MIDI ask here.
 */
import type { Seconds, Ticks } from '../signal/index.ts';
import type {
  Line,
  LineNote,
  Note,
  NotePart,
  NotePassage,
  Part,
  RecordingPart,
  RecordingPassage,
  Take,
} from './schema.ts';
import { createPassageTime, isSameClock, isWarped } from './passageTime.ts';
import type { TimeMap } from './timeMap.ts';

/**
 * A passage of a recording with what its take says. Its line holds the notes that begin inside the window; a note has at
 * most one place, for passages of one take never overlap in it.
 */
export type PlacedRecording = RecordingPassage &
  Omit<Take, 'id'> & {
    /** From the first to the last moment of the take that any passage shows: onsets are moved within it. */
    shownSeconds: { from: Seconds; to: Seconds };
  };

/** Parts are never changed in place, and neither are takes: each is looked at once. */
const knownParts = new WeakMap<RecordingPart, readonly PlacedRecording[]>();
const knownTakes = new WeakMap<Take, WeakMap<RecordingPassage, PlacedRecording>>();

/** Those that were chosen, in order of their start. The same part gives the same objects, and so does the same passage of the same take. */
export function placedRecordings(part: RecordingPart): readonly PlacedRecording[] {
  let placed = knownParts.get(part);
  if (!placed) {
    const takes = new Map(part.takes.map((take) => [take.id, { take, shown: { from: Infinity, to: 0 } }]));
    for (const { takeId, offsetSeconds, durationSeconds } of part.passages) {
      const shown = takes.get(takeId)?.shown;
      if (!shown) continue;
      shown.from = Math.min(shown.from, offsetSeconds);
      shown.to = Math.max(shown.to, offsetSeconds + durationSeconds);
    }
    placed = part.passages
      .filter(({ spare }) => !spare)
      .flatMap((passage) => {
        const found = takes.get(passage.takeId);
        return found ? [placedIn(passage, found.take, found.shown)] : [];
      })
      .sort((a, b) => a.startTicks - b.startTicks);
    knownParts.set(part, placed);
  }
  return placed;
}

function placedIn(
  passage: RecordingPassage,
  take: Take,
  shownSeconds: PlacedRecording['shownSeconds'],
): PlacedRecording {
  let known = knownTakes.get(take);
  if (!known) knownTakes.set(take, (known = new WeakMap()));
  let placed = known.get(passage);
  const { from, to } = shownSeconds;
  if (placed?.shownSeconds.from !== from || placed.shownSeconds.to !== to) {
    const { id: _, ...read } = take;
    placed = { ...read, ...passage, line: read.line && lineWithin(read.line, passage), shownSeconds };
    known.set(passage, placed);
  }
  return placed;
}

/** Whether an instant of a recording lies in a window on it. */
export function isInWindow(
  { offsetSeconds, durationSeconds }: Pick<RecordingPassage, 'offsetSeconds' | 'durationSeconds'>,
  seconds: Seconds,
): boolean {
  return seconds >= offsetSeconds && seconds < offsetSeconds + durationSeconds;
}

/** A note that begins so little before a cut was meant for what follows: players are early by as much. */
const EARLY_SECONDS = 0.05;
const EARLY_SHARE = 0.25;

/**
 * Whether a note of a take belongs to a window on it: the one that shows its start, or what lies a little behind its start, so
 * that a cut on a bar line takes along the note that was begun just before it. Never to two windows that do not overlap.
 */
export function ownsNote(
  window: Pick<RecordingPassage, 'offsetSeconds' | 'durationSeconds'>,
  { startSeconds, endSeconds }: Pick<LineNote, 'startSeconds' | 'endSeconds'>,
): boolean {
  return isInWindow(
    window,
    startSeconds + Math.min(EARLY_SECONDS, EARLY_SHARE * (endSeconds - startSeconds)),
  );
}

/** By their windows; a passage that is only moved shows the same line. */
const knownLines = new WeakMap<Line, Map<string, Line>>();
const KEPT_WINDOWS = 500;

/** The same line where all of its notes belong to the passage. */
function lineWithin(line: Line, passage: RecordingPassage): Line {
  let windows = knownLines.get(line);
  if (!windows) knownLines.set(line, (windows = new Map()));
  const key = `${passage.offsetSeconds} ${passage.durationSeconds}`;
  let within = windows.get(key);
  if (!within) {
    const owned = (note: LineNote) => ownsNote(passage, note);
    within = line.notes.every(owned) ? line : { ...line, notes: line.notes.filter(owned) };
    // While an edge is dragged there is another window with every picture.
    if (windows.size >= KEPT_WINDOWS) windows.clear();
    windows.set(key, within);
  }
  return within;
}

/** Where the notes of a passage count from, in ticks of the song; before 0 where what is hidden would begin there. */
export function notesOriginTicks({ startTicks, offsetTicks }: NotePassage): Ticks {
  return startTicks - (offsetTicks ?? 0);
}

/** Whether a note begins inside its passage; all do as long as it is no window. */
export function isShown({ offsetTicks, lengthTicks }: NotePassage, { startTicks }: Note): boolean {
  return offsetTicks === undefined || (startTicks >= offsetTicks && startTicks < offsetTicks + lengthTicks);
}

const knownChosen = new WeakMap<readonly NotePassage[], readonly NotePassage[]>();

/** Those of a note part that were chosen, or stand in no take table. The same part gives the same array. */
export function chosenPassages({ passages }: NotePart): readonly NotePassage[] {
  let chosen = knownChosen.get(passages);
  if (!chosen) {
    chosen = passages.some(({ spare }) => spare) ? passages.filter(({ spare }) => !spare) : passages;
    knownChosen.set(passages, chosen);
  }
  return chosen;
}

const knownNotes = new WeakMap<NotePassage, readonly Note[]>();

/** The notes that a passage shows; they count from {@link notesOriginTicks}. The same array where it shows them all. */
export function shownNotes(passage: NotePassage): readonly Note[] {
  if (passage.offsetTicks === undefined) return passage.notes;
  let shown = knownNotes.get(passage);
  if (!shown) knownNotes.set(passage, (shown = passage.notes.filter((note) => isShown(passage, note))));
  return shown;
}

/** Length of a note as far as it sounds: in a window it ends with it. */
export function soundingTicks({ offsetTicks, lengthTicks }: NotePassage, note: Note): Ticks {
  return offsetTicks === undefined
    ? note.lengthTicks
    : Math.min(note.lengthTicks, offsetTicks + lengthTicks - note.startTicks);
}

/** A note where it lies in the song, as long as it sounds; without bends after its end. */
export function placedNote(passage: NotePassage, note: Note): Note {
  const lengthTicks = soundingTicks(passage, note);
  const startTicks = notesOriginTicks(passage) + note.startTicks;
  if (lengthTicks === note.lengthTicks) return { ...note, startTicks };
  const { bends, ...straight } = note;
  const heard = bends?.filter(({ afterTicks }) => afterTicks < lengthTicks);
  return { ...straight, startTicks, lengthTicks, ...(heard?.length && { bends: heard }) };
}

/** All notes of a part in ticks of the song, also those that are muted; in order of passages. Of takes those that were chosen. */
export function placedNotes(part: NotePart): Note[] {
  return chosenPassages(part).flatMap((passage) =>
    shownNotes(passage).map((note) => placedNote(passage, note)),
  );
}

/** Those that sound: neither the note nor its passage is muted. */
export function soundingNotesOf(part: NotePart): Note[] {
  return chosenPassages(part)
    .filter(({ muted }) => !muted)
    .flatMap((passage) =>
      shownNotes(passage)
        .filter(({ muted }) => !muted)
        .map((note) => placedNote(passage, note)),
    );
}

/** Where a passage ends in the song. */
export function passageEndTicks(passage: RecordingPassage | NotePassage, time: TimeMap): Ticks {
  if (passage.type === 'notes') return passage.startTicks + passage.lengthTicks;
  return Math.round(
    isWarped(passage)
      ? createPassageTime(passage, time).toTicks(passage.offsetSeconds + passage.durationSeconds)
      : time.ticksAt(time.secondsAt(passage.startTicks) + passage.durationSeconds),
  );
}

export function passageEndSeconds(passage: RecordingPassage | NotePassage, time: TimeMap): Seconds {
  if (passage.type === 'notes') return time.secondsAt(passage.startTicks + passage.lengthTicks);
  return isWarped(passage)
    ? createPassageTime(passage, time).toSong(passage.offsetSeconds + passage.durationSeconds)
    : time.secondsAt(passage.startTicks) + passage.durationSeconds;
}

/** A window on a take that sounds at a speed of its own. */
export type WarpedWindow = Pick<
  RecordingPassage,
  'startTicks' | 'offsetSeconds' | 'durationSeconds' | 'clock'
>;

/** A stretch of a recording as it sounds. */
export interface SoundingSpan {
  /** The passage; of pieces that follow each other as if they had never been parted, the first. */
  passageId: string;
  takeId: string;
  recordingHash: string;
  /**
   * What sounds at another speed than it was recorded; its seconds then count from its start, as they pass in the song.
   * Absent: they are those of the recording.
   */
  warp?: WarpedWindow;
  /** Second 0 of the recording in the song, and which seconds of it sound. */
  originSeconds: Seconds;
  fromSeconds: Seconds;
  toSeconds: Seconds;
  /** Besides the level of its part. */
  gainDb: number;
  /** From its edges on; absent where nobody set one. */
  fadeInSeconds: Seconds | undefined;
  fadeOutSeconds: Seconds | undefined;
}

/** Windows that meet do so to the rounding of their cuts; half a sample at 96 kHz is less than can be heard. */
const LEAST_SECONDS = 5e-6;

/**
 * What sounds of a recording part, in order of time: where two passages overlap, the one that begins later covers the other
 * as long as it lasts. Muted passages neither sound nor cover. Pieces that follow each other as they do in their recording
 * are one span: a cut alone is not heard.
 */
export function soundingSpans(part: RecordingPart, time: TimeMap): SoundingSpan[] {
  const placed = placedRecordings(part).filter(({ muted }) => !muted);
  const starts = placed.map(({ startTicks }) => time.secondsAt(startTicks));
  const spans: SoundingSpan[] = [];
  placed.forEach((passage, i) => {
    const start = starts[i];
    const warp = warpedWindow(passage);
    // A warped passage is made anew: its sound begins with it.
    const offsetSeconds = warp ? 0 : passage.offsetSeconds;
    const durationSeconds = warp ? passageEndSeconds(passage, time) - start : passage.durationSeconds;
    const end = start + durationSeconds;
    const originSeconds = start - offsetSeconds;
    const sounds = (from: Seconds, to: Seconds) => {
      if (to - from <= LEAST_SECONDS) return;
      const [first, last] = [from === start, to === end];
      spans.push({
        passageId: passage.id,
        takeId: passage.takeId,
        recordingHash: passage.recordingHash,
        ...(warp && { warp }),
        originSeconds,
        // Edges of the passage itself are not calculated: they meet those of its neighbour to the last bit.
        fromSeconds: first ? offsetSeconds : from - originSeconds,
        toSeconds: last ? offsetSeconds + durationSeconds : to - originSeconds,
        gainDb: passage.gainDb ?? 0,
        fadeInSeconds: first ? passage.fadeInSeconds : undefined,
        fadeOutSeconds: last ? passage.fadeOutSeconds : undefined,
      });
    };
    let from = start;
    for (let j = i + 1; j < placed.length && starts[j] < end - LEAST_SECONDS; j++) {
      sounds(from, starts[j]);
      from = Math.max(from, passageEndSeconds(placed[j], time));
    }
    sounds(from, end);
  });
  const inOrder = spans.sort((a, b) => a.originSeconds + a.fromSeconds - (b.originSeconds + b.fromSeconds));
  const whole: SoundingSpan[] = [];
  // Of the piece before: over many cuts what each is rounded by adds up.
  let lastOriginSeconds = 0;
  for (const span of inOrder) {
    const before = whole.at(-1);
    const follows = before && goesOn(before, span, lastOriginSeconds);
    lastOriginSeconds = span.originSeconds;
    if (before && follows) {
      if (before.warp && span.warp) {
        // From here on made as one.
        const { durationSeconds } = span.warp;
        before.warp = { ...before.warp, durationSeconds: before.warp.durationSeconds + durationSeconds };
        before.toSeconds = span.originSeconds + span.toSeconds - before.originSeconds;
      } else before.toSeconds = span.toSeconds;
      before.fadeOutSeconds = span.fadeOutSeconds;
    } else whole.push(span);
  }
  return whole;
}

/** Whether a span goes on as if it had never been parted from the one before. */
function goesOn(before: SoundingSpan, span: SoundingSpan, lastOriginSeconds: Seconds): boolean {
  return (
    before.takeId === span.takeId &&
    (before.warp || span.warp
      ? goesOnWarped(before, span)
      : goesOnAsRecorded(before, span, lastOriginSeconds)) &&
    before.gainDb === span.gainDb &&
    before.fadeOutSeconds === undefined &&
    span.fadeInSeconds === undefined
  );
}

const goesOnAsRecorded = (before: SoundingSpan, span: SoundingSpan, lastOriginSeconds: Seconds): boolean =>
  Math.abs(before.toSeconds - span.fromSeconds) < LEAST_SECONDS &&
  Math.abs(lastOriginSeconds - span.originSeconds) < 2 * LEAST_SECONDS;

/** Both whole, at one speed, and without a gap in the recording or in the song. */
function goesOnWarped(before: SoundingSpan, span: SoundingSpan): boolean {
  if (!before.warp || !span.warp || span.fromSeconds !== 0) return false;
  const end = before.warp.offsetSeconds + before.warp.durationSeconds;
  return (
    isSameClock(before.warp.clock, span.warp.clock) &&
    Math.abs(end - span.warp.offsetSeconds) < LEAST_SECONDS &&
    Math.abs(before.originSeconds + before.toSeconds - span.originSeconds) < LONGEST_TICK_SECONDS
  );
}

/** A warped piece begins at a tick, the one before ends where its recording says: they meet to within half a tick. */
const LONGEST_TICK_SECONDS = 0.004;

function warpedWindow(passage: RecordingPassage): WarpedWindow | undefined {
  if (!isWarped(passage)) return undefined;
  const { startTicks, offsetSeconds, durationSeconds, clock } = passage;
  return { startTicks, offsetSeconds, durationSeconds, ...(clock && { clock }) };
}

/** The hashes of the recordings that a part holds. */
export function recordingsOf(part: Part): string[] {
  return part.kind === 'recording' ? part.takes.map(({ recordingHash }) => recordingHash) : [];
}
