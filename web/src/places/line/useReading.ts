/** The reading of a recording passage: asking for it, its progress, its result, and what becomes of the line. */
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { App } from 'antd';
import { useQuery } from '@tanstack/react-query';
import type { MelodyResult, ReadingStatus } from '@plundra/contract';
import type { Contour, MelodyKind } from '@plundra/core/reading';
import { nearestNote, type Line, type RecordingPassage } from '@plundra/core/song';
import { api } from '../../api/client.ts';
import { listenToServer } from '../../api/events.ts';
import { useSong } from '../../song/SongContext.tsx';

export interface ReadingUse {
  status: ReadingStatus | null;
  result: MelodyResult | undefined;
  contour: Contour | undefined;
  error: Error | null;
  read(kind: MelodyKind): void;
  cancel(): void;
}

/** Remembers over a reload which passage waits for which reading. */
const waitingKey = (passageId: string) => `plundra.reading.${passageId}`;

export function useReading(partId: string, passage: RecordingPassage | null): ReadingUse {
  const { apply } = useSong();
  const { message } = App.useApp();
  const [status, setStatus] = useState<ReadingStatus | null>(null);
  /** The reading whose result is being fetched: its end is told by the event and by the answer. */
  const finishing = useRef<string | null>(null);
  const passageId = passage?.id;
  const lineReadingId = passage?.line?.readingId;
  const semitones = passage?.stretch?.semitones ?? 0;
  const result = useQuery({
    queryKey: ['reading', lineReadingId],
    queryFn: () => api.readingResult(lineReadingId!),
    enabled: lineReadingId !== undefined,
    staleTime: Infinity,
    retry: false,
  });

  const finish = useCallback(
    async (readingId: string) => {
      if (!passageId || finishing.current === readingId) return;
      finishing.current = readingId;
      try {
        const reading = await api.readingResult(readingId);
        sessionStorage.removeItem(waitingKey(passageId));
        apply('Read melody', {
          type: 'line.set',
          partId,
          passageId,
          line: lineOf(readingId, reading, semitones),
        });
        setStatus(null);
      } catch (error) {
        void message.error(
          error instanceof Error ? error.message : 'The reading could not be fetched. Read again.',
          7,
        );
        setStatus(null);
      } finally {
        finishing.current = null;
      }
    },
    [apply, message, partId, passageId, semitones],
  );

  const follow = useCallback(
    (next: ReadingStatus) => {
      if (next.state === 'done') void finish(next.id);
      else if (next.state === 'failed' || next.state === 'cancelled') {
        if (passageId) sessionStorage.removeItem(waitingKey(passageId));
        if (next.state === 'failed') void message.error(next.message ?? 'The reading failed. Try again.', 8);
        setStatus(null);
      } else setStatus(next);
    },
    [finish, message, passageId],
  );

  const read = useCallback(
    (kind: MelodyKind) => {
      if (!passage) return;
      setStatus({ id: '', recordingHash: passage.recordingHash, state: 'waiting', progress: 0 });
      api.startReading({ recordingHash: passage.recordingHash, type: 'melody', kind }).then(
        (started) => {
          sessionStorage.setItem(waitingKey(passage.id), started.id);
          follow(started);
        },
        (error: Error) => {
          setStatus(null);
          void message.error(error.message, 7);
        },
      );
    },
    [passage, follow, message],
  );

  // A reading that was asked for before a reload is taken up again.
  useEffect(() => {
    const waiting = passageId && sessionStorage.getItem(waitingKey(passageId));
    if (!waiting) return;
    let dropped = false;
    api.readingStatus(waiting).then(
      (found) => !dropped && follow(found),
      () => sessionStorage.removeItem(waitingKey(passageId)),
    );
    return () => {
      dropped = true;
    };
  }, [passageId, follow]);

  const runningId = status?.id;
  useEffect(() => {
    if (!runningId) return;
    const ask = () => api.readingStatus(runningId).then(follow, () => setStatus(null));
    // It may have ended between the answer and this listening.
    void ask();
    return listenToServer(
      (event) => event.type === 'reading' && event.status.id === runningId && follow(event.status),
      () => void ask(),
    );
  }, [runningId, follow]);

  const contour = useMemo(() => result.data && contourOf(result.data), [result.data]);
  const cancel = useCallback(() => {
    if (status?.id) void api.cancelReading(status.id);
  }, [status]);
  return { status, result: result.data, contour, error: result.error, read, cancel };
}

export function contourOf({ contour }: MelodyResult): Contour {
  return {
    hopSeconds: contour.hopSeconds,
    f0Hz: Float32Array.from(contour.f0Hz),
    confidence: Float32Array.from(contour.confidence),
  };
}

/** A fresh line from a reading. A recording that was transposed as a whole stays transposed, note by note. */
export function lineOf(readingId: string, reading: MelodyResult, semitones = 0): Line {
  return {
    readingId,
    tuningCents: reading.tuningCents,
    notes: reading.notes.map((note, i) => ({
      id: `n${i + 1}`,
      ...note,
      velocity: Math.max(1, Math.round(note.velocity)),
      ...(semitones !== 0 && {
        target: { midi: nearestNote(note.midi, reading.tuningCents) + Math.round(semitones) },
      }),
    })),
  };
}
