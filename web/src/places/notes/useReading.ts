/** The reading of a recording passage: asking for it, its progress, its result, and what becomes of the line. */
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { App } from 'antd';
import { useQuery } from '@tanstack/react-query';
import { readingTypeOf, type MaterialResult, type MelodyResult, type ReadingStatus } from '@plundra/contract';
import type { Cents } from '@plundra/core/signal';
import { notesOfHits, type Contour, type MelodyKind } from '@plundra/core/reading';
import {
  melodyLineOf,
  type Line,
  type PlacedRecording,
  type SimpleEdit,
  type Take,
} from '@plundra/core/song';
import { api } from '../../api/client.ts';
import { listenToServer } from '../../api/events.ts';
import {
  lineOf,
  linesOfTakes,
  notesOfReading,
  replaceWithin,
  semitonesOf,
  type Span,
} from '../../song/readingLines.ts';
import { contourOf, readingQuery } from '../../song/queries.ts';
import { useSong } from '../../song/SongContext.tsx';
import { windowMemory } from '../../song/storage.ts';

/** What the user asks for; `material` finds out which of the others suits and then does that. */
export type ReadRequest =
  | { type: 'material' }
  | { type: 'melody'; kind: MelodyKind }
  /** Sensitivity of 0–100. */
  | { type: 'notes' | 'hits'; sensitivity: number; only?: Span };

export const FIRST_SENSITIVITY = 50;
const REQUEST_OF_MATERIAL: Record<MaterialResult['material'], ReadRequest> = {
  line: { type: 'melody', kind: 'auto' },
  chordal: { type: 'notes', sensitivity: FIRST_SENSITIVITY },
  drums: { type: 'hits', sensitivity: FIRST_SENSITIVITY },
};
const LABELS = { melody: 'Read melody', notes: 'Read notes', hits: 'Read hits' };

export interface ReadingUse {
  status: ReadingStatus | null;
  /** Why the recording was read as it was, where that was found out. */
  reason: string | null;
  /** Of a melody. */
  result: MelodyResult | undefined;
  contour: Contour | undefined;
  error: Error | null;
  read(request: ReadRequest): void;
  cancel(): void;
}

/** Remembers over a reload which take waits for which reading. */
const waitingKey = (takeId: string) => `plundra.reading.${takeId}`;

export function useReading(partId: string, passage: PlacedRecording | null): ReadingUse {
  const { apply, song } = useSong();
  const { message } = App.useApp();
  const [status, setStatus] = useState<ReadingStatus | null>(null);
  /** The reading whose result is being fetched: its end is told by the event and by the answer. */
  const finishing = useRef<string | null>(null);
  const [reason, setReason] = useState<string | null>(null);
  /** Asks for the next reading once the material is known. */
  const ask = useRef<((request: ReadRequest) => void) | null>(null);
  /** Only the notes that start in this span are replaced. */
  const span = useRef<Span | undefined>(undefined);
  const kept = useRef<readonly Take[]>([]);
  const part = song.parts.find(({ id }) => id === partId);
  const takes = part?.kind === 'recording' ? part.takes : NO_TAKES;
  useEffect(() => {
    kept.current = takes;
  }, [takes]);
  const takeId = passage?.takeId;
  const lineReadingId = melodyLineOf(passage)?.readingId;
  const result = useQuery({ ...readingQuery(lineReadingId ?? ''), enabled: lineReadingId !== undefined });

  const finish = useCallback(
    async (readingId: string) => {
      if (!takeId || finishing.current === readingId) return;
      finishing.current = readingId;
      try {
        const type = readingTypeOf(readingId);
        if (type === 'material') {
          const found = await api.materialResult(readingId);
          setReason(found.reason);
          ask.current?.(REQUEST_OF_MATERIAL[found.material]);
          return;
        }
        if (type !== 'melody' && type !== 'notes' && type !== 'hits') return;
        const lineAt = await fetchLine(readingId, type);
        windowMemory.write(waitingKey(takeId), null);
        const takes = kept.current;
        const before = takes.find(({ id }) => id === takeId);
        const edits: SimpleEdit[] =
          span.current && before?.line
            ? [
                {
                  type: 'line.notes',
                  partId,
                  takeId,
                  ...replaceWithin(
                    before.line,
                    lineAt(semitonesOf(before), before.line.tuningCents),
                    span.current,
                  ),
                },
              ]
            : linesOfTakes(takes, takeId, lineAt).map(({ id, line }) => ({
                type: 'line.set',
                partId,
                takeId: id,
                line,
              }));
        apply(
          span.current ? `${LABELS[type]} of a range` : LABELS[type],
          edits.length === 1 ? edits[0] : { type: 'batch', edits },
        );
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
    [apply, message, partId, takeId],
  );

  const follow = useCallback(
    (next: ReadingStatus) => {
      if (next.state === 'done') void finish(next.id);
      else if (next.state === 'failed' || next.state === 'cancelled') {
        if (takeId) windowMemory.write(waitingKey(takeId), null);
        if (next.state === 'failed') void message.error(next.message ?? 'The reading failed. Try again.', 8);
        setStatus(null);
      } else setStatus(next);
    },
    [finish, message, takeId],
  );

  const read = useCallback(
    (request: ReadRequest) => {
      if (!passage) return;
      setStatus({ id: '', recordingHash: passage.recordingHash, state: 'waiting', progress: 0 });
      const { only, ...what } = { only: undefined, ...request };
      span.current = only;
      api.startReading({ recordingHash: passage.recordingHash, ...what }).then(
        (started) => {
          windowMemory.write(waitingKey(passage.takeId), started.id);
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

  useEffect(() => {
    ask.current = read;
  }, [read]);

  // A reading that was asked for before a reload is taken up again.
  useEffect(() => {
    const waiting = takeId && windowMemory.read(waitingKey(takeId));
    if (!waiting) return;
    let dropped = false;
    api.readingStatus(waiting).then(
      (found) => !dropped && follow(found),
      () => windowMemory.write(waitingKey(takeId), null),
    );
    return () => {
      dropped = true;
    };
  }, [takeId, follow]);

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
  return { status, reason, result: result.data, contour, error: result.error, read, cancel };
}

const NO_TAKES: readonly Take[] = [];

/** Fetches what was read, as a line of whatever sounds so many semitones higher, in its own tuning or another. */
async function fetchLine(
  readingId: string,
  type: 'melody' | 'notes' | 'hits',
): Promise<(semitones: number, tuningCents?: Cents) => Line> {
  switch (type) {
    case 'melody': {
      const reading = await api.readingResult(readingId);
      return (semitones) => lineOf(readingId, reading, semitones);
    }
    case 'notes': {
      const reading = await api.notesResult(readingId);
      return (semitones, tuningCents) => ({
        readingId,
        reads: type,
        ...notesOfReading(reading, semitones, tuningCents),
      });
    }
    case 'hits': {
      const notes = notesOfHits((await api.hitsResult(readingId)).hits);
      const line = { readingId, reads: type, ...notesOfReading({ tuningCents: 0, notes }, 0) };
      return () => line;
    }
  }
}
