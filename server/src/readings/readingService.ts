/**
 * Readings as jobs: asked for by recording, settings and algorithm version, which together are the key. A key
 * that is known is answered from disk; one that is running is joined, so a reload loses nothing.
 */
import { createHash } from 'node:crypto';
import { existsSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { MessageChannel } from 'node:worker_threads';
import type { ChordsRequest, ReadingRequest, ReadingStatus } from '@plundra/contract';
import {
  CHORDAL_ALGORITHM_VERSION,
  CHORDS_ALGORITHM_VERSION,
  HIT_ALGORITHM_VERSION,
  MATERIAL_ALGORITHM_VERSION,
  MELODY_ALGORITHM_VERSION,
  ONSET_ALGORITHM_VERSION,
  SHELF_ALGORITHM_VERSION,
} from '@plundra/core/reading';
import { asStorageProblem, Problem, type DataFolder, type RecordingStore } from '../store/index.ts';
import type { Pool } from './pool.ts';
import type { ActivationsPaths } from './readFile.ts';

export interface ReadingService {
  start(request: ReadingRequest): Promise<ReadingStatus>;
  status(id: string): ReadingStatus;
  /** JSON text of the result. */
  result(id: string): Promise<string>;
  /** Where its result lies on disk. Throws for what is no id. */
  resultPath(id: string): string;
  cancel(id: string): void;
  /** Jobs that wait, run, or ended since the server started. */
  list(): ReadingStatus[];
}

interface Job {
  status: ReadingStatus;
  abort: AbortController;
}

/** Ended jobs kept for asking. */
const KEPT_JOBS = 200;

export function createReadingService(
  folder: DataFolder,
  recordings: RecordingStore,
  pool: Pool,
  announce: (status: ReadingStatus) => void,
): ReadingService {
  const jobs = new Map<string, Job>();
  const resultPath = (id: string) => join(folder.derived, 'readings', `${id}.json`);

  const activationsPaths = (recordingHash: string): ActivationsPaths => {
    const path = (what: string, version: number) =>
      join(folder.derived, 'readings', `${recordingHash}-${what}-v${version}.bin`);
    return {
      full: path('activations', CHORDAL_ALGORITHM_VERSION),
      coarse: path('coarse-activations', CHORDS_ALGORITHM_VERSION),
    };
  };

  const update = (job: Job, change: Partial<ReadingStatus>) => {
    job.status = { ...job.status, ...change };
    announce(job.status);
  };

  const run = async (job: Job, request: ReadingRequest): Promise<void> => {
    const channel = new MessageChannel();
    channel.port2.on('message', (share: number) =>
      // What is read in several goes must not seem to begin again.
      update(job, { progress: Math.max(job.status.progress, share) }),
    );
    const onPlace = (ahead: number) => {
      if (ahead > 0) update(job, { ahead });
      else update(job, { state: 'running', ahead: 0 });
    };
    try {
      const outcome = await pool.run<{ ok: boolean; message?: string }>(
        {
          task: 'read',
          request,
          path: recordings.soundPath(request.recordingHash),
          resultPath: resultPath(job.status.id),
          kept: activationsPaths(request.recordingHash),
          together: togetherOf(request).map(({ recordingHash, laterSeconds }) => ({
            path: recordings.soundPath(recordingHash),
            laterSeconds,
            kept: activationsPaths(recordingHash),
          })),
          port: channel.port1,
        },
        { signal: job.abort.signal, onPlace },
      );
      if (outcome.ok) update(job, { state: 'done', progress: 1 });
      else update(job, { state: 'failed', message: outcome.message });
    } catch (error) {
      if (job.abort.signal.aborted) update(job, { state: 'cancelled' });
      else update(job, { state: 'failed', message: failureMessage(error) });
    } finally {
      channel.port2.close();
    }
  };

  return {
    async start(request) {
      await recordings.find(request.recordingHash);
      for (const { recordingHash } of togetherOf(request)) await recordings.find(recordingHash);
      const id = readingId(request);
      const known = jobs.get(id);
      if (known && ['waiting', 'running'].includes(known.status.state)) return known.status;
      const status: ReadingStatus = {
        id,
        recordingHash: request.recordingHash,
        state: 'waiting',
        progress: 0,
      };
      if (existsSync(resultPath(id))) return { ...status, state: 'done', progress: 1 };
      const job = { status, abort: new AbortController() };
      jobs.delete(id);
      jobs.set(id, job);
      const oldest = jobs.keys().next().value;
      if (jobs.size > KEPT_JOBS && oldest !== undefined) jobs.delete(oldest);
      announce(status);
      void run(job, request);
      return status;
    },
    status(id) {
      const job = jobs.get(id);
      if (job) return job.status;
      if (!existsSync(resultPath(checkedId(id)))) throw notFound();
      return { id, recordingHash: id.slice(0, 64), state: 'done', progress: 1 };
    },
    async result(id) {
      try {
        return await readFile(resultPath(checkedId(id)), 'utf8');
      } catch {
        throw notFound();
      }
    },
    resultPath: (id) => resultPath(checkedId(id)),
    cancel(id) {
      jobs.get(id)?.abort.abort();
    },
    list: () => [...jobs.values()].map((job) => job.status),
  };
}

/** Recording, settings and algorithm version. */
function readingId(request: ReadingRequest): string {
  const { recordingHash, type } = request;
  switch (request.type) {
    case 'melody':
      return `${recordingHash}-${type}-${request.kind}-v${MELODY_ALGORITHM_VERSION}`;
    case 'onsets':
      return `${recordingHash}-${type}-auto-v${ONSET_ALGORITHM_VERSION}`;
    case 'notes':
      return `${recordingHash}-${type}-s${request.sensitivity}-v${CHORDAL_ALGORITHM_VERSION}`;
    case 'hits':
      return `${recordingHash}-${type}-s${request.sensitivity}-v${HIT_ALGORITHM_VERSION}`;
    case 'chords':
      return `${recordingHash}-${type}-${circumstancesOf(request)}-v${CHORDAL_ALGORITHM_VERSION}${CHORDS_ALGORITHM_VERSION}`;
    case 'shelf':
      // Drums have no key, so what a recording holds is part of it.
      return `${recordingHash}-${type}-auto-v${SHELF_ALGORITHM_VERSION}${MATERIAL_ALGORITHM_VERSION}`;
    case 'material':
      return `${recordingHash}-${type}-auto-v${MATERIAL_ALGORITHM_VERSION}`;
  }
}

function togetherOf(request: ReadingRequest) {
  return (request.type === 'chords' && request.together) || [];
}

/** A number that stands for the recordings it is read with, the beats it is read over and what is known of the tempo. */
function circumstancesOf(request: ChordsRequest): string {
  const { together = [], beats, nearBpm } = request;
  if (together.length === 0 && !beats && nearBpm === undefined) return 'auto';
  const text = together.map(({ recordingHash, laterSeconds }) => `${recordingHash}+${laterSeconds}`).join();
  const over = beats ? ` over ${JSON.stringify(beats)}` : '';
  const near = nearBpm === undefined ? '' : ` near ${nearBpm}`;
  const digest = createHash('sha256')
    .update(text + over + near)
    .digest('hex');
  return `with${BigInt(`0x${digest.slice(0, 20)}`)}`;
}

/** Ids become file names; nothing else may. */
function checkedId(id: string): string {
  if (!/^[0-9a-f]{64}-[a-z]+-[a-z]+\d*-v\d+$/.test(id)) throw notFound();
  return id;
}

function notFound(): Problem {
  return new Problem(
    404,
    'reading_not_found',
    'This reading is not here any more. Read the recording again.',
  );
}

function failureMessage(error: unknown): string {
  const known = asStorageProblem(error);
  if (known instanceof Problem) return known.message;
  return 'Reading this recording failed unexpectedly. Try again; if it fails again, export the sound as 16-bit WAV and import that.';
}
