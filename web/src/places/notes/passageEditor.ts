/** Editing the notes of a note part: pure functions that make an edit. */
import {
  bendAt,
  bendsFrom,
  notesOriginTicks,
  putNotes,
  shownNotes,
  withBends,
  type Note,
  type NotePassage,
  type TimeMap,
} from '@plundra/core/song';
import { notesOfPassage } from './canvasNote.ts';
import {
  clampVelocity,
  clipSpan,
  countNotes,
  withMuted,
  type LabelledEdit,
  type NoteEditing,
} from './noteEditing.ts';

const DRAWN_VELOCITY = 80;
const SHORTEST_TICKS = 10;

export function createPassageEditor(
  partId: string,
  passage: NotePassage,
  time: TimeMap,
  createId: () => string,
): NoteEditing {
  const shown = shownNotes(passage);
  const chosen = (ids: ReadonlySet<string>) => shown.filter((note) => ids.has(note.id));
  const origin = notesOriginTicks(passage);
  const ticksAt = (songSeconds: number) => Math.round(time.ticksAt(songSeconds)) - origin;
  /** The start of the song, counted as notes are; the passage grows to hold what is put before it. */
  const earliest = -origin;
  const secondsAt = (ticks: number) => time.secondsAt(origin + ticks);

  const change = (
    label: string,
    remove: string[],
    put: Note[],
    select?: string[],
  ): LabelledEdit | undefined => {
    if (remove.length + put.length === 0) return undefined;
    const edits = putNotes(partId, passage, put, remove);
    return {
      label,
      edit: edits.length > 1 ? { type: 'batch', edits } : edits[0],
      ...(select && { select }),
    };
  };
  const changeEach = (
    label: string,
    ids: ReadonlySet<string>,
    map: (note: Note) => Note,
  ): LabelledEdit | undefined => {
    const notes = chosen(ids);
    return change(`${label} ${countNotes(notes.length)}`, [], notes.map(map));
  };
  const setMidi = (note: Note, midi: number): Note => ({
    ...note,
    midi: Math.min(127, Math.max(0, Math.round(midi))),
  });

  return {
    snaps: true,
    notes: notesOfPassage(passage, time),
    move: (ids, { seconds, semitones, toMidi }) =>
      changeEach('Move', ids, (note) => ({
        ...setMidi(note, toMidi ? toMidi(note.midi) : note.midi + semitones),
        startTicks:
          seconds === 0 ? note.startTicks : Math.max(earliest, ticksAt(secondsAt(note.startTicks) + seconds)),
      })),
    trim(id, startSeconds, endSeconds) {
      const note = shown.find((each) => each.id === id);
      if (!note) return undefined;
      // Notes of one pitch cannot overlap: an edge stops at the next of them.
      const alike = shown.filter((each) => each.midi === note.midi && each.id !== id);
      const noteEnd = note.startTicks + note.lengthTicks;
      const before = Math.max(
        earliest,
        ...alike
          .map((each) => each.startTicks + each.lengthTicks)
          .filter((ticks) => ticks <= note.startTicks),
      );
      const after = Math.min(...alike.map((each) => each.startTicks).filter((ticks) => ticks >= noteEnd));
      const endTicks = Math.min(after, ticksAt(endSeconds));
      const startTicks = Math.max(before, Math.min(ticksAt(startSeconds), endTicks - SHORTEST_TICKS));
      const trimmed = { ...note, startTicks, lengthTicks: Math.max(SHORTEST_TICKS, endTicks - startTicks) };
      return change(
        'Trim note',
        [],
        [note.bends ? withBends(trimmed, bendsFrom(note, startTicks - note.startTicks)) : trimmed],
      );
    },
    draw(startSeconds, endSeconds, midi) {
      const startTicks = Math.max(earliest, ticksAt(startSeconds));
      const lengthTicks = ticksAt(endSeconds) - startTicks;
      if (lengthTicks < SHORTEST_TICKS) return undefined;
      const note = setMidi({ id: createId(), startTicks, lengthTicks, midi, velocity: DRAWN_VELOCITY }, midi);
      return change('Draw note', [], [note], [note.id]);
    },
    cut(id, atSeconds) {
      const note = shown.find((each) => each.id === id);
      if (!note) return undefined;
      const at = ticksAt(atSeconds) - note.startTicks;
      if (at < SHORTEST_TICKS || note.lengthTicks - at < SHORTEST_TICKS) return undefined;
      // The word is sung where the note begins.
      const { lyric: _, ...unsung } = note;
      const halves = [
        withBends(
          { ...note, lengthTicks: at },
          (note.bends ?? []).filter(({ afterTicks }) => afterTicks < at),
        ),
        withBends(
          { ...unsung, id: createId(), startTicks: note.startTicks + at, lengthTicks: note.lengthTicks - at },
          bendsFrom(note, at),
        ),
      ];
      return change(
        'Cut note',
        [],
        halves,
        halves.map(({ id: half }) => half),
      );
    },
    join(ids) {
      const notes = chosen(ids);
      if (notes.length < 2) return undefined;
      const [first, ...rest] = notes;
      const longest = notes.reduce((a, b) => (b.lengthTicks > a.lengthTicks ? b : a));
      const end = Math.max(...notes.map((note) => note.startTicks + note.lengthTicks));
      const velocity = Math.max(...notes.map((note) => note.velocity));
      const bends = notes.flatMap((note) => {
        const later = note.startTicks - first.startTicks;
        const own = note.bends?.map((bend) => ({ ...bend, afterTicks: bend.afterTicks + later })) ?? [];
        return [{ afterTicks: later, semitones: bendAt(note, 0) }, ...own];
      });
      const joined = withBends(
        { ...first, midi: longest.midi, velocity, lengthTicks: end - first.startTicks },
        bends.sort((a, b) => a.afterTicks - b.afterTicks),
      );
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
    setLyric: (id, lyric) =>
      changeEach(
        lyric ? `Sing “${lyric}” on` : 'Take the words from',
        new Set([id]),
        ({ lyric: _, ...note }) => (lyric ? { ...note, lyric } : note),
      ),
    mute: (ids, muted) => changeEach(muted ? 'Mute' : 'Unmute', ids, (note) => withMuted(note, muted)),
    straighten: (ids) => {
      const bent = chosen(ids).filter((note) => note.bends);
      return change(
        `Straighten ${countNotes(bent.length)}`,
        [],
        bent.map((note) => withBends(note, [])),
      );
    },
    copy(ids) {
      const notes = chosen(ids).map(({ id: _, muted: _muted, startTicks, ...note }) => ({
        ...note,
        startTicks: origin + startTicks,
      }));
      return notes.length > 0 ? { notes } : undefined;
    },
    paste(clip, byTicks) {
      // The song begins at 0; what would lie before it moves along as a whole.
      const by = Math.max(byTicks, -clipSpan(clip).startTicks) - origin;
      const put = clip.notes.map(({ startTicks, lengthTicks, midi, velocity, lyric, bends }): Note => {
        const placed = {
          id: createId(),
          startTicks: startTicks + by,
          lengthTicks,
          midi: 0,
          velocity,
          ...(lyric && { lyric }),
        };
        return setMidi(bends ? withBends(placed, bends) : placed, midi);
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
