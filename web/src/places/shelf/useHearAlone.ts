/** Hearing an item by itself, as it was played: a loop goes round. */
import { useCallback, useEffect, useMemo, useState } from 'react';
import { App } from 'antd';
import { useQueryClient } from '@tanstack/react-query';
import { itemSong, type ShelfItem } from '@plundra/core/shelf';
import { createSong, createTimeMap, songEndTicks } from '@plundra/core/song';
import { Engine } from '../../audio/engine.ts';
import { tracksWhenAsked, type ListenChoice } from '../../audio/playlist.ts';
import { FIRST_CHORD_LISTENING } from '../chords/useChordHearing.ts';
import { partOfItem } from './partOfItem.ts';
import { notesOfItem } from './useShelf.ts';

export interface Hearing {
  /** The item that is heard; null: none. */
  itemId: string | null;
  /** Hears it; the one that is heard ends. */
  hear(item: ShelfItem): void;
  stop(): void;
}

const LISTEN: ListenChoice = {
  mode: 'both',
  blend: 0.5,
  focusPartId: null,
  withOthers: false,
  lineProgram: 0,
  before: false,
  againstPartId: null,
  chords: { ...FIRST_CHORD_LISTENING, how: 'off' },
};
const NOTHING_CORRECTED = new Map();

export function useHearAlone(levelDb: number): Hearing {
  const { message } = App.useApp();
  const queries = useQueryClient();
  const [engine] = useState(() => new Engine());
  const [itemId, setItemId] = useState<string | null>(null);
  useEffect(() => () => engine.close(), [engine]);
  useEffect(
    () =>
      engine.subscribe(() => {
        const { playing, loading } = engine.getState();
        if (!playing && !loading) setItemId(null);
      }),
    [engine],
  );
  const stop = useCallback(() => {
    engine.stop();
    setItemId(null);
  }, [engine]);
  const hear = useCallback(
    (item: ShelfItem) => {
      if (itemId === item.id) return stop();
      const start = async () => {
        const notes = await notesOfItem(queries, item);
        const song = itemSong(
          item,
          notes,
          partOfItem(createSong('shelf', item.name), item, 'heard', levelDb),
        );
        const time = createTimeMap(song);
        const endSeconds =
          item.sound.type === 'recording'
            ? item.sound.durationSeconds
            : time.secondsAt(Math.max(item.sound.lengthTicks, songEndTicks(song, time)));
        engine.stop();
        engine.setSources({
          tracks: tracksWhenAsked(song, LISTEN, () => NOTHING_CORRECTED),
          endSeconds: () => endSeconds,
          beats: () => [],
          countIn: () => [],
          problem: (text) => void message.warning(text, 7),
        });
        engine.setLoop(null);
        if (item.kind === 'loop') engine.setLoop({ startSeconds: 0, endSeconds });
        engine.seek(0);
        setItemId(item.id);
        await engine.play({ countInBars: 0 });
      };
      start().catch((error: unknown) => {
        setItemId(null);
        void message.error(error instanceof Error ? error.message : 'It could not be played. Try again.', 7);
      });
    },
    [itemId, stop, engine, queries, message, levelDb],
  );
  return useMemo(() => ({ itemId, hear, stop }), [itemId, hear, stop]);
}
