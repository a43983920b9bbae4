/** Putting an item into the open song, and saying where it went. */
import { useCallback } from 'react';
import { App, Button } from 'antd';
import { useQueryClient } from '@tanstack/react-query';
import { planPutIn, takesItem, type PutInPlan, type ShelfItem } from '@plundra/core/shelf';
import { EditError, type PassagePlace } from '@plundra/core/song';
import { useSong } from '../../song/SongContext.tsx';
import { partOfItem } from './partOfItem.ts';
import type { PutInWish } from './PutInFields.tsx';
import { notesOfItem } from './useShelf.ts';

const createId = () => crypto.randomUUID();

export function usePutIn(
  levelDb: number,
  /** Shown where it went at once, or offered to be. */
  show: (places: readonly PassagePlace[]) => void,
  shows: 'at once' | 'when asked',
) {
  const { song, time, apply } = useSong();
  const { message } = App.useApp();
  const queries = useQueryClient();
  return useCallback(
    async (item: ShelfItem, wish: PutInWish, atTicks: number): Promise<void> => {
      try {
        const notes = await notesOfItem(queries, item);
        const chosen = song.parts.find(({ id }) => id === wish.partId);
        const into = chosen && takesItem(chosen, item) ? chosen : partOfItem(song, item, createId(), levelDb);
        const wanted = {
          item,
          ...(notes && { notes }),
          into,
          atTicks,
          ...(wish.untilBar !== null && { untilTicks: time.barStartTicks(wish.untilBar) }),
          fit: { key: wish.key, tempo: wish.tempo },
          upbeatBefore: wish.upbeatBefore,
        };
        const plan: PutInPlan = planPutIn(song, wanted, createId);
        if (!apply(`Put in ${item.name}`.slice(0, 200), plan.edit)) return;
        if (shows === 'at once') show(plan.places);
        const from = time.barAt(atTicks).bar;
        const to = Math.max(from, time.barAt(Math.max(0, plan.endTicks - 1)).bar);
        const key = `put-in-${item.id}`;
        void message.success({
          key,
          duration: 5,
          content: (
            <>
              “{item.name}” is in {into === chosen ? into.name : 'a part of its own'},{' '}
              {from === to ? `bar ${from}` : `bars ${from}–${to}`}.
              {shows === 'when asked' && (
                <Button
                  type="link"
                  size="small"
                  onClick={() => {
                    message.destroy(key);
                    show(plan.places);
                  }}
                >
                  Show it
                </Button>
              )}
            </>
          ),
        });
      } catch (error) {
        const text = error instanceof Error ? error.message : 'It could not be put in. Try again.';
        void message[error instanceof EditError ? 'warning' : 'error'](text, 7);
      }
    },
    [song, time, apply, message, queries, levelDb, show, shows],
  );
}
