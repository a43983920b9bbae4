import { useEffect, useState } from 'react';
import { changeAt, type ChordEntry } from '@plundra/core/song';
import { useSong } from '../../song/SongContext.tsx';

/** Id of the chord under the playhead while the song plays. */
export function usePlayingChange(changes: readonly ChordEntry[]): string | null {
  const { engine, time } = useSong();
  const [id, setId] = useState<string | null>(null);
  useEffect(() => {
    let request = 0;
    const look = () => {
      const { playing } = engine.getState();
      const now = playing ? changeAt(changes, time.ticksAt(engine.positionSeconds())) : undefined;
      setId(now?.id ?? null);
      if (playing) request = requestAnimationFrame(look);
    };
    const restart = () => {
      cancelAnimationFrame(request);
      request = requestAnimationFrame(look);
    };
    restart();
    const unsubscribe = engine.subscribe(restart);
    return () => {
      cancelAnimationFrame(request);
      unsubscribe();
    };
  }, [engine, time, changes]);
  return id;
}
