import { availableParallelism } from 'node:os';
import { Piscina } from 'piscina';
import type { PoolTask } from './pool.worker.ts';

/** Runs tasks in worker threads; one core stays free for answering. */
export interface Pool {
  run<T>(task: PoolTask, signal?: AbortSignal): Promise<T>;
  close(): Promise<void>;
}

export function createPool(): Pool {
  const fromSource = import.meta.url.endsWith('.ts');
  const piscina = new Piscina({
    filename: new URL(`./pool.worker.${fromSource ? 'ts' : 'js'}`, import.meta.url).href,
    minThreads: 0,
    maxThreads: Math.max(1, availableParallelism() - 1),
    idleTimeout: 30_000,
    ...(fromSource && { execArgv: ['--import', 'tsx'] }),
  });
  return {
    run: (task, signal) =>
      piscina.run(task, {
        ...(signal && { signal }),
        ...('port' in task && { transferList: [task.port] }),
      }),
    close: () => piscina.destroy(),
  };
}
