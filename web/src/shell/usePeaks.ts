import { useQuery } from '@tanstack/react-query';
import { api } from '../api/client.ts';

/** A recording's facts and waveform; they never change, so they are fetched once. */
export function useRecording(hash: string | undefined) {
  const recording = useQuery({
    queryKey: ['recording', hash],
    queryFn: () => api.recording(hash!),
    enabled: hash !== undefined,
    staleTime: Infinity,
  });
  const peaks = useQuery({
    queryKey: ['peaks', hash],
    queryFn: () => api.peaks(hash!),
    enabled: recording.isSuccess,
    staleTime: Infinity,
  });
  return { recording: recording.data, peaks: peaks.data, error: recording.error ?? peaks.error };
}
