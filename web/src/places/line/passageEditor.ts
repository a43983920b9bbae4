/** Editing the notes of a note part: pure functions from a wish to an edit. */
import type { Note, NotePassage, SimpleEdit, TimeMap } from '@plundra/core/song';
import { notesOfPassage } from './canvasNote.ts';
import { clampVelocity, countNotes, withMuted, type Change, type NoteEditing } from './noteEditing.ts';

const DRAWN_VELOCITY = 80;
const SHORTEST_TICKS = 10;

export function createPassageEditor(
  partId: string,
  passage: NotePassage,
  time: TimeMap,
  createId: () => string,
): NoteEditing {
  const chosen = (ids: ReadonlySet<string>) => passage.notes.filter((note) => ids.has(note.id));
  const ticksAt = (songSeconds: number) => Math.round(time.ticksAt(songSeconds)) - passage.startTicks;
  const secondsAt = (ticks: number) => time.secondsAt(passage.startTicks + ticks);

  const change = (label: string, remove: string[], put: Note[], select?: string[]): Change | undefined => {
    if (remove.length + put.length === 0) return undefined;
    const notes: SimpleEdit = { type: 'passage.notes', partId, passageId: passage.id, remove, put };
    const end = put.reduce((most, note) => Math.max(most, note.startTicks + note.lengthTicks), 0);
    const edits: SimpleEdit[] =
      end > passage.lengthTicks
        ? [notes, { type: 'passage.set', partId, passageId: passage.id, patch: { lengthTicks: end } }]
        : [notes];
    return { label, edit: edits.length > 1 ? { type: 'batch', edits } : notes, ...(select && { select }) };
  };
  const changeEach = (
    label: string,
    ids: ReadonlySet<string>,
    map: (note: Note) => Note,
  ): Change | undefined => {
    const notes = chosen(ids);
    return change(`${label} ${countNotes(notes.length)}`, [], notes.map(map));
  };
  const setMidi = (note: Note, midi: number): Note => ({
    ...note,
    midi: Math.min(127, Math.max(0, Math.round(midi))),
  });

  return {
    notes: notesOfPassage(passage, time),
    move: (ids, { seconds, semitones, toMidi }) =>
      changeEach('Move', ids, (note) => ({
        ...setMidi(note, toMidi ? toMidi(note.midi) : note.midi + semitones),
        startTicks:
          seconds === 0 ? note.startTicks : Math.max(0, ticksAt(secondsAt(note.startTicks) + seconds)),
      })),
    trim(id, startSeconds, endSeconds) {
      const note = passage.notes.find((each) => each.id === id);
      if (!note) return undefined;
      const endTicks = ticksAt(endSeconds);
      const startTicks = Math.max(0, Math.min(ticksAt(startSeconds), endTicks - SHORTEST_TICKS));
      return change(
        'Trim note',
        [],
        [{ ...note, startTicks, lengthTicks: Math.max(SHORTEST_TICKS, endTicks - startTicks) }],
      );
    },
    draw(startSeconds, endSeconds, midi) {
      const startTicks = Math.max(0, ticksAt(startSeconds));
      const lengthTicks = ticksAt(endSeconds) - startTicks;
      if (lengthTicks < SHORTEST_TICKS) return undefined;
      const note = setMidi({ id: createId(), startTicks, lengthTicks, midi, velocity: DRAWN_VELOCITY }, midi);
      return change('Draw note', [], [note], [note.id]);
    },
    cut(id, atSeconds) {
      const note = passage.notes.find((each) => each.id === id);
      if (!note) return undefined;
      const at = ticksAt(atSeconds) - note.startTicks;
      if (at < SHORTEST_TICKS || note.lengthTicks - at < SHORTEST_TICKS) return undefined;
      const second = {
        ...note,
        id: createId(),
        startTicks: note.startTicks + at,
        lengthTicks: note.lengthTicks - at,
      };
      return change('Cut note', [], [{ ...note, lengthTicks: at }, second], [note.id, second.id]);
    },
    join(ids) {
      const notes = chosen(ids);
      if (notes.length < 2) return undefined;
      const [first, ...rest] = notes;
      const longest = notes.reduce((a, b) => (b.lengthTicks > a.lengthTicks ? b : a));
      const end = Math.max(...notes.map((note) => note.startTicks + note.lengthTicks));
      const velocity = Math.max(...notes.map((note) => note.velocity));
      const joined = { ...first, midi: longest.midi, velocity, lengthTicks: end - first.startTicks };
      return change(
        `Join ${countNotes(notes.length)}`,
        rest.map((note) => note.id),
        [joined],
        [joined.id],
      );
    },
    drop: (ids) =>
      change(
        `Drop ${countNotes(chosen(ids).length)}`,
        chosen(ids).map((note) => note.id),
        [],
        [],
      ),
    octave: (ids, octaves) =>
      changeEach(octaves > 0 ? 'Octave up' : 'Octave down', ids, (note) =>
        setMidi(note, note.midi + 12 * octaves),
      ),
    setVelocity: (ids, next) =>
      changeEach('Set velocity of', ids, (note) => ({
        ...note,
        velocity: clampVelocity(next(note.velocity)),
      })),
    setPitch: (ids, midi) => changeEach('Set pitch of', ids, (note) => setMidi(note, midi)),
    mute: (ids, muted) => changeEach(muted ? 'Mute' : 'Unmute', ids, (note) => withMuted(note, muted)),
    paste(clip, atSeconds) {
      const put = clip.notes.map((note): Note => {
        const startTicks = Math.max(0, ticksAt(atSeconds + note.offsetSeconds));
        const endTicks = ticksAt(atSeconds + note.offsetSeconds + note.lengthSeconds);
        const placed = {
          id: createId(),
          startTicks,
          lengthTicks: Math.max(1, endTicks - startTicks),
          midi: 0,
          velocity: note.velocity,
        };
        return setMidi(placed, note.midi);
      });
      const pasted = change(
        `Paste ${countNotes(put.length)}`,
        [],
        put,
        put.map((note) => note.id),
      );
      return pasted && { ...pasted, reveal: true };
    },
  };
}
