/**
 * Blocks of takes that have not reached the server, in the browser's own database: they outlive the page. Where the browser
 * keeps nothing for this address they live as long as the page.
 */
import { openDB, type DBSchema, type IDBPDatabase } from 'idb';
import type { TakeBeginning } from '@plundra/contract';

export interface TakeBlock {
  takeId: string;
  fromFrame: number;
  bytes: Uint8Array<ArrayBuffer>;
}

export interface BlockStore {
  begin(take: TakeBeginning): Promise<void>;
  put(block: TakeBlock): Promise<void>;
  get(takeId: string, fromFrame: number): Promise<TakeBlock | undefined>;
  remove(takeId: string, fromFrame: number): Promise<void>;
  takes(): Promise<TakeBeginning[]>;
  /** Those of a take that have not been removed, in their order. */
  blocks(takeId: string): Promise<number[]>;
  forget(takeId: string): Promise<void>;
}

interface Kept extends DBSchema {
  takes: { key: string; value: TakeBeginning };
  blocks: { key: [string, number]; value: TakeBlock };
}

const ofTake = (takeId: string) => IDBKeyRange.bound([takeId, 0], [takeId, Infinity]);

function inDatabase(database: IDBPDatabase<Kept>): BlockStore {
  return {
    begin: async (take) => void (await database.put('takes', take)),
    put: async (block) => void (await database.put('blocks', block)),
    get: (takeId, fromFrame) => database.get('blocks', [takeId, fromFrame]),
    remove: (takeId, fromFrame) => database.delete('blocks', [takeId, fromFrame]),
    takes: () => database.getAll('takes'),
    blocks: async (takeId) =>
      (await database.getAllKeys('blocks', ofTake(takeId))).map(([, fromFrame]) => fromFrame),
    async forget(takeId) {
      await database.delete('blocks', ofTake(takeId));
      await database.delete('takes', takeId);
    },
  };
}

/** For browsers that keep nothing, and for tests. */
export function inMemory(): BlockStore {
  const takes = new Map<string, TakeBeginning>();
  const blocks = new Map<string, TakeBlock>();
  const keyOf = (takeId: string, fromFrame: number) => `${takeId} ${fromFrame}`;
  const of = (takeId: string) => [...blocks.values()].filter((block) => block.takeId === takeId);
  return {
    begin: async (take) => void takes.set(take.id, take),
    put: async (block) => void blocks.set(keyOf(block.takeId, block.fromFrame), block),
    get: async (takeId, fromFrame) => blocks.get(keyOf(takeId, fromFrame)),
    remove: async (takeId, fromFrame) => void blocks.delete(keyOf(takeId, fromFrame)),
    takes: async () => [...takes.values()],
    blocks: async (takeId) =>
      of(takeId)
        .map(({ fromFrame }) => fromFrame)
        .sort((a, b) => a - b),
    async forget(takeId) {
      for (const { fromFrame } of of(takeId)) blocks.delete(keyOf(takeId, fromFrame));
      takes.delete(takeId);
    },
  };
}

let opened: Promise<BlockStore> | undefined;

export function openBlockStore(): Promise<BlockStore> {
  opened ??= (async () =>
    inDatabase(
      await openDB<Kept>('plundra-takes', 1, {
        upgrade(made) {
          made.createObjectStore('takes', { keyPath: 'id' });
          made.createObjectStore('blocks', { keyPath: ['takeId', 'fromFrame'] });
        },
      }),
    ))().catch(() => inMemory());
  return opened;
}
