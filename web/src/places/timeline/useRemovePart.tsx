/** Removing a part: what went is said, and can be taken back there. */
import { useCallback, useEffect, useRef } from 'react';
import { App, Button } from 'antd';
import type { Part } from '@plundra/core/song';
import { useSong } from '../../song/SongContext.tsx';

export function useRemovePart(choose: (partId: string | null) => void): (part: Part) => void {
  const { song, apply, undo } = useSong();
  const { message } = App.useApp();
  const latest = useRef({ song, undo });
  useEffect(() => {
    latest.current = { song, undo };
  });
  return useCallback(
    (part: Part) => {
      const { parts } = latest.current.song;
      const index = parts.findIndex(({ id }) => id === part.id);
      if (!apply(`Remove ${part.name}`, { type: 'part.remove', partId: part.id })) return;
      // The one that takes its place is next.
      choose((parts.at(index + 1) ?? parts.at(index - 1))?.id ?? null);
      const key = `removed ${part.id}`;
      void message.info({
        key,
        duration: 6,
        content: (
          <>
            {part.name} removed{' '}
            <Button
              type="link"
              size="small"
              onClick={() => {
                message.destroy(key);
                latest.current.undo();
                choose(part.id);
              }}
            >
              Undo
            </Button>
          </>
        ),
      });
    },
    [apply, choose, message],
  );
}
