/**
 * Pointer tools as a small state machine on plain data: where a drag began, what it does, and what the notes look
 * like while it lasts. Nothing is edited until it ends.
 */
import { snapTicks, type TimeMap } from '@plundra/core/song';
import { inOrder, type CanvasNote } from './canvasNote.ts';
import type { NoteMove } from './noteEditing.ts';

export type Tool = 'select' | 'draw' | 'cut';

export type Gesture =
  | { kind: 'marquee'; x0: number; y0: number; x1: number; y1: number; before: ReadonlySet<string> }
  | {
      kind: 'move';
      note: CanvasNote;
      ids: ReadonlySet<string>;
      move: NoteMove;
      moved: boolean;
      /** It was added to the selection: a click leaves the others selected. */
      added: boolean;
      /** An onset is dragged: pitch stays, and no grid holds it. */
      timeOnly: boolean;
    }
  | { kind: 'trim'; note: CanvasNote; edge: 'start' | 'end'; startSeconds: number; endSeconds: number }
  | { kind: 'velocity'; note: CanvasNote; ids: ReadonlySet<string>; by: number }
  | { kind: 'draw'; startSeconds: number; endSeconds: number; midi: number }
  | { kind: 'seek' }
  | { kind: 'loop'; fromSeconds: number; toSeconds: number }
  | { kind: 'scroll'; x: number; y: number };

export interface SnapSettings {
  time: TimeMap;
  stepTicks: number;
}

/** Nearest grid line in seconds of the song; unchanged without a grid. */
export function snapSeconds(seconds: number, { time, stepTicks }: SnapSettings): number {
  if (stepTicks <= 0) return Math.max(0, seconds);
  return time.secondsAt(snapTicks(time.ticksAt(seconds), stepTicks, time));
}

/**
 * How far a dragged note goes: its start lands on the grid unless `free`; the pitch moves by whole semitones, by
 * cents where `fine`. Small movements along one axis leave the other alone.
 */
export function dragMove(
  note: CanvasNote,
  drag: { seconds: number; semitones: number; pixelsX: number },
  options: { free: boolean; fine: boolean; snap: SnapSettings },
): NoteMove {
  const semitones = options.fine ? Math.round(drag.semitones * 100) / 100 : Math.round(drag.semitones);
  if (Math.abs(drag.pixelsX) < 5) return { seconds: 0, semitones };
  const wanted = note.startSeconds + drag.seconds;
  const landed = options.free ? Math.max(0, wanted) : snapSeconds(wanted, options.snap);
  return { seconds: landed - note.startSeconds, semitones };
}

/** Notes as they look during a gesture. */
export function notesDuring(gesture: Gesture | null, notes: readonly CanvasNote[]): readonly CanvasNote[] {
  if (!gesture) return notes;
  switch (gesture.kind) {
    case 'move':
      return inOrder(
        notes.map((note) =>
          gesture.ids.has(note.id)
            ? {
                ...note,
                startSeconds: note.startSeconds + gesture.move.seconds,
                endSeconds: note.endSeconds + gesture.move.seconds,
                midi: note.midi + gesture.move.semitones,
              }
            : note,
        ),
      );
    case 'trim':
      return inOrder(
        notes.map((note) =>
          note.id === gesture.note.id
            ? {
                ...note,
                startSeconds: gesture.startSeconds,
                endSeconds: gesture.endSeconds,
                ...(note.played && {
                  played: {
                    ...note.played,
                    startSeconds: note.played.startSeconds + gesture.startSeconds - note.startSeconds,
                    endSeconds: note.played.endSeconds + gesture.endSeconds - note.endSeconds,
                  },
                }),
              }
            : note,
        ),
      );
    case 'velocity':
      return notes.map((note) =>
        gesture.ids.has(note.id)
          ? { ...note, velocity: Math.min(127, Math.max(1, note.velocity + gesture.by)) }
          : note,
      );
    default:
      return notes;
  }
}
