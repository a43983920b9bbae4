/** Editing the line of a recording: pure functions from a wish to an edit. */
import {
  cutNote,
  drawNote,
  joinNotes,
  shiftOctave,
  trimNote,
  type Contour,
  type NoteChange,
} from '@plundra/core/reading';
import {
  createPassageTime,
  isDoubtful,
  railMidi,
  wantedSpan,
  type LineNote,
  type RecordingPassage,
  type TimeMap,
} from '@plundra/core/song';
import { notesOfLine } from './canvasNote.ts';
import { clampVelocity, countNotes, withMuted, type Change, type NoteEditing } from './noteEditing.ts';

/** Velocity of a drawn note: a middle one, raised by hand if need be. */
const DRAWN_VELOCITY = 80;

const NO_CONTOUR: Contour = {
  hopSeconds: 1,
  f0Hz: new Float32Array(0),
  confidence: new Float32Array(0),
};

export function createLineEditor(
  partId: string,
  passage: RecordingPassage,
  /** Undefined where several notes sound at once: then pitches are what was read or drawn. */
  measured: Contour | undefined,
  time: TimeMap,
  createId: () => string,
): NoteEditing {
  const contour = measured ?? NO_CONTOUR;
  const line = passage.line!;
  const { originSeconds } = createPassageTime(passage, time);
  const local = (songSeconds: number) => Math.max(0, songSeconds - originSeconds);
  const chosen = (ids: ReadonlySet<string>) => line.notes.filter((note) => ids.has(note.id));

  const change = (label: string, { remove, put }: NoteChange, select?: string[]): Change | undefined =>
    remove.length + put.length === 0
      ? undefined
      : {
          label,
          edit: { type: 'line.notes', partId, passageId: passage.id, remove, put },
          ...(select && { select }),
        };
  const changeEach = (
    label: string,
    ids: ReadonlySet<string>,
    map: (note: LineNote) => LineNote,
  ): Change | undefined => {
    const notes = chosen(ids);
    return change(`${label} ${countNotes(notes.length)}`, { remove: [], put: notes.map(map) });
  };

  return {
    notes: notesOfLine(passage, time),
    move: (ids, { seconds, semitones, toMidi }) =>
      changeEach('Move', ids, (note) => {
        const span = wantedSpan(note);
        const target = { ...note.target };
        const rail = railMidi(note, line.tuningCents);
        if (toMidi) target.midi = toMidi(rail);
        else if (semitones !== 0) target.midi = clampPitch(rail + semitones);
        if (seconds !== 0) {
          const by = Math.max(seconds, -span.startSeconds);
          target.startSeconds = span.startSeconds + by;
          target.endSeconds = span.endSeconds + by;
        }
        return { ...note, target };
      }),
    trim(id, startSeconds, endSeconds) {
      const note = line.notes.find((each) => each.id === id);
      if (!note) return undefined;
      const shift = wantedSpan(note).startSeconds - note.startSeconds;
      const trimmed = trimNote(note, local(startSeconds) - shift, local(endSeconds) - shift, contour);
      if (note.target?.startSeconds !== undefined) {
        trimmed.target = {
          ...note.target,
          startSeconds: trimmed.startSeconds + shift,
          endSeconds: trimmed.endSeconds + shift,
        };
      }
      return change('Trim note', { remove: [], put: [trimmed] });
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
      changeEach('Set pitch of', ids, (note) => ({
        ...note,
        target: { ...note.target, midi: clampPitch(midi) },
      })),
    keep: (ids) => {
      const notes = chosen(ids).filter(isDoubtful);
      return change(`Keep ${countNotes(notes.length)}`, {
        remove: [],
        put: notes.map((note) => ({ ...note, confidence: 1 })),
      });
    },
    mute: (ids, muted) => changeEach(muted ? 'Mute' : 'Unmute', ids, (note) => withMuted(note, muted)),
    paste(clip, atSeconds) {
      const put = clip.notes.map((note): LineNote => {
        const startSeconds = local(atSeconds + note.offsetSeconds);
        return {
          id: createId(),
          startSeconds,
          endSeconds: startSeconds + note.lengthSeconds,
          midi: clampPitch(note.midi),
          velocity: note.velocity,
          confidence: 1,
        };
      });
      const pasted = change(
        `Paste ${countNotes(put.length)}`,
        { remove: [], put },
        put.map((note) => note.id),
      );
      return pasted && { ...pasted, reveal: true };
    },
  };
}

function clampPitch(midi: number): number {
  return Math.min(127, Math.max(0, midi));
}
