/** Corrected lines of the open song as sound. */
import { useEffect, useState, useSyncExternalStore } from 'react';
import { useQueryClient } from '@tanstack/react-query';
import { correctedNotes, isCorrected } from '@plundra/core/retune';
import { heardAt, type Line, type RecordingPassage, type Song, type Stretch } from '@plundra/core/song';
import { api } from '../api/client.ts';
import { Corrections, type Correction, type CorrectionWish } from '../audio/corrections.ts';
import type { Engine } from '../audio/engine.ts';
import type { Wanted } from '../audio/retuneWorker.ts';
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

/** The same line, or passage without one, asks for the same; only one that changed is gone through again. */
const wantedOf = new WeakMap<Line | RecordingPassage, Wanted | null>();

function wishesOf(parts: Song['parts'], openPartId: string | null): CorrectionWish[] {
  return parts.flatMap((part) =>
    part.kind !== 'recording'
      ? []
      : part.passages.flatMap((passage) => {
          const { line, stretch } = passage;
          if (!line && !stretch) return [];
          const source = line ?? passage;
          let wanted = wantedOf.get(source);
          if (wanted === undefined) {
            wanted = line ? wantedOfLine(line) : wantedOfStretch(stretch!, passage);
            wantedOf.set(source, wanted);
          }
          // The open part is measured beforehand.
          const first = line && part.id === openPartId ? NO_NOTES : null;
          if (!wanted && !first) return [];
          return [
            {
              key: `${part.id}/${passage.id}`,
              hash: passage.recordingHash,
              durationSeconds: passage.offsetSeconds + passage.durationSeconds,
              readingId: line?.readingId,
              wanted: wanted ?? first!,
            },
          ];
        }),
  );
}

const NO_NOTES: Wanted = { as: 'notes', notes: [], formantSemitones: 0 };

function wantedOfLine(line: Line): Wanted | null {
  if (!isCorrected(line)) return null;
  return { as: 'notes', notes: correctedNotes(line), formantSemitones: line.formantSemitones ?? 0 };
}

function wantedOfStretch(stretch: Stretch, passage: RecordingPassage): Wanted | null {
  const moves = stretch.onsets.some((onset) => onset.targetSeconds !== undefined);
  if (!moves && stretch.semitones === 0) return null;
  return {
    as: 'passage',
    passage: {
      onsets: stretch.onsets.map((onset) => ({
        id: onset.id,
        fromSeconds: onset.seconds,
        toSeconds: heardAt(onset),
      })),
      semitones: stretch.semitones,
      how: stretch.how,
      fromSeconds: passage.offsetSeconds,
      toSeconds: passage.offsetSeconds + passage.durationSeconds,
    },
  };
}
