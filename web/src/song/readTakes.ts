/** Melodies of several takes read one after another, and what becomes of them as one edit. */
import type { ReadingStatus } from '@plundra/contract';
import type { MelodyKind } from '@plundra/core/reading';
import type { Material, RecordingPart, SimpleEdit, Take } from '@plundra/core/song';
import { api } from '../api/client.ts';
import { listenToServer } from '../api/events.ts';
import { lineOf, semitonesOf, withOwnIds } from './readingLines.ts';

const KIND_OF: Partial<Record<Material, MelodyKind>> = { voice: 'voice', guitar: 'guitar', bass: 'bass' };

/**
 * The edits that give each take its line. Rejects where a reading fails or is stopped.
 * @param progress 0–1, over all of them
 */
export async function readTakes(
  part: RecordingPart,
  takes: readonly Take[],
  progress: (share: number) => void,
  signal: AbortSignal,
): Promise<SimpleEdit[]> {
  const edits: SimpleEdit[] = [];
  for (const [i, take] of takes.entries()) {
    const started = await api.startReading({
      recordingHash: take.recordingHash,
      type: 'melody',
      kind: KIND_OF[part.material] ?? 'auto',
    });
    await readingDone(started, (share) => progress((i + share) / takes.length), signal);
    const line = lineOf(started.id, await api.readingResult(started.id), semitonesOf(take));
    edits.push({ type: 'line.set', partId: part.id, takeId: take.id, line: withOwnIds(line, take.id) });
    progress((i + 1) / takes.length);
  }
  return edits;
}

/** Waits for the end of a reading. */
function readingDone(
  started: ReadingStatus,
  progress: (share: number) => void,
  signal: AbortSignal,
): Promise<void> {
  return new Promise((resolve, reject) => {
    const end = (finish: () => void) => {
      stop();
      signal.removeEventListener('abort', abort);
      finish();
    };
    const hear = (status: ReadingStatus) => {
      if (status.state === 'done') end(resolve);
      else if (status.state === 'failed')
        end(() => reject(new Error(status.message ?? 'A take could not be read. Try again.')));
      else if (status.state === 'cancelled') end(() => reject(new Error('Reading was stopped.')));
      else progress(status.progress);
    };
    const ask = () => api.readingStatus(started.id).then(hear, (error: Error) => end(() => reject(error)));
    const abort = () => void api.cancelReading(started.id);
    const stop = listenToServer(
      (event) => event.type === 'reading' && event.status.id === started.id && hear(event.status),
      () => void ask(),
    );
    signal.addEventListener('abort', abort);
    if (signal.aborted) abort();
    void ask();
  });
}
