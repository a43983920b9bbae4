/** Takes that were being recorded when a page or the server stopped: sent to the end, and offered when the song is opened. */
import { useEffect } from 'react';
import { App, Button, Space } from 'antd';
import type { UnfinishedTake } from '@plundra/contract';
import { api } from '../../api/client.ts';
import type { SongSession } from '../songSession.ts';
import { isHeld } from './recorder.ts';
import { openBlockStore } from './takeBlocks.ts';
import { sendLeftBlocks } from './takeStream.ts';
import { useKeepTake } from './useRecorder.tsx';

/** A take that something arrived for so lately may still be recorded elsewhere. */
const AT_REST_SECONDS = 4;

export function useUnfinishedTakes(session: SongSession): void {
  const { notification, modal, message } = App.useApp();
  const keep = useKeepTake(session);
  useEffect(() => {
    let closed = false;
    let timer: ReturnType<typeof setTimeout> | undefined;
    const offered = new Set<string>();
    const audio = new Audio();
    const keyOf = (take: UnfinishedTake) => `unfinished-${take.id}`;

    const offer = (take: UnfinishedTake) => {
      if (offered.has(take.id)) return;
      offered.add(take.id);
      const close = () => {
        audio.pause();
        notification.destroy(keyOf(take));
      };
      const discard = () =>
        void modal.confirm({
          title: `Discard the take of ${lengthOf(take)} for ${take.name}?`,
          content: 'It was never put into a song: nothing brings it back.',
          okText: 'Discard it',
          okButtonProps: { danger: true },
          onOk: async () => {
            await api.discardTake(take.id);
            close();
          },
        });
      notification.info({
        key: keyOf(take),
        title: 'An unfinished take was found',
        description: `${lengthOf(take)} for ${take.name}, recorded ${new Date(take.startedAt).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' })}. Recording stopped before it could be put into the song.`,
        duration: 0,
        actions: (
          <Space>
            <Button size="small" onClick={() => listen(take)}>
              Listen
            </Button>
            <Button size="small" onClick={discard}>
              Discard
            </Button>
            <Button
              size="small"
              type="primary"
              onClick={() => {
                close();
                void keep(take);
              }}
            >
              Keep
            </Button>
          </Space>
        ),
        onClose: () => audio.pause(),
      });
    };

    const listen = (take: UnfinishedTake) => {
      if (!audio.paused) return audio.pause();
      audio.src = api.takeSoundPath(take.id);
      audio.play().catch(() => void message.warning('This take cannot be played just now. Try again.', 5));
    };

    const look = async (): Promise<void> => {
      const store = await openBlockStore();
      const held = new Map(
        await Promise.all((await store.takes()).map(async ({ id }) => [id, await isHeld(id)] as const)),
      );
      await sendLeftBlocks(store, api, ({ id, songId }) => songId === session.songId && !held.get(id));
      const takes = await api.unfinishedTakes(session.songId);
      let again = false;
      for (const take of takes) {
        if (closed) return;
        if ((await isHeld(take.id)) || take.frames === 0) continue;
        if (take.idleSeconds < AT_REST_SECONDS) again = true;
        else offer(take);
      }
      if (again && !closed) later();
    };
    const later = () => {
      timer = setTimeout(() => void look().catch(later), AT_REST_SECONDS * 1000);
    };
    void look().catch(later);
    return () => {
      closed = true;
      clearTimeout(timer);
      audio.pause();
      for (const id of offered) notification.destroy(`unfinished-${id}`);
    };
  }, [session, keep, notification, modal, message]);
}

/** "0:42" */
function lengthOf({ frames, sampleRateHz }: UnfinishedTake): string {
  const seconds = Math.round(frames / sampleRateHz);
  return `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, '0')}`;
}
