/** Editing the line of a recording: pure functions that make an edit. */
import {
  cutNote,
  drawNote,
  joinNotes,
  SHORTEST_NOTE_SECONDS,
  shiftOctave,
  trimNote,
  type Contour,
  type NoteChange,
} from '@plundra/core/reading';
import {
  createPassageTime,
  isWarped,
  isDoubtful,
  railMidi,
  renamed,
  wantedSpan,
  type LineNote,
  type PlacedRecording,
  type TimeMap,
} from '@plundra/core/song';
import { heardTime } from '@plundra/core/retune';
import { notesOfLine } from './canvasNote.ts';
import { clampVelocity, countNotes, withMuted, type LabelledEdit, type NoteEditing } from './noteEditing.ts';

/** Velocity of a drawn note: a middle one, raised by hand if need be. */
const DRAWN_VELOCITY = 80;

const NO_CONTOUR: Contour = {
  hopSeconds: 1,
  f0Hz: new Float32Array(0),
  confidence: new Float32Array(0),
};

export function createLineEditor(
  partId: string,
  passage: PlacedRecording,
  /** Undefined where several notes sound at once: then pitches are what was read or drawn. */
  measured: Contour | undefined,
  time: TimeMap,
  createId: () => string,
  /**
   * What a new pitch means: in Clean up the note that was played, which changes no sound; in Tune the note it should be.
   */
  pitchMeans: 'name' | 'target' = 'name',
  /** Up to which second of its recording the passage sounds. */
  toSeconds = passage.offsetSeconds + passage.durationSeconds,
): NoteEditing {
  const contour = measured ?? NO_CONTOUR;
  const line = passage.line!;
  const passageTime = createPassageTime(passage, time);
  // Where onsets were moved a note is shown where it is heard, and kept where it was played.
  const { toRecorded } = heardTime(passage);
  // What is drawn or trimmed stays inside the passage: beyond it the note could not be seen.
  const { offsetSeconds, durationSeconds } = passage;
  const ownEndSeconds = offsetSeconds + durationSeconds;
  const local = (songSeconds: number, most = ownEndSeconds) =>
    Math.max(offsetSeconds, Math.min(most, toRecorded(passageTime.toRecorded(songSeconds))));
  const atPitch = (note: LineNote, midi: number): LineNote =>
    pitchMeans === 'name'
      ? renamed(note, clampPitch(midi), line.tuningCents)
      : { ...note, target: { ...note.target, midi: clampPitch(midi) } };
  const chosen = (ids: ReadonlySet<string>) => line.notes.filter((note) => ids.has(note.id));

  const change = (label: string, { remove, put }: NoteChange, select?: string[]): LabelledEdit | undefined =>
    remove.length + put.length === 0
      ? undefined
      : {
          label,
          edit: { type: 'line.notes', partId, takeId: passage.takeId, remove, put },
          ...(select && { select }),
        };
  const changeEach = (
    label: string,
    ids: ReadonlySet<string>,
    map: (note: LineNote) => LineNote,
  ): LabelledEdit | undefined => {
    const notes = chosen(ids);
    return change(`${label} ${countNotes(notes.length)}`, { remove: [], put: notes.map(map) });
  };

  return {
    snaps: false,
    notes: notesOfLine(passage, time, toSeconds),
    move: (ids, { seconds, semitones, toMidi }) =>
      changeEach(seconds === 0 && pitchMeans === 'name' ? 'Correct pitch of' : 'Move', ids, (note) => {
        const rail = railMidi(note, line.tuningCents);
        const midi = toMidi ? toMidi(rail) : rail + semitones;
        const named = midi === rail ? note : atPitch(note, midi);
        if (seconds === 0) return named;
        const span = wantedSpan(note);
        // The hand moves in the song, the note in its recording, which may sound faster or slower.
        const { toSong, toRecorded: back } = passageTime;
        const own = isWarped(passage)
          ? back(toSong(span.startSeconds) + seconds) - span.startSeconds
          : seconds;
        const by = Math.max(own, -span.startSeconds);
        const target = {
          ...named.target,
          startSeconds: span.startSeconds + by,
          endSeconds: span.endSeconds + by,
        };
        return { ...named, target };
      }),
    trim(id, startSeconds, endSeconds) {
      const note = line.notes.find((each) => each.id === id);
      if (!note) return undefined;
      const shift = wantedSpan(note).startSeconds - note.startSeconds;
      // Where it goes on behind a cut, as far as it does: what is sung there belongs to the next passage.
      const most = Math.max(ownEndSeconds, Math.min(toSeconds, note.endSeconds + shift));
      const wanted = { start: local(startSeconds) - shift, end: local(endSeconds, most) - shift };
      const others = measured ? trimNeighbours(line.notes, note, wanted, contour) : [];
      const trimmed = trimNote(note, wanted.start, wanted.end, contour);
      if (note.target?.startSeconds !== undefined) {
        trimmed.target = {
          ...note.target,
          startSeconds: trimmed.startSeconds + shift,
          endSeconds: trimmed.endSeconds + shift,
        };
      }
      return change('Trim note', { remove: [], put: [trimmed, ...others] });
    },
    draw(startSeconds, endSeconds, midi) {
      const [start, end] = [local(startSeconds), local(endSeconds)];
      if (end - start < 0.03) return undefined;
      const note = drawNote(
        {
          id: createId(),
          startSeconds: start,
          endSeconds: end,
          midi: clampPitch(midi),
          velocity: DRAWN_VELOCITY,
        },
        contour,
      );
      return change('Draw note', { remove: [], put: [note] }, [note.id]);
    },
    cut(id, atSeconds) {
      const note = line.notes.find((each) => each.id === id);
      if (!note) return undefined;
      const shift = wantedSpan(note).startSeconds - note.startSeconds;
      const halves = cutNote(note, local(atSeconds) - shift, contour, createId());
      return (
        halves &&
        change(
          'Cut note',
          halves,
          halves.put.map((half) => half.id),
        )
      );
    },
    join(ids) {
      const notes = chosen(ids);
      const joined = joinNotes(notes, contour);
      return change(
        `Join ${countNotes(notes.length)}`,
        joined,
        joined.put.map((note) => note.id),
      );
    },
    drop: (ids) =>
      change(
        `Drop ${countNotes(chosen(ids).length)}`,
        { remove: chosen(ids).map((note) => note.id), put: [] },
        [],
      ),
    octave: (ids, octaves) =>
      changeEach(octaves > 0 ? 'Octave up' : 'Octave down', ids, (note) => shiftOctave(note, octaves)),
    setVelocity: (ids, next) =>
      changeEach('Set velocity of', ids, (note) => ({
        ...note,
        velocity: clampVelocity(next(note.velocity)),
      })),
    setPitch: (ids, midi) =>
      changeEach(pitchMeans === 'name' ? 'Correct pitch of' : 'Set pitch of', ids, (note) =>
        atPitch(note, midi),
      ),
    keep: (ids) => {
      const notes = chosen(ids).filter(isDoubtful);
      return change(`Keep ${countNotes(notes.length)}`, {
        remove: [],
        put: notes.map((note) => ({ ...note, confidence: 1 })),
      });
    },
    mute: (ids, muted) => changeEach(muted ? 'Mute' : 'Unmute', ids, (note) => withMuted(note, muted)),
    copy(ids) {
      const notes = notesOfLine(passage, time, toSeconds).filter((note) => ids.has(note.id));
      if (notes.length === 0) return undefined;
      return {
        notes: notes.map((note) => {
          const startTicks = Math.round(time.ticksAt(note.startSeconds));
          const lengthTicks = Math.max(1, Math.round(time.ticksAt(note.endSeconds)) - startTicks);
          return { startTicks, lengthTicks, midi: note.midi, velocity: note.velocity };
        }),
      };
    },
    paste(clip, byTicks) {
      const put = clip.notes.flatMap(({ startTicks, lengthTicks, midi, velocity }): LineNote[] => {
        const inRecording = (ticks: number) => toRecorded(passageTime.toSeconds(Math.max(0, ticks)));
        const startSeconds = inRecording(startTicks + byTicks);
        const endSeconds = inRecording(startTicks + byTicks + lengthTicks);
        // A recording cannot grow: what would lie outside it is left out whole.
        if (startSeconds < offsetSeconds || endSeconds > ownEndSeconds) return [];
        return [
          { id: createId(), startSeconds, endSeconds, midi: clampPitch(midi), velocity, confidence: 1 },
        ];
      });
      const outside = clip.notes.length - put.length;
      const pasted = change(
        `Paste ${countNotes(put.length)}${outside > 0 ? `, ${outside} outside the recording left out` : ''}`,
        { remove: [], put },
        put.map((note) => note.id),
      );
      return pasted && { ...pasted, reveal: true };
    },
  };
}

/** Notes of a melody closer than this touch. */
const TOUCHING_SECONDS = 0.015;

/**
 * In a melody, edges that touch move together, and others stop at the next note: `wanted` is held there. Returns the
 * neighbours that move along.
 */
function trimNeighbours(
  notes: readonly LineNote[],
  note: LineNote,
  wanted: { start: number; end: number },
  contour: Contour,
): LineNote[] {
  const index = notes.indexOf(note);
  const [before, after] = [notes.at(index - 1), notes.at(index + 1)];
  const moving: LineNote[] = [];
  if (index > 0 && before && wanted.start < note.startSeconds + TOUCHING_SECONDS) {
    const touching = note.startSeconds - before.endSeconds < TOUCHING_SECONDS;
    const least = touching ? before.startSeconds + SHORTEST_NOTE_SECONDS : before.endSeconds;
    wanted.start = Math.max(wanted.start, Math.min(least, note.startSeconds));
  }
  if (index > 0 && before && Math.abs(note.startSeconds - before.endSeconds) < TOUCHING_SECONDS)
    if (wanted.start !== note.startSeconds)
      moving.push(trimNote(before, before.startSeconds, wanted.start, contour));
  if (after) {
    const touching = Math.abs(after.startSeconds - note.endSeconds) < TOUCHING_SECONDS;
    const most = touching ? after.endSeconds - SHORTEST_NOTE_SECONDS : after.startSeconds;
    wanted.end = Math.min(wanted.end, Math.max(most, note.endSeconds));
    if (touching && wanted.end !== note.endSeconds)
      moving.push(trimNote(after, wanted.end, after.endSeconds, contour));
  }
  return moving;
}

function clampPitch(midi: number): number {
  return Math.min(127, Math.max(0, midi));
}
