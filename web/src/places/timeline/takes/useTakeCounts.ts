import { useMemo } from 'react';
import { takeTableOf, type RecordingPart, type Song, type TimeMap } from '@plundra/core/song';

/** Parts are never changed in place: each is looked at once for a time. */
const known = new WeakMap<RecordingPart, { time: TimeMap; count: number }>();

function countOf(part: RecordingPart, time: TimeMap): number {
  if (!part.passages.some(({ spare }) => spare)) return 0;
  const before = known.get(part);
  if (before?.time === time) return before.count;
  const count = takeTableOf(part, time)?.takes.length ?? 0;
  known.set(part, { time, count });
  return count;
}

/** How many takes the table of each part has; parts without a table are left out. */
export function useTakeCounts(song: Song, time: TimeMap): ReadonlyMap<string, number> {
  return useMemo(
    () =>
      new Map(
        song.parts.flatMap((part) => {
          const count = part.kind === 'recording' ? countOf(part, time) : 0;
          return count > 0 ? [[part.id, count] as const] : [];
        }),
      ),
    [song.parts, time],
  );
}
