import type { Readable } from 'node:stream';
import type { Recording } from '@plundra/contract';
import type { Pool } from '../readings/pool.ts';
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
    const result = await pool.run<InspectionResult>({ task: 'inspect', path });
    if (!result.ok) throw new Problem(422, result.code, result.message);
    return result.inspection;
  });
}
