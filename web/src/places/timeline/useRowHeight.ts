import { useCallback, useState } from 'react';
import { browserMemory } from '../../song/storage.ts';

/** Rows of parts in three heights. Low ones leave level and pan to the side sheet. */
export type RowHeight = 'low' | 'middle' | 'tall';
export const ROW_PIXELS: Record<RowHeight, number> = { low: 38, middle: 74, tall: 132 };

const isRowHeight = (text: string | null): text is RowHeight => text !== null && text in ROW_PIXELS;
const keyOf = (songId: string) => `rows:${songId}`;

/** Of a song, as this browser remembers: how a song is looked at is not part of it. */
export function useRowHeight(songId: string): [RowHeight, (height: RowHeight) => void] {
  const [height, setHeight] = useState<RowHeight>(() => {
    const kept = browserMemory.read(keyOf(songId));
    return isRowHeight(kept) ? kept : 'middle';
  });
  const choose = useCallback(
    (next: RowHeight) => {
      setHeight(next);
      browserMemory.write(keyOf(songId), next === 'middle' ? null : next);
    },
    [songId],
  );
  return [height, choose];
}
