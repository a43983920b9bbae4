/** Reading chords from recordings: asking for it, its progress, its result. */
import { useCallback, useEffect, useRef, useState } from 'react';
import { App } from 'antd';
import { readingTypeOf, type ReadingStatus } from '@plundra/contract';
import { api } from '../../api/client.ts';
import { listenToServer } from '../../api/events.ts';
import type { FoundChords, RecordingsToRead } from './chordSources.ts';

export interface ChordsReadingUse {
  status: ReadingStatus | null;
  read(asked: RecordingsToRead): void;
  cancel(): void;
}

export function useChordsReading(onRead: (found: FoundChords) => void): ChordsReadingUse {
  const { message } = App.useApp();
  const latest = useRef(onRead);
  useEffect(() => {
    latest.current = onRead;
  });
  const [status, setStatus] = useState<ReadingStatus | null>(null);
  const asked = useRef<RecordingsToRead | null>(null);
  const follow = useCallback(
    async (next: ReadingStatus) => {
      if (next.state === 'done') {
        try {
          if (readingTypeOf(next.id) !== 'chords' || !asked.current) return;
          const { chords, keys, keyChanges, tempo } = await api.chordsResult(next.id);
          latest.current({ tempo, ...asked.current.found, chords, keys, keyChanges });
        } catch (error) {
          void message.error(
            error instanceof Error ? error.message : 'The reading could not be fetched. Read again.',
            7,
          );
        } finally {
          // Not before: what was read before would come back for a moment.
          setStatus(null);
        }
      } else if (next.state === 'failed' || next.state === 'cancelled') {
        if (next.state === 'failed') void message.error(next.message ?? 'The reading failed. Try again.', 8);
        setStatus(null);
      } else setStatus(next);
    },
    [message],
  );
  const runningId = status?.id;
  useEffect(() => {
    if (!runningId) return;
    let over = false;
    const hear = (next: ReadingStatus) => {
      if (over || next.id !== runningId) return;
      over = ['done', 'failed', 'cancelled'].includes(next.state);
      void follow(next);
    };
    const ask = () => api.readingStatus(runningId).then(hear, () => setStatus(null));
    void ask();
    const stop = listenToServer(
      (event) => event.type === 'reading' && hear(event.status),
      () => void ask(),
    );
    return () => {
      over = true;
      stop();
    };
  }, [runningId, follow]);
  const read = useCallback(
    (wanted: RecordingsToRead) => {
      asked.current = wanted;
      const { request } = wanted;
      setStatus({ id: '', recordingHash: request.recordingHash, state: 'waiting', progress: 0 });
      api.startReading(request).then(
        (started) => void follow(started),
        (error: Error) => {
          setStatus(null);
          void message.error(error.message, 7);
        },
      );
    },
    [follow, message],
  );
  const cancel = useCallback(() => {
    if (status?.id) void api.cancelReading(status.id);
  }, [status]);
  return { status, read, cancel };
}
