/** The recorder of an open song: its settings, its target, and what is said when something goes wrong. */
import { useCallback, useEffect, useMemo, useState, useSyncExternalStore } from 'react';
import { App, Button } from 'antd';
import { useQueryClient } from '@tanstack/react-query';
import type { Edit, Song, TimeMap } from '@plundra/core/song';
import { api } from '../../api/client.ts';
import type { Engine } from '../../audio/engine.ts';
import type { SongSession } from '../songSession.ts';
import { planKeptTake, whenSaved, type KeptTake, type StoredTake } from './keepTake.ts';
import { Recorder, type RecorderSong } from './recorder.ts';
import type { RecordingValue } from './RecordingContext.ts';
import { readSettings, writeSettings, type RecordSettings } from './recordSettings.ts';
import { openBlockStore } from './takeBlocks.ts';

interface Needs {
  session: SongSession;
  song: Song;
  time: TimeMap;
  engine: Engine;
  setTried(edit: Edit | null): void;
}

export function useRecorder({ session, song, time, engine, setTried }: Needs): RecordingValue {
  const { notification, message } = App.useApp();
  const keep = useKeepTake(session);
  const problem = useCallback(
    (title: string, description: string) => notification.error({ title, description, duration: 0 }),
    [notification],
  );
  const asked = useMemo<RecorderSong>(
    () => ({ song, time, setTried, keep, problem }),
    [song, time, setTried, keep, problem],
  );
  const [recorder] = useState(() => new Recorder(engine, asked, openBlockStore, api));
  useEffect(() => recorder.setSong(asked), [recorder, asked]);
  useEffect(() => () => recorder.close(), [recorder]);

  const [settings, setSettings] = useState(readSettings);
  const set = useCallback((change: Partial<RecordSettings>) => {
    setSettings((old) => {
      const next = { ...old, ...change };
      writeSettings(next);
      return next;
    });
  }, []);
  const [intoPartId, setInto] = useState<string | null>(null);
  const into = song.parts.find(({ id, kind }) => id === intoPartId && kind === 'recording');
  const [guidePartId, setGuide] = useState<string | null>(null);
  const [open, setOpen] = useState(false);
  const { deviceId, channels, monitor } = settings;
  useEffect(() => {
    void recorder.setReady(open, readSettings());
  }, [recorder, open, deviceId, channels]);
  useEffect(() => recorder.setMonitor(monitor), [recorder, monitor]);

  const { phase, waits } = useSyncExternalStore(recorder.subscribe, recorder.getState);
  useEffect(() => {
    const guard = (event: BeforeUnloadEvent) => phase !== 'off' && event.preventDefault();
    window.addEventListener('beforeunload', guard);
    return () => window.removeEventListener('beforeunload', guard);
  }, [phase]);
  useEffect(() => {
    const key = 'take-waits';
    if (!waits) return message.destroy(key);
    void message.open({
      key,
      type: 'warning',
      duration: 0,
      content: `${waits} What is recorded is kept in this browser until then.`,
    });
  }, [waits, message]);

  const count = song.parts.filter((part) => /^Recording \d+$/.test(part.name)).length;
  const plan = useMemo(
    () => ({ partId: into?.id ?? null, name: into?.name ?? `Recording ${count + 1}` }),
    [into?.id, into?.name, count],
  );
  const toggle = useCallback(() => recorder.toggle(settings, plan), [recorder, settings, plan]);
  return useMemo(
    () => ({
      recorder,
      settings,
      set,
      intoPartId: plan.partId,
      setInto,
      guidePartId,
      setGuide,
      toggle,
      open,
      setOpen,
    }),
    [recorder, settings, set, plan.partId, guidePartId, toggle, open],
  );
}

/** Puts takes that are on the server into the song; what cannot be kept now stays there, and can be kept again. */
export function useKeepTake(session: SongSession): (take: StoredTake) => Promise<KeptTake | undefined> {
  const { notification, message } = App.useApp();
  const queries = useQueryClient();
  return useMemo(() => {
    const keepTake = async (take: StoredTake): Promise<KeptTake | undefined> => {
      const key = `take-${take.id}`;
      try {
        const kept = await planKeptTake(session, take, queries);
        if (kept) {
          if (!session.apply(kept.label, kept.edit)) return undefined;
          void message.success(`${kept.label.replace(/^Record /, '').replace(/^t/, 'T')}: kept.`, 3);
          // It leaves the server's list only when the song that holds it is saved.
        }
        void whenSaved(session).then(() => api.discardTake(take.id).catch(() => undefined));
        return kept;
      } catch (error) {
        notification.error({
          key,
          title: 'The take could not be put into the song',
          description: `${error instanceof Error ? error.message : 'Something unexpected went wrong.'} It is on the server and is not lost: keep it now, or when the song is opened the next time.`,
          duration: 0,
          actions: (
            <Button
              size="small"
              type="primary"
              onClick={() => {
                notification.destroy(key);
                void keepTake(take);
              }}
            >
              Keep it now
            </Button>
          ),
        });
        return undefined;
      }
    };
    return keepTake;
  }, [session, queries, message, notification]);
}
