import { useQuery } from '@tanstack/react-query';
import { peaksQuery, recordingQuery } from './queries.ts';

/** A recording's facts and waveform; they never change, so they are fetched once. */
export function useRecording(hash: string | undefined) {
  const recording = useQuery({ ...recordingQuery(hash ?? ''), enabled: hash !== undefined });
  const peaks = useQuery({ ...peaksQuery(hash ?? ''), enabled: recording.isSuccess });
  return { recording: recording.data, peaks: peaks.data, error: recording.error ?? peaks.error };
}
