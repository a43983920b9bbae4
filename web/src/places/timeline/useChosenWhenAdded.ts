/** What is added to the song is chosen: a take that ends, a file that comes in. */
import { useEffect, useRef } from 'react';
import type { Song } from '@plundra/core/song';

export function useChosenWhenAdded({ parts }: Pick<Song, 'parts'>, choose: (partId: string) => void): void {
  const known = useRef<ReadonlySet<string>>(undefined);
  useEffect(() => {
    const before = known.current;
    known.current = new Set(parts.map(({ id }) => id));
    const added = before && parts.filter(({ id }) => !before.has(id));
    if (added && added.length > 0) choose(added[added.length - 1].id);
  }, [parts, choose]);
}
