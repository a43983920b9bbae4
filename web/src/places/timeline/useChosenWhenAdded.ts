/** What is added to the song is chosen and brought into sight: a take that ends, a file that comes in. */
import { useEffect, useRef, type Dispatch, type SetStateAction } from 'react';
import type { PassagePlace, Song } from '@plundra/core/song';

const NONE: readonly PassagePlace[] = [];

export function useChosenWhenAdded(
  { parts }: Pick<Song, 'parts'>,
  choose: (partId: string) => void,
  select: Dispatch<SetStateAction<readonly PassagePlace[]>>,
): void {
  const known = useRef<ReadonlySet<string>>(undefined);
  useEffect(() => {
    const before = known.current;
    known.current = new Set(parts.map(({ id }) => id));
    const added = before && parts.findLast(({ id }) => !before.has(id));
    if (!added) return;
    choose(added.id);
    // What is selected elsewhere would stay in the sheet beside it.
    select((old) => (old.some(({ partId }) => partId === added.id) ? old : NONE));
    bringIntoSight(added.id);
  }, [parts, choose, select]);
}

/** Scrolls as far as it takes to see the row of a part. */
export function bringIntoSight(partId: string): void {
  document.querySelector(`[data-part-id="${CSS.escape(partId)}"]`)?.scrollIntoView({ block: 'nearest' });
}
