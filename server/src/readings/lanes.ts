/**
 * Who may work at the same time. Jobs of a kind wait in a lane of their own, so that a short one never stands behind long
 * ones; only what may start is handed to the threads. A job that is stopped, waiting or running, costs no other.
 */
export interface Lane {
  /** Runs `work` when it is its turn; rejects when `signal` stops it before. */
  run<T>(work: () => Promise<T>, options?: LaneOptions): Promise<T>;
}

export interface LaneOptions {
  signal?: AbortSignal | undefined;
  /** How many jobs are before it in the lane: told while it waits, 0 when it starts. */
  onPlace?: ((ahead: number) => void) | undefined;
}

interface Waiting {
  start(): void;
  onPlace: ((ahead: number) => void) | undefined;
}

/** `most`: how many jobs of this lane may run at once. */
export function createLane(most: number): Lane {
  const waiting: Waiting[] = [];
  let running = 0;

  const tellPlaces = () => waiting.forEach(({ onPlace }, i) => onPlace?.(running + i));
  const next = () => {
    while (running < most && waiting.length > 0) {
      running++;
      waiting.shift()!.start();
    }
    tellPlaces();
  };

  return {
    run: (work, { signal, onPlace } = {}) =>
      new Promise((resolve, reject) => {
        const stop = () => {
          const at = waiting.indexOf(job);
          if (at >= 0) waiting.splice(at, 1);
          reject(new DOMException('The job was stopped.', 'AbortError'));
          tellPlaces();
        };
        const job: Waiting = {
          onPlace,
          start() {
            signal?.removeEventListener('abort', stop);
            onPlace?.(0);
            // Also a job that fails at once ends like one.
            (async () => work())()
              .then(resolve, reject)
              .finally(() => {
                running--;
                next();
              });
          },
        };
        if (signal?.aborted) return stop();
        signal?.addEventListener('abort', stop, { once: true });
        waiting.push(job);
        next();
      }),
  };
}
