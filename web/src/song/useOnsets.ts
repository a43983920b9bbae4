/** The onsets of a recording, found by the server when they are first asked for. */
import { useQuery } from '@tanstack/react-query';
import type { FoundOnset } from '@plundra/core/reading';
import { api } from '../api/client.ts';

const ASK_AGAIN_MS = 250;

export interface OnsetsUse {
  found: readonly FoundOnset[] | undefined;
  error: Error | null;
  retry(): void;
}

export function useOnsets(recordingHash: string | undefined, wanted: boolean): OnsetsUse {
  const query = useQuery({
    queryKey: ['onsets', recordingHash],
    queryFn: ({ signal }) => findOnsets(recordingHash!, signal),
    enabled: wanted && recordingHash !== undefined,
    staleTime: Infinity,
    retry: false,
  });
  return { found: query.data, error: query.error, retry: () => void query.refetch() };
}

/** Leaving the step while it runs stops it. */
async function findOnsets(recordingHash: string, signal: AbortSignal): Promise<FoundOnset[]> {
  let status = await api.startReading({ recordingHash, type: 'onsets' });
  const { id } = status;
  const stop = () => void api.cancelReading(id).catch(() => undefined);
  signal.addEventListener('abort', stop, { once: true });
  try {
    while (status.state === 'waiting' || status.state === 'running') {
      await new Promise((resolve) => setTimeout(resolve, ASK_AGAIN_MS));
      signal.throwIfAborted();
      status = await api.readingStatus(id);
    }
    if (status.state !== 'done')
      throw new Error(status.message ?? 'Finding the onsets was stopped. Try again.');
    return (await api.onsetsResult(id)).onsets;
  } finally {
    signal.removeEventListener('abort', stop);
  }
}
