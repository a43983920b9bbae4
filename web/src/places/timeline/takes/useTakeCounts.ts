import { useMemo } from 'react';
import { takeTableOf, type Song, type TimeMap } from '@plundra/core/song';

/** How many takes the table of each part has; parts without a table are left out. */
export function useTakeCounts(song: Song, time: TimeMap): ReadonlyMap<string, number> {
  return useMemo(
    () =>
      new Map(
        song.parts.flatMap((part) => {
          const count = part.kind === 'recording' ? takeTableOf(part, time)?.takes.length : undefined;
          return count ? [[part.id, count] as const] : [];
        }),
      ),
    [song.parts, time],
  );
}
