/** Timing of a note part: pulling its starts to the grid, and the lengths of its notes. Pure. */
import type { Seconds } from '../signal/index.ts';
import { pullToGrid, type GridPull, type PullReport } from './gridPull.ts';
import type { Note, NotePassage } from './schema.ts';
import { notesOriginTicks } from './placed.ts';
import type { TimeMap } from './timeMap.ts';

/** Notes of a passage. */
export interface NotesOfPassage {
  passage: NotePassage;
  notes: readonly Note[];
}

export interface NotePullPlan {
  report: PullReport;
  /** The notes that move, as they would be; they keep their lengths. */
  put: NotesOfPassage[];
  /** Where each of them would start, in seconds of the song. */
  starts: Map<string, Seconds>;
}

/** What a pull would do to notes of one or several passages. */
export function planNotePull(
  meant: readonly NotesOfPassage[],
  settings: GridPull,
  time: TimeMap,
): NotePullPlan {
  const played = meant.flatMap(({ passage, notes }) =>
    notes.map((note) => time.secondsAt(notesOriginTicks(passage) + note.startTicks)),
  );
  const { pulled, report } = pullToGrid(played, settings, time);
  const starts = new Map<string, Seconds>();
  let i = 0;
  const put = meant.map(({ passage, notes }) => {
    const origin = notesOriginTicks(passage);
    const moved = notes.flatMap((note) => {
      const { toSeconds } = pulled[i++];
      const startTicks = Math.round(time.ticksAt(toSeconds)) - origin;
      if (startTicks === note.startTicks) return [];
      starts.set(note.id, toSeconds);
      return [{ ...note, startTicks }];
    });
    return { passage, notes: moved };
  });
  return { report, put: put.filter(({ notes }) => notes.length > 0), starts };
}

/**
 * Notes that last for a share of the time to the next start in their passage: 1 is legato, each lasts until the next
 * begins. Notes that start together count as one; the last of all keeps its length.
 * @param share above 0
 * @returns those that change
 */
export function withLengths(passage: NotePassage, notes: readonly Note[], share: number): Note[] {
  const starts = [...new Set(passage.notes.map(({ startTicks }) => startTicks))].sort((a, b) => a - b);
  const nextOf = new Map(starts.map((start, i) => [start, starts[i + 1]] as const));
  return notes.flatMap((note) => {
    const next = nextOf.get(note.startTicks);
    if (next === undefined) return [];
    const lengthTicks = Math.max(1, Math.round((next - note.startTicks) * share));
    return lengthTicks === note.lengthTicks ? [] : [{ ...note, lengthTicks }];
  });
}
