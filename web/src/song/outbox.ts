/**
 * Steps that are not saved yet, in the browser's own database: they outlive the window they were made in. Each is marked
 * with its window; a window that lives holds a lock of its name, so what belongs to none is taken over by the next page
 * that opens. Sending a step twice is harmless, the server knows it by its request.
 *
 * The database writes behind what happens. A page that goes therefore also leaves a note of what waits in the browser's
 * small storage, which is written at once.
 */
import { openDB, type DBSchema, type IDBPDatabase } from 'idb';
import type { StepStore, WaitingStep } from './sessionTypes.ts';
import { browserMemory, windowMemory } from './storage.ts';

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
  opened ??= open().catch(() => {
    failed();
    return undefined;
  });
  return opened;
}

/** Rejects also where there is no database at all. */
const open = async () =>
  openDB<Outbox>('plundra', 1, {
    upgrade(made) {
      const steps = made.createObjectStore('steps', { keyPath: 'order', autoIncrement: true });
      steps.createIndex('requestId', 'requestId', { unique: true });
    },
  });

/** Steps are kept in this window only; listeners are told. */
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

let ready: IDBPDatabase<Outbox> | undefined;
void database().then((open) => (ready = open));

/** At once where the database is open; its transactions keep the order in which they were begun. */
function write(work: (steps: IDBPDatabase<Outbox>) => Promise<unknown>): void {
  const run = (open: IDBPDatabase<Outbox> | undefined) => open && work(open).catch(failed);
  if (ready) void run(ready);
  else void database().then(run);
}

export const outbox: StepStore = {
  keep: (songId, { requestId, step }) =>
    write((open) => open.add('steps', { songId, windowId, requestId, step })),
  drop(requestIds) {
    if (requestIds.length === 0) return;
    write(async (open) => {
      const change = open.transaction('steps', 'readwrite');
      for (const requestId of requestIds) {
        const order = await change.store.index('requestId').getKey(requestId);
        if (order !== undefined) await change.store.delete(order);
      }
      await change.done;
    });
  },
};

const NOTE = 'plundra.left.';

/** What waits as this page goes; nothing where nothing does. */
export function leaveNote(waiting: ReadonlyMap<string, readonly WaitingStep[]>): void {
  const note = waiting.size > 0 ? JSON.stringify([...waiting]) : null;
  browserMemory.write(NOTE + windowId, note);
}

/** Where the first release kept the waiting steps of a song, in the storage of its window. */
const FIRST_NOTE = 'plundra.unsaved.';

function collectFirstNotes(): [string, WaitingStep[]][] {
  return windowMemory.keys(FIRST_NOTE).flatMap((key): [string, WaitingStep[]][] => {
    const note = windowMemory.read(key);
    windowMemory.write(key, null);
    try {
      return [[key.slice(FIRST_NOTE.length), JSON.parse(note ?? '[]') as WaitingStep[]]];
    } catch {
      return [];
    }
  });
}

/** Notes of windows that live no more. */
function collectNotes(living: ReadonlySet<string>): [string, WaitingStep[]][] {
  return browserMemory.keys(NOTE).flatMap((key) => {
    if (living.has(key.slice(NOTE.length))) return [];
    const note = browserMemory.read(key);
    browserMemory.write(key, null);
    try {
      return JSON.parse(note ?? '[]') as [string, WaitingStep[]][];
    } catch {
      return [];
    }
  });
}

/** Marks this window as living for as long as it does. */
export function holdWindow(): void {
  void navigator.locks?.request(lockOf(windowId), () => new Promise(() => undefined)).catch(() => undefined);
}

/** Takes over the steps of windows that live no more, by song and in their order. */
export async function claimSteps(): Promise<Map<string, WaitingStep[]>> {
  const claimed = new Map<string, WaitingStep[]>();
  const claim = (songId: string, steps: readonly WaitingStep[]) => {
    const before = claimed.get(songId) ?? [];
    const known = new Set(before.map(({ requestId }) => requestId));
    claimed.set(songId, [...before, ...steps.filter(({ requestId }) => !known.has(requestId))]);
  };
  const living = await livingWindows();
  const open = await database();
  try {
    const change = open?.transaction('steps', 'readwrite');
    for (const kept of (await change?.store.getAll()) ?? []) {
      if (living.has(kept.windowId)) {
        if (kept.windowId !== windowId) watch(kept.windowId);
        continue;
      }
      await change!.store.put({ ...kept, windowId });
      claim(kept.songId, [{ requestId: kept.requestId, step: kept.step }]);
    }
    await change?.done;
  } catch {
    failed();
  }
  // A note holds all that waited; what the database did not get any more goes into it now.
  for (const [songId, steps] of [...collectFirstNotes(), ...collectNotes(living)]) {
    const known = new Set(claimed.get(songId)?.map(({ requestId }) => requestId));
    for (const step of steps) if (!known.has(step.requestId)) outbox.keep(songId, step);
    claim(songId, steps);
  }
  return claimed;
}

const watched = new Set<string>();
const endListeners = new Set<() => void>();

/** A window may only just be closing: its lock is free once it is gone. */
function watch(other: string): void {
  if (watched.has(other)) return;
  watched.add(other);
  void navigator.locks
    .request(lockOf(other), () => {
      watched.delete(other);
      endListeners.forEach((listener) => listener());
    })
    .catch(() => undefined);
}

/** Hears when a window ends that had steps waiting. */
export function onWindowEnd(listener: () => void): void {
  endListeners.add(listener);
}

/** Windows that hold their lock. Where locks are not known only this one: a step that is sent twice is taken once. */
async function livingWindows(): Promise<Set<string>> {
  const held = (await navigator.locks?.query().catch(() => undefined))?.held ?? [];
  const prefix = lockOf('');
  const names = held.flatMap(({ name }) => (name?.startsWith(prefix) ? [name.slice(prefix.length)] : []));
  return new Set([...names, windowId]);
}
