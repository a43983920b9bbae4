/** Tasks of the worker pool: looking into a sound file, reading it, and writing it with corrections. */
import { mkdir, rename, writeFile } from 'node:fs/promises';
import { dirname } from 'node:path';
import type { MessagePort } from 'node:worker_threads';
import { AudioFormatError } from '@plundra/core/formats';
import type { MelodyKind } from '@plundra/core/reading';
import { inspect } from '../recordings/inspect.ts';
import { writeCorrectedSound, type CorrectedSoundTask } from '../recordings/correctedSound.ts';
import { readMelodyFile, readOnsetsFile } from './readFile.ts';

export type PoolTask =
  | { task: 'inspect'; path: string }
  | ({ task: 'correct' } & CorrectedSoundTask)
  | { task: 'melody' | 'onsets'; path: string; kind: MelodyKind; resultPath: string; port: MessagePort };

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
    const result =
      task.task === 'onsets'
        ? await readOnsetsFile(task.path, tell)
        : await readMelodyFile(task.path, task.kind, tell);
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
