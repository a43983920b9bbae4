import { stat } from 'node:fs/promises';
import type { Readable } from 'node:stream';
import type { Recording } from '@plundra/contract';
import { TooSlow, type Pool } from '../readings/pool.ts';
import { Problem, type RecordingStore } from '../store/index.ts';
import type { InspectionResult } from './inspect.ts';

/** Stores a stream of bytes as a recording; a file that holds no sound is refused with a sentence. */
export function addRecording(
  recordings: RecordingStore,
  pool: Pool,
  bytes: Readable,
  name: string,
): Promise<Recording> {
  return recordings.add(bytes, name, async (path) => {
    const { size } = await stat(path);
    const mostSeconds = MIN_SECONDS + size / SLOWEST_BYTES_PER_SECOND;
    const result = await pool
      .run<InspectionResult>({ task: 'inspect', path }, { mostSeconds })
      .catch((error: unknown) => {
        if (!(error instanceof TooSlow)) throw error;
        throw new Problem(
          422,
          'too_slow',
          `Looking into this file took longer than ${Math.round(mostSeconds)} s, so it was given up; something in it is not as it should be. Export it as WAV and choose it again.`,
        );
      });
    if (!result.ok) throw new Problem(422, result.code, result.message);
    return result.inspection;
  });
}

/** What a slow machine needs for a file that is as it should be, several times over. */
const MIN_SECONDS = 60;
const SLOWEST_BYTES_PER_SECOND = 300_000;
