import { useCallback, useState } from 'react';
import { browserMemory } from '../../song/storage.ts';

const keyOf = (songId: string) => `folded:${songId}`;

/** Groups of a song that are folded, as this browser remembers: how a song is looked at is not part of it. */
export function useFolded(songId: string) {
  const [folded, setFolded] = useState<ReadonlySet<string>>(
    () => new Set((browserMemory.read(keyOf(songId)) ?? '').split(' ').filter(Boolean)),
  );
  const fold = useCallback(
    (groupId: string) =>
      setFolded((old) => {
        const next = new Set(old);
        if (!next.delete(groupId)) next.add(groupId);
        browserMemory.write(keyOf(songId), next.size > 0 ? [...next].join(' ') : null);
        return next;
      }),
    [songId],
  );
  return { folded, fold };
}
