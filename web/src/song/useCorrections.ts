/** Corrected lines of the open song as sound. */
import { useEffect, useState } from 'react';
import { useQueryClient, type QueryClient } from '@tanstack/react-query';
import { type CorrectedTake, type CorrectionSpec } from '@plundra/core/retune';
import { melodyLineOf, type Song } from '@plundra/core/song';
import { specOfTake, takesAsRecorded, warpedSources } from '../audio/soundSources.ts';
import { Corrections, type CorrectionRequest } from '../audio/corrections.ts';
import type { Engine } from '../audio/engine.ts';
import { afterPaint } from './afterPaint.ts';
import { contourOf, readingQuery } from './queries.ts';

const worker = () => new Worker(new URL('../audio/retuneWorker.ts', import.meta.url), { type: 'module' });

/**
 * All corrections of a song for sounds of another sample rate, when they can be heard. Whoever asked closes them when all has
 * been heard: passages at a speed of their own are made as they play.
 */
export async function readyCorrections(
  song: Song,
  queries: QueryClient,
  decoded: (hash: string) => Promise<AudioBuffer | undefined>,
  signal: AbortSignal,
): Promise<Corrections> {
  let failed: string | undefined;
  const contour = async (readingId: string) => contourOf(await queries.fetchQuery(readingQuery(readingId)));
  const made = new Corrections({ decoded, contour, problem: (message) => (failed = message), worker });
  await new Promise<void>((resolve) => {
    const look = () => {
      if (made.progress() === null) resolve();
    };
    signal.addEventListener('abort', () => resolve());
    made.subscribe(look);
    made.want(requestsOf(song, null));
    look();
  });
  if (failed === undefined) return made;
  made.close();
  throw new Error(failed);
}

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
        worker,
      }),
  );
  const { parts, tempoMap, metreMap } = song;
  // Going through all notes must not hold up the picture of an edit.
  useEffect(
    () => afterPaint(() => made.want(requestsOf({ parts, tempoMap, metreMap }, openPartId))),
    [made, parts, tempoMap, metreMap, openPartId],
  );
  useEffect(() => () => made.close(), [made]);
  return made;
}

type Sounding = Pick<Song, 'parts' | 'tempoMap' | 'metreMap'>;

/** What has to be made for a song to be heard. */
export function requestsOf(song: Sounding, openPartId: string | null): CorrectionRequest[] {
  const ofTakes = song.parts.flatMap((part) =>
    part.kind !== 'recording'
      ? []
      : takesAsRecorded(part).flatMap((take) => {
          const spec = specOfTake(take);
          // The line of the open part is measured beforehand.
          const first = melodyLineOf(take) && part.id === openPartId ? NO_NOTES : null;
          if (!spec && !first) return [];
          return [requestOf(`${part.id}/${take.takeId}`, take, spec ?? first)];
        }),
  );
  const warped = warpedSources(song).map(({ key, take, warp }) => ({
    ...requestOf(key, take, specOfTake(take)),
    warp,
  }));
  return [...ofTakes, ...warped];
}

const requestOf = (key: string, take: CorrectedTake, spec: CorrectionSpec | null): CorrectionRequest => ({
  key,
  hash: take.recordingHash,
  readingId: spec ? melodyLineOf(take)?.readingId : undefined,
  spec,
});

const NO_NOTES: CorrectionSpec = { as: 'notes', notes: [], formantSemitones: 0 };
