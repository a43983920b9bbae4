/** Corrected lines of the open song as sound. */
import { useEffect, useState } from 'react';
import { useQueryClient } from '@tanstack/react-query';
import { correctionSpecOf, type CorrectionSpec } from '@plundra/core/retune';
import { melodyLineOf, type RecordingPassage, type Song } from '@plundra/core/song';
import { Corrections, type CorrectionRequest } from '../audio/corrections.ts';
import type { Engine } from '../audio/engine.ts';
import { afterPaint } from './afterPaint.ts';
import { contourOf, readingQuery } from './queries.ts';

export function useCorrections(
  song: Song,
  engine: Engine,
  problem: (message: string) => void,
  /** The part whose first correction should be heard at once. */
  openPartId: string | null,
): Corrections {
  const queries = useQueryClient();
  const [made] = useState(
    () =>
      new Corrections({
        decoded: (hash) => engine.decoded(hash),
        contour: async (readingId) => contourOf(await queries.fetchQuery(readingQuery(readingId))),
        problem,
        worker: () => new Worker(new URL('../audio/retuneWorker.ts', import.meta.url), { type: 'module' }),
      }),
  );
  const { parts } = song;
  // Going through all notes must not hold up the picture of an edit.
  useEffect(() => afterPaint(() => made.want(requestsOf(parts, openPartId))), [made, parts, openPartId]);
  useEffect(() => () => made.close(), [made]);
  return made;
}

/** The same passage asks for the same; only one that changed is gone through again. */
const known = new WeakMap<RecordingPassage, CorrectionSpec | null>();

function requestsOf(parts: Song['parts'], openPartId: string | null): CorrectionRequest[] {
  return parts.flatMap((part) =>
    part.kind !== 'recording'
      ? []
      : part.passages.flatMap((passage) => {
          let spec = known.get(passage);
          if (spec === undefined) {
            spec = correctionSpecOf(passage);
            known.set(passage, spec);
          }
          // The line of the open part is measured beforehand.
          const melody = melodyLineOf(passage);
          const first = melody && part.id === openPartId ? NO_NOTES : null;
          if (!spec && !first) return [];
          return [
            {
              key: `${part.id}/${passage.id}`,
              hash: passage.recordingHash,
              readingId: melody?.readingId,
              spec: spec ?? first!,
            },
          ];
        }),
  );
}

const NO_NOTES: CorrectionSpec = { as: 'notes', notes: [], formantSemitones: 0 };
