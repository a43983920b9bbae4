import { availableParallelism } from 'node:os';
import { extname } from 'node:path';
import { Piscina } from 'piscina';
import { createLane, type LaneOptions } from './lanes.ts';
import type { PoolTask } from './pool.worker.ts';

/** Runs tasks in worker threads: readings in one lane, imports and corrected sound in another. */
export interface Pool {
  run<T>(task: PoolTask, options?: PoolOptions): Promise<T>;
  close(): Promise<void>;
}

export interface PoolOptions extends LaneOptions {
  /** A task that runs longer is stopped, and rejects with {@link TooSlow}. */
  mostSeconds?: number;
}

export class TooSlow extends Error {
  override name = 'TooSlow';
}

/** Two at least, so that nothing waits for one long reading. */
const READINGS = Math.max(2, availableParallelism() - 1);
const OTHERS = 2;
/** A stopped thread still counts for a moment; a new job must not wait for it. */
const SPARE = 4;

/** @param program what the threads run; the one that stands beside this file unless told otherwise */
export function createPool(
  program = new URL(`./pool.worker${extname(import.meta.url)}`, import.meta.url),
): Pool {
  const fromSource = extname(program.pathname) === '.ts';
  const piscina = new Piscina({
    filename: program.href,
    minThreads: 0,
    maxThreads: READINGS + OTHERS + SPARE,
    idleTimeout: 30_000,
    ...(fromSource && { execArgv: ['--import', 'tsx'] }),
  });
  const lanes = { read: createLane(READINGS), other: createLane(OTHERS) };
  return {
    run: (task, { mostSeconds, ...options } = {}) =>
      lanes[task.task === 'read' ? 'read' : 'other'].run(async () => {
        const clock =
          mostSeconds === undefined ? undefined : AbortSignal.timeout(Math.ceil(mostSeconds * 1000));
        const signals = [options.signal, clock].filter((signal) => signal !== undefined);
        try {
          return await piscina.run(task, {
            ...(signals.length > 0 && { signal: AbortSignal.any(signals) }),
            ...('port' in task && { transferList: [task.port] }),
          });
        } catch (error) {
          throw clock?.aborted && !options.signal?.aborted ? new TooSlow() : error;
        }
      }, options),
    close: () => piscina.destroy(),
  };
}
