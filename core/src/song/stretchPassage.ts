/** Making a passage longer or shorter with all that is in it: a recording sounds slower or faster, notes spread or close up. */
import type { Ticks } from '../signal/index.ts';
import { placeOf, SHORTEST_PASSAGE_TICKS, type Found } from './arrange.ts';
import type { Edit } from './editSchema.ts';
import { clockForLength } from './passageTime.ts';
import { passageEndTicks } from './placed.ts';
import { MAX_TICKS, type Note, type NotePassage } from './schema.ts';
import type { TimeMap } from './timeMap.ts';

/** Puts an edge at a tick, and all between it and the other edge in proportion. Undefined where nothing would change. */
export function planStretch(
  found: Found,
  edge: 'start' | 'end',
  toTicks: Ticks,
  time: TimeMap,
): Edit | undefined {
  const { passage } = found;
  const [start, end] = [passage.startTicks, passageEndTicks(passage, time)];
  const at = Math.round(Math.max(0, Math.min(MAX_TICKS, toTicks)));
  const startTicks = edge === 'start' ? Math.min(at, end - SHORTEST_PASSAGE_TICKS) : start;
  const endTicks = edge === 'end' ? Math.max(at, start + SHORTEST_PASSAGE_TICKS) : end;
  if (startTicks === start && endTicks === end) return undefined;
  const place = placeOf(found);
  if (passage.type === 'recording') {
    const clock = clockForLength({ ...passage, startTicks }, endTicks, time);
    return { type: 'passage.set', ...place, patch: { startTicks, clock } };
  }
  const factor = (endTicks - startTicks) / (end - start);
  const offset = passage.offsetTicks !== undefined && {
    offsetTicks: Math.round(passage.offsetTicks * factor),
  };
  return {
    type: 'batch',
    edits: [
      {
        type: 'passage.set',
        ...place,
        patch: { startTicks, lengthTicks: Math.round(passage.lengthTicks * factor), ...offset },
      },
      { type: 'passage.notes', ...place, remove: [], put: spread(passage, factor) },
    ],
  };
}

function spread({ notes }: NotePassage, factor: number): Note[] {
  return notes.map((note) => {
    const startTicks = Math.round(note.startTicks * factor);
    // From the rounded ends, so that notes that meet go on meeting.
    const lengthTicks = Math.max(1, Math.round((note.startTicks + note.lengthTicks) * factor) - startTicks);
    return {
      ...note,
      startTicks,
      lengthTicks,
      ...(note.bends && {
        bends: note.bends.map((bend) => ({ ...bend, afterTicks: Math.round(bend.afterTicks * factor) })),
      }),
    };
  });
}
