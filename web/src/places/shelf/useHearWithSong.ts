/**
 * Hearing an item with the song before taking it: from the next bar on, as it would be put in. It is an edit that is tried and not
 * made, so all that the song does with what it holds it does with this too.
 */
import { useCallback, useEffect, useMemo, useState } from 'react';
import { App } from 'antd';
import { useQueryClient } from '@tanstack/react-query';
import { planPutIn, type FitWish, type ShelfItem } from '@plundra/core/shelf';
import { EditError, type Edit, type Note, type Song } from '@plundra/core/song';
import { useSong } from '../../song/SongContext.tsx';
import { hearingSpan } from './hearingSpan.ts';
import { partOfItem } from './partOfItem.ts';
import type { Hearing } from './useHearAlone.ts';
import { notesOfItem } from './useShelf.ts';

export interface HearingInSong extends Hearing {
  /** Where it began. */
  atTicks: number | null;
  /** It is not heard any more, and the song plays on. */
  end(): void;
}

interface Heard {
  item: ShelfItem;
  notes: Note[] | undefined;
  atTicks: number;
  untilTicks: number;
}

const LOOK_MS = 250;
/** Who goes through the list by keys stays this long on what is looked at. */
const SETTLED_MS = 150;

export function useHearWithSong(
  wish: FitWish & { upbeatBefore: boolean },
  levelDb: number,
  /** Likely to be heard next: its sound is made ahead, so that it is there at the bar. */
  likely: ShelfItem | null,
): HearingInSong {
  const { song, time, engine, endSeconds, setTried, prepare } = useSong();
  const { message } = App.useApp();
  const queries = useQueryClient();
  const [heard, setHeard] = useState<Heard | null>(null);
  const { key, tempo, upbeatBefore } = wish;

  const tried = useMemo(
    () => (heard ? triedEdit(song, heard, { key, tempo, upbeatBefore }, levelDb) : null),
    [song, heard, key, tempo, upbeatBefore, levelDb],
  );
  // Others try things too: what is not of the shelf is left alone.
  useEffect(() => {
    if (!tried) return;
    setTried(tried);
    return () => setTried(null);
  }, [tried, setTried]);

  useEffect(() => {
    if (likely?.sound.type !== 'recording' || likely.listening) return;
    const timer = setTimeout(() => {
      const { bar } = time.barAt(Math.round(time.ticksAt(engine.positionSeconds())));
      const atTicks = time.barStartTicks(bar + 1);
      const ahead = { item: likely, notes: undefined, atTicks, untilTicks: atTicks };
      prepare(triedEdit(song, ahead, { key, tempo, upbeatBefore }, levelDb, 'shelf-ahead'));
    }, SETTLED_MS);
    return () => clearTimeout(timer);
    // eslint-disable-next-line react-hooks/exhaustive-deps -- not for each level: that changes no sound that is made
  }, [likely, song, time, engine, key, tempo, upbeatBefore, prepare]);
  useEffect(() => () => prepare(null), [prepare]);

  const end = useCallback(() => setHeard(null), []);
  const hears = heard !== null;
  const stop = useCallback(() => {
    if (!hears) return;
    setHeard(null);
    engine.stop();
  }, [engine, hears]);
  const hear = useCallback(
    (item: ShelfItem) => {
      if (heard?.item.id === item.id) return stop();
      const start = async () => {
        const notes = await notesOfItem(queries, item);
        const { playing, loop, loopOn } = engine.getState();
        const now = {
          positionSeconds: engine.positionSeconds(),
          playing,
          loop: loopOn ? loop : null,
          endSeconds,
        };
        const { atTicks, untilTicks, seekSeconds } = hearingSpan(item, now, time);
        if (seekSeconds !== undefined) engine.seek(seekSeconds);
        setHeard({ item, notes, atTicks, untilTicks });
        if (!engine.getState().playing) await engine.play({ countInBars: 0 });
      };
      start().catch((error: unknown) => {
        void message.error(error instanceof Error ? error.message : 'It could not be played. Try again.', 7);
      });
    },
    [heard, stop, queries, engine, time, endSeconds, message],
  );
  // It ends with playing, however that ends.
  useEffect(() => {
    if (!hears) return;
    let played = engine.getState().playing;
    return engine.subscribe(() => {
      const { playing, loading } = engine.getState();
      if (played && !playing && !loading) setHeard(null);
      played ||= playing;
    });
  }, [engine, hears]);
  // From the second round of a loop on it is heard in all of it.
  const atSeconds = heard && time.secondsAt(heard.atTicks);
  useEffect(() => {
    if (atSeconds === null) return;
    let before = engine.positionSeconds();
    const timer = setInterval(() => {
      const now = engine.positionSeconds();
      const { loop, loopOn } = engine.getState();
      if (loop && loopOn && now < before && loop.startSeconds < atSeconds)
        setHeard((old) => old && { ...old, atTicks: Math.round(time.ticksAt(loop.startSeconds)) });
      before = now;
    }, LOOK_MS);
    return () => clearInterval(timer);
  }, [engine, time, atSeconds]);
  return useMemo(
    () => ({ itemId: heard?.item.id ?? null, atTicks: heard?.atTicks ?? null, hear, stop, end }),
    [heard, hear, stop, end],
  );
}

function triedEdit(
  song: Song,
  { item, notes, atTicks, untilTicks }: Heard,
  { upbeatBefore, ...fit }: FitWish & { upbeatBefore: boolean },
  levelDb: number,
  name = 'shelf-heard',
): Edit | null {
  let made = 0;
  try {
    const into = partOfItem(song, item, name, levelDb);
    const wanted = { item, ...(notes && { notes }), into, atTicks, untilTicks, fit, upbeatBefore };
    return planPutIn(song, wanted, () => `${name}-${made++}`).edit;
  } catch (error) {
    if (error instanceof EditError) return null;
    throw error;
  }
}
