/** What is fetched once and never changes: readings, and what is known of recordings. */
import { queryOptions, type QueryClient } from '@tanstack/react-query';
import { melodyLineOf, placedRecordings, type Song } from '@plundra/core/song';
import type { MelodyResult } from '@plundra/contract';
import type { Contour } from '@plundra/core/reading';
import { api } from '../api/client.ts';

export const readingQuery = (readingId: string) =>
  queryOptions({
    queryKey: ['reading', readingId],
    queryFn: () => api.readingResult(readingId),
    staleTime: Infinity,
    retry: false,
  });

export const recordingQuery = (hash: string) =>
  queryOptions({ queryKey: ['recording', hash], queryFn: () => api.recording(hash), staleTime: Infinity });

export const peaksQuery = (hash: string) =>
  queryOptions({ queryKey: ['peaks', hash], queryFn: () => api.peaks(hash), staleTime: Infinity });

/** Asks for what a part of a song will show, while its place is still being painted. */
export function fetchPartAhead(client: QueryClient, song: Song, partId: string | undefined): void {
  const part = song.parts.find(({ id }) => id === partId);
  const passage = part?.kind === 'recording' ? placedRecordings(part).at(0) : undefined;
  if (!passage) return;
  const reading = melodyLineOf(passage)?.readingId;
  if (reading !== undefined) void client.prefetchQuery(readingQuery(reading));
  void client.prefetchQuery(recordingQuery(passage.recordingHash));
  void client.prefetchQuery(peaksQuery(passage.recordingHash));
}

export function contourOf({ contour }: MelodyResult): Contour {
  return {
    hopSeconds: contour.hopSeconds,
    f0Hz: Float32Array.from(contour.f0Hz),
    confidence: Float32Array.from(contour.confidence),
  };
}
