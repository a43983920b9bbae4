/**
 * Hearing an item with the song before taking it: from the next bar on, as it would be put in. It is an edit that is tried and not
 * made, so all that the song does with what it holds it does with this too.
 */
import { useCallback, useEffect, useMemo, useState } from 'react';
import { App } from 'antd';
import { useQueryClient } from '@tanstack/react-query';
import { itemLengthTicks, planPutIn, type FitWish, type ShelfItem } from '@plundra/core/shelf';
import {
  EditError,
  TICKS_PER_QUARTER,
  type Edit,
  type Note,
  type Song,
  type TimeMap,
} from '@plundra/core/song';
import type { Engine } from '../../audio/engine.ts';
import { useSong } from '../../song/SongContext.tsx';
import { partOfItem } from './partOfItem.ts';
import type { Hearing } from './useHearAlone.ts';
import { notesOfItem } from './useShelf.ts';

export interface HearingInSong extends Hearing {
  /** Where it began. */
  atTicks: number | null;
}

interface Heard {
  item: ShelfItem;
  notes: Note[] | undefined;
  atTicks: number;
  untilTicks: number;
}

/** So long before a bar it is still made ready for it. */
const READY_SECONDS = 0.25;
/** It is heard at least for so many of its own lengths, also behind the end of the song. */
const HEARD_TIMES = 2;
const LOOK_MS = 250;

export function useHearWithSong(wish: FitWish & { upbeatBefore: boolean }, levelDb: number): HearingInSong {
  const { song, time, engine, endSeconds, setTried } = useSong();
  const { message } = App.useApp();
  const queries = useQueryClient();
  const [heard, setHeard] = useState<Heard | null>(null);
  const { key, tempo, upbeatBefore } = wish;

  const tried = useMemo(
    () => (heard ? triedEdit(song, heard, { key, tempo, upbeatBefore }, levelDb) : null),
    [song, heard, key, tempo, upbeatBefore, levelDb],
  );
  useEffect(() => setTried(tried), [tried, setTried]);
  useEffect(() => () => setTried(null), [setTried]);

  const stop = useCallback(() => {
    setHeard(null);
    engine.stop();
  }, [engine]);
  const hear = useCallback(
    (item: ShelfItem) => {
      if (heard?.item.id === item.id) return stop();
      const start = async () => {
        const notes = await notesOfItem(queries, item);
        const { atTicks, untilTicks } = span(item, engine, time, endSeconds);
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
  const hearing = heard !== null;
  useEffect(() => {
    if (!hearing) return;
    let played = engine.getState().playing;
    return engine.subscribe(() => {
      const { playing, loading } = engine.getState();
      if (played && !playing && !loading) setHeard(null);
      played ||= playing;
    });
  }, [engine, hearing]);
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
    () => ({ itemId: heard?.item.id ?? null, atTicks: heard?.atTicks ?? null, hear, stop }),
    [heard, hear, stop],
  );
}

function triedEdit(
  song: Song,
  { item, notes, atTicks, untilTicks }: Heard,
  { upbeatBefore, ...fit }: FitWish & { upbeatBefore: boolean },
  levelDb: number,
): Edit | null {
  let made = 0;
  try {
    const into = partOfItem(song, item, 'shelf-heard', levelDb);
    const wanted = { item, ...(notes && { notes }), into, atTicks, untilTicks, fit, upbeatBefore };
    return planPutIn(song, wanted, () => `shelf-heard-${made++}`).edit;
  } catch (error) {
    if (error instanceof EditError) return null;
    throw error;
  }
}

/** From the next bar, to the end of the loop or of the song. */
function span(
  item: ShelfItem,
  engine: Engine,
  time: TimeMap,
  endSeconds: number,
): { atTicks: number; untilTicks: number } {
  const { playing, loop, loopOn } = engine.getState();
  const range = loopOn ? loop : null;
  const end = range?.endSeconds ?? endSeconds;
  const position = engine.positionSeconds();
  let atTicks = nextBarTicks(time, position + (playing ? READY_SECONDS : 0));
  if (time.secondsAt(atTicks) >= end - 0.01 || (range && position >= range.endSeconds)) {
    // Nothing would be heard any more: from the start of what is played.
    const start = range?.startSeconds ?? 0;
    atTicks = Math.round(time.ticksAt(start));
    if (!playing) engine.seek(start);
  }
  const length = itemLengthTicks(item) ?? 4 * TICKS_PER_QUARTER;
  const endTicks = Math.round(time.ticksAt(end));
  // A recording that is no loop is heard once.
  const once = item.kind === 'recording';
  return {
    atTicks,
    untilTicks: once ? atTicks : Math.max(endTicks, range ? 0 : atTicks + HEARD_TIMES * length),
  };
}

/** The first bar line at a time or after it. */
export function nextBarTicks(time: TimeMap, seconds: number): number {
  const ticks = Math.round(time.ticksAt(seconds));
  const { bar } = time.barAt(ticks);
  const start = time.barStartTicks(bar);
  return start >= ticks - 1 ? start : time.barStartTicks(bar + 1);
}
