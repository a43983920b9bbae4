/** Hearing a take for all of its phrases, or all takes together, without choosing them. */
import { useCallback, useEffect, useMemo, useState } from 'react';
import { planChoose, planHearTogether, type Part, type TakeTable } from '@plundra/core/song';
import { useSong } from '../../../song/SongContext.tsx';

/** Stands for all takes together. */
export const TOGETHER = 'together';

export interface HearingTakes {
  /** The take that is heard, {@link TOGETHER}, or null. */
  takeId: string | null;
  /** Hears it from the first phrase on, where nothing plays yet; once more ends it. */
  hear(takeId: string): void;
}

export function useHearTakes(part: Part, table: TakeTable | undefined): HearingTakes {
  const { song, time, engine, setTried } = useSong();
  const [takeId, setTakeId] = useState<string | null>(null);
  const end = useCallback(() => {
    setTakeId(null);
    setTried(null);
  }, [setTried]);
  const hear = useCallback(
    (wanted: string) => {
      if (!table || wanted === takeId) {
        if (takeId !== null) engine.stop();
        return end();
      }
      const createId = () => crypto.randomUUID();
      const edit =
        wanted === TOGETHER
          ? planHearTogether(song, part.id, createId)
          : planChoose(
              song,
              part.id,
              table.phrases
                .filter(({ cells }) => cells.has(wanted))
                .map((phrase) => ({ phrase, takeId: wanted })),
              createId,
            );
      setTried(edit ?? null);
      setTakeId(wanted);
      if (engine.getState().playing) return;
      const first = table.phrases.find(({ cells }) => wanted === TOGETHER || cells.has(wanted));
      if (first) engine.seek(time.secondsAt(first.startTicks));
      void engine.play({ countInBars: 0 });
    },
    [table, takeId, song, part.id, time, engine, setTried, end],
  );
  // It ends with playing, however that ends, and with the table.
  useEffect(() => {
    if (takeId === null) return;
    let played = engine.getState().playing;
    const stop = engine.subscribe(() => {
      const { playing, loading } = engine.getState();
      if (played && !playing && !loading) end();
      played ||= playing;
    });
    return stop;
  }, [engine, takeId, end]);
  // Only what is heard is ended: a recording that goes on has set aside what was there.
  const hearing = takeId !== null;
  useEffect(() => (hearing ? () => setTried(null) : undefined), [hearing, setTried]);
  return useMemo(() => ({ takeId, hear }), [takeId, hear]);
}
