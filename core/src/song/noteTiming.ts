/** Timing of a note part: pulling its starts to the grid, and the lengths of its notes. Pure. */
import type { Seconds } from '../signal/index.ts';
import { pullToGrid, type GridPull, type PullReport } from './gridPull.ts';
import type { Note, NotePassage } from './schema.ts';
import type { TimeMap } from './timeMap.ts';

export interface NotePullPlan {
  report: PullReport;
  /** The notes that move, as they would be; they keep their lengths. */
  put: Note[];
  /** Where each of them would start, in seconds of the song. */
  starts: Map<string, Seconds>;
}

/** What a pull would do to notes of a passage. */
export function planNotePull(
  passage: NotePassage,
  notes: readonly Note[],
  settings: GridPull,
  time: TimeMap,
): NotePullPlan {
  const { pulled, report } = pullToGrid(
    notes.map((note) => time.secondsAt(passage.startTicks + note.startTicks)),
    settings,
    time,
  );
  const starts = new Map<string, Seconds>();
  const put = notes.flatMap((note, i) => {
    const startTicks = Math.round(time.ticksAt(pulled[i].toSeconds)) - passage.startTicks;
    if (startTicks === note.startTicks) return [];
    starts.set(note.id, pulled[i].toSeconds);
    return [{ ...note, startTicks }];
  });
  return { report, put, starts };
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
