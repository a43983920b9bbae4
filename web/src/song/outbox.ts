/**
 * Steps that are not saved yet, in the browser's own database: they outlive the window they were made in. Each is marked
 * with its window; a window that lives holds a lock of its name, so what belongs to none is taken over by the next page
 * that opens. Sending a step twice is harmless, the server knows it by its request.
 */
import { openDB, type DBSchema, type IDBPDatabase } from 'idb';
import type { StepKeeper, WaitingStep } from './songSession.ts';

interface KeptStep extends WaitingStep {
  /** Given by the database, in the order of keeping. */
  order?: number;
  songId: string;
  windowId: string;
}

interface Outbox extends DBSchema {
  steps: { key: number; value: KeptStep; indexes: { requestId: string } };
}

const windowId = crypto.randomUUID();
const lockOf = (id: string) => `plundra-window-${id}`;

let opened: Promise<IDBPDatabase<Outbox> | undefined> | undefined;
let works = true;
const listeners = new Set<() => void>();

function database(): Promise<IDBPDatabase<Outbox> | undefined> {
  opened ??= openDB<Outbox>('plundra', 1, {
    upgrade(made) {
      const steps = made.createObjectStore('steps', { keyPath: 'order', autoIncrement: true });
      steps.createIndex('requestId', 'requestId', { unique: true });
    },
  }).catch(() => {
    failed();
    return undefined;
  });
  return opened;
}

/** Steps live on in this window only; who shows that is told. */
function failed(): void {
  works = false;
  listeners.forEach((listener) => listener());
}

/** Whether steps that are not saved would outlive the window. */
export const outboxWorks = {
  get: (): boolean => works,
  subscribe: (listener: () => void): (() => void) => {
    listeners.add(listener);
    return () => listeners.delete(listener);
  },
};

/** One after the other, so that what is dropped was kept before. */
let turn: Promise<unknown> = Promise.resolve();
function inTurn(work: (steps: IDBPDatabase<Outbox>) => Promise<unknown>): void {
  turn = turn.then(async () => {
    try {
      const open = await database();
      if (open) await work(open);
    } catch {
      failed();
    }
  });
}

export const outbox: StepKeeper = {
  keep: (songId, { requestId, step }) =>
    inTurn((open) => open.add('steps', { songId, windowId, requestId, step })),
  drop(requestIds) {
    if (requestIds.length === 0) return;
    inTurn(async (open) => {
      const change = open.transaction('steps', 'readwrite');
      for (const requestId of requestIds) {
        const order = await change.store.index('requestId').getKey(requestId);
        if (order !== undefined) await change.store.delete(order);
      }
      await change.done;
    });
  },
};

/** Marks this window as living for as long as it does. */
export function holdWindow(): void {
  void navigator.locks?.request(lockOf(windowId), () => new Promise(() => undefined)).catch(() => undefined);
}

/** Takes over the steps of windows that live no more, by song and in their order; of one song only, where one is named. */
export async function claimSteps(songId?: string): Promise<Map<string, WaitingStep[]>> {
  const claimed = new Map<string, WaitingStep[]>();
  try {
    const open = await database();
    if (!open) return claimed;
    const living = await livingWindows();
    const change = open.transaction('steps', 'readwrite');
    for (const kept of await change.store.getAll()) {
      if ((songId !== undefined && kept.songId !== songId) || living.has(kept.windowId)) continue;
      await change.store.put({ ...kept, windowId });
      const { requestId, step } = kept;
      claimed.set(kept.songId, [...(claimed.get(kept.songId) ?? []), { requestId, step }]);
    }
    await change.done;
  } catch {
    failed();
  }
  return claimed;
}

/** Windows that hold their lock. Where locks are not known only this one: a step that is sent twice is taken once. */
async function livingWindows(): Promise<Set<string>> {
  const held = (await navigator.locks?.query())?.held ?? [];
  const prefix = lockOf('');
  const names = held.flatMap(({ name }) => (name?.startsWith(prefix) ? [name.slice(prefix.length)] : []));
  return new Set([...names, windowId]);
}
