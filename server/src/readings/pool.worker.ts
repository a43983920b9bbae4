/** Tasks of the worker pool: looking into a sound file, reading it, and writing it with corrections. */
import { mkdir, rename, writeFile } from 'node:fs/promises';
import { dirname } from 'node:path';
import type { MessagePort } from 'node:worker_threads';
import { AudioFormatError } from '@plundra/core/formats';
import type { ReadingRequest } from '@plundra/contract';
import { inspect } from '../recordings/inspect.ts';
import { writeCorrectedSound, type CorrectedSoundTask } from '../recordings/correctedSound.ts';
import { loadActivations, saveActivations } from './activationsFile.ts';
import {
  judgeMaterialFile,
  notesOf,
  readActivationsFile,
  readChordsFiles,
  readHitsFile,
  readMelodyFile,
  readOnsetsFile,
  readShelfFile,
  type ActivationsPaths,
  type ChordSource,
} from './readFile.ts';

export type PoolTask =
  { task: 'inspect'; path: string } | ({ task: 'correct' } & CorrectedSoundTask) | ReadingTask;

interface ReadingTask {
  task: 'read';
  request: ReadingRequest;
  path: string;
  resultPath: string;
  /** Where the activations of a chordal recording are kept, for other sensitivities and for chords. */
  kept: ActivationsPaths;
  /** Recordings that play together with it. */
  together: ChordSource[];
  port: MessagePort;
}

/** Progress is told at most once for this share of the work. */
const PROGRESS_STEP = 0.02;

export default async function run(task: PoolTask): Promise<unknown> {
  if (task.task === 'inspect') return inspect(task.path);
  if (task.task === 'correct') return writeCorrectedSound(task);
  let told = 0;
  try {
    const tell = (share: number) => {
      if (share - told < PROGRESS_STEP) return;
      told = share;
      task.port.postMessage(share);
    };
    const result = await read(task, tell);
    // Written beside and renamed: a result is whole or not there.
    await mkdir(dirname(task.resultPath), { recursive: true });
    await writeFile(`${task.resultPath}.new`, JSON.stringify(result));
    await rename(`${task.resultPath}.new`, task.resultPath);
    return { ok: true };
  } catch (error) {
    if (error instanceof AudioFormatError) return { ok: false, message: error.message };
    throw error;
  } finally {
    task.port.close();
  }
}

async function read({ request, path, kept, together }: ReadingTask, tell: (share: number) => void) {
  switch (request.type) {
    case 'melody':
      return readMelodyFile(path, request.kind, tell);
    case 'hits':
      return readHitsFile(path, request.sensitivity, tell);
    case 'material':
      return judgeMaterialFile(path, tell);
    case 'shelf':
      return readShelfFile(path, tell);
    case 'onsets':
      return readOnsetsFile(path, tell);
    case 'chords':
      return readChordsFiles([{ path, laterSeconds: 0, kept }, ...together], tell, request);
    case 'notes': {
      const known = await loadActivations(kept.full);
      const activations = known ?? (await readActivationsFile(path, tell));
      if (!known) await saveActivations(kept.full, activations);
      return notesOf(activations, request.sensitivity);
    }
  }
}
