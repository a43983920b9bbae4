import { useMemo } from 'react';
import { useQueries, useQuery } from '@tanstack/react-query';
import type { Recording } from '@plundra/contract';
import type { PeakLevel } from '@plundra/core/signal';
import { peaksQuery, recordingQuery } from './queries.ts';

/** A recording's facts and waveform; they never change, so they are fetched once. */
export function useRecording(hash: string | undefined) {
  const recording = useQuery({ ...recordingQuery(hash ?? ''), enabled: hash !== undefined });
  const peaks = useQuery({ ...peaksQuery(hash ?? ''), enabled: recording.isSuccess });
  return { recording: recording.data, peaks: peaks.data, error: recording.error ?? peaks.error };
}

/** What is known of a recording so far. */
export type KnownRecordings = (hash: string) => {
  recording: Recording | undefined;
  peaks: PeakLevel[] | undefined;
};

/**
 * The same of several, with the first error. What is returned changes only when more is known.
 * @param hashes the same array as long as they are the same
 */
export function useRecordings(hashes: readonly string[]): { known: KnownRecordings; error: Error | null } {
  const recordings = useQueries({ queries: hashes.map((hash) => recordingQuery(hash)), combine: gathered });
  const peaks = useQueries({ queries: hashes.map((hash) => peaksQuery(hash)), combine: gathered });
  const known = useMemo(() => {
    const at = new Map(hashes.map((hash, i) => [hash, i]));
    return (hash: string) => {
      const i = at.get(hash);
      return i === undefined
        ? { recording: undefined, peaks: undefined }
        : { recording: recordings.data[i], peaks: peaks.data[i] };
    };
  }, [hashes, recordings.data, peaks.data]);
  return { known, error: recordings.error ?? peaks.error };
}

const gathered = <T>(results: readonly { data: T | undefined; error: Error | null }[]) => ({
  data: results.map(({ data }) => data),
  error: results.find(({ error }) => error)?.error ?? null,
});
