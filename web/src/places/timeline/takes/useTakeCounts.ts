import { useDeferredValue, useMemo } from 'react';
import { takeTableOf, type Song, type TimeMap } from '@plundra/core/song';

/**
 * How many takes the table of each part has; parts without a table are left out. After an edit the rows are painted first: how many
 * there are seldom changes.
 */
export function useTakeCounts(song: Song, time: TimeMap): ReadonlyMap<string, number> {
  const parts = useDeferredValue(song.parts);
  return useMemo(
    () =>
      new Map(
        parts.flatMap((part) => {
          const count = takeTableOf(part, time)?.takes.length;
          return count ? [[part.id, count] as const] : [];
        }),
      ),
    [parts, time],
  );
}
