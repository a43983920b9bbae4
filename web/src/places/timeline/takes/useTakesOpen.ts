import { useCallback, useState } from 'react';
import { browserMemory } from '../../../song/storage.ts';

const keyOf = (songId: string) => `takes:${songId}`;

/** Parts whose take tables are open, as this browser remembers: how a song is looked at is not part of it. Also which was opened last. */
export function useTakesOpen(songId: string) {
  const [opened, setOpened] = useState<ReadonlySet<string>>(
    () => new Set((browserMemory.read(keyOf(songId)) ?? '').split(' ').filter(Boolean)),
  );
  const [justOpened, setJustOpened] = useState<string | null>(null);
  const setOpen = useCallback(
    (partId: string, open: boolean) => {
      setJustOpened(open ? partId : null);
      setOpened((old) => {
        const next = new Set(old);
        if (open) next.add(partId);
        else next.delete(partId);
        browserMemory.write(keyOf(songId), next.size > 0 ? [...next].join(' ') : null);
        return next;
      });
    },
    [songId],
  );
  return { opened, justOpened, setOpen };
}
