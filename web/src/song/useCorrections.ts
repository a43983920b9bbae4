/** Corrected lines of the open song as sound. */
import { useEffect, useState, useSyncExternalStore } from 'react';
import { useQueryClient } from '@tanstack/react-query';
import { correctedNotes, isCorrected } from '@plundra/core/retune';
import type { Line, Song } from '@plundra/core/song';
import { api } from '../api/client.ts';
import { Corrections, type Correction, type CorrectionWish } from '../audio/corrections.ts';
import type { Engine } from '../audio/engine.ts';
import { contourOf } from '../places/line/useReading.ts';

export function useCorrections(
  song: Song,
  engine: Engine,
  problem: (message: string) => void,
  /** The part whose first correction should be heard at once. */
  openPartId: string | null,
): ReadonlyMap<string, Correction> {
  const queries = useQueryClient();
  const [corrections] = useState(
    () =>
      new Corrections({
        decoded: (hash, durationSeconds) => engine.decoded(hash, durationSeconds),
        contour: async (readingId) =>
          contourOf(
            await queries.fetchQuery({
              queryKey: ['reading', readingId],
              queryFn: () => api.readingResult(readingId),
              staleTime: Infinity,
            }),
          ),
        problem,
      }),
  );
  const { parts } = song;
  useEffect(() => corrections.want(wishesOf(parts, openPartId)), [corrections, parts, openPartId]);
  useEffect(() => () => corrections.close(), [corrections]);
  return useSyncExternalStore(corrections.subscribe, corrections.get);
}

/** The same line gives the same notes; only a line that changed is gone through again. */
const notesOfLine = new WeakMap<Line, CorrectionWish['notes'] | null>();

function wishesOf(parts: Song['parts'], openPartId: string | null): CorrectionWish[] {
  return parts.flatMap((part) =>
    part.kind !== 'recording'
      ? []
      : part.passages.flatMap((passage) => {
          const { line } = passage;
          if (!line) return [];
          let notes = notesOfLine.get(line);
          if (notes === undefined) {
            notes = isCorrected(line) ? correctedNotes(line) : null;
            notesOfLine.set(line, notes);
          }
          if (!notes && part.id !== openPartId) return [];
          return [
            {
              key: `${part.id}/${passage.id}`,
              hash: passage.recordingHash,
              durationSeconds: passage.offsetSeconds + passage.durationSeconds,
              readingId: line.readingId,
              notes: notes ?? [],
              formantSemitones: line.formantSemitones ?? 0,
            },
          ];
        }),
  );
}
