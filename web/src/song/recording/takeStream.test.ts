import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { TakeBeginning } from '@plundra/contract';
import { ApiError } from '../../api/apiError.ts';
import { inMemory, type BlockStore } from './takeBlocks.ts';
import { sendLeftBlocks, TakeStream, type TakeServer } from './takeStream.ts';

const take: TakeBeginning = {
  id: 't',
  songId: 's',
  partId: null,
  name: 'Lead voice',
  sampleRateHz: 400,
  channels: 2,
  startedAt: '',
  startTicks: 0,
  startFrame: 0,
};
/** A quarter of a second. */
const BLOCK_FRAMES = 100;

/** A server that keeps what it gets, and is away when that is wanted. */
function fakeServer() {
  const samples: number[] = [];
  const server = {
    away: false,
    begun: 0,
    requests: [] as { from: number; frames: number }[],
    samples,
    beginTake: () => {
      if (server.away) return Promise.reject(new ApiError(0, 'unreachable', 'The server cannot be reached.'));
      server.begun++;
      return Promise.resolve({ frames: 0 });
    },
    writeTake: (_: string, from: number, bytes: Uint8Array<ArrayBuffer>) => {
      if (server.away) return Promise.reject(new ApiError(0, 'unreachable', 'The server cannot be reached.'));
      const floats = new Float32Array(bytes.buffer);
      if (2 * from > samples.length) return Promise.reject(new ApiError(409, 'take_gap', 'A gap.'));
      floats.forEach((value, i) => (samples[2 * from + i] = value));
      server.requests.push({ from, frames: floats.length / 2 });
      return Promise.resolve({ frames: samples.length / 2 });
    },
  };
  return server satisfies TakeServer;
}

/** Frame n is n in one channel and −n in the other. */
const frames = (from: number, to: number) => [
  Float32Array.from({ length: to - from }, (_, i) => from + i),
  Float32Array.from({ length: to - from }, (_, i) => -from - i),
];
const wanted = (count: number) =>
  Array.from({ length: 2 * count }, (_, i) => (i % 2 === 0 ? 1 : -1) * (i >> 1)).map((value) => value + 0);

let store: BlockStore;
let server: ReturnType<typeof fakeServer>;
beforeEach(() => {
  vi.useFakeTimers();
  store = inMemory();
  server = fakeServer();
});
afterEach(() => void vi.useRealTimers());
const settle = () => vi.advanceTimersByTimeAsync(1);

describe('a take on its way', () => {
  it('arrives in blocks of a quarter of a second, and the rest when it ends', async () => {
    const stream = new TakeStream(take, store, server);
    for (let at = 0; at < 330; at += 33) {
      stream.add(frames(at, at + 33));
      await settle();
    }
    expect(server.samples).toHaveLength(2 * 300);
    expect(stream.getState()).toEqual({ frames: 330, storedFrames: 300, waits: undefined });
    await stream.end();
    expect(server.samples.map((value) => value + 0)).toEqual(wanted(330));
    expect(server.begun).toBe(1);
    expect(await store.blocks('t')).toEqual([]);
  });

  it('fills what was missed with silence, so that what follows stays in time', async () => {
    const stream = new TakeStream(take, store, server);
    stream.add(frames(0, 50));
    stream.addGap(250);
    stream.add(frames(300, 310));
    await stream.end();
    expect(server.samples).toHaveLength(2 * 310);
    expect(server.samples[2 * 299]).toBe(0);
    expect(server.samples[2 * 300]).toBe(300);
    expect(server.samples[2 * 49]).toBe(49);
  });

  it('waits in the browser while the server is away, says so, and is sent in order afterwards', async () => {
    const stream = new TakeStream(take, store, server, 100);
    stream.add(frames(0, 150));
    await settle();
    server.away = true;
    // Longer than what is held in memory.
    for (let at = 150; at < 6000; at += 50) {
      stream.add(frames(at, at + 50));
      await settle();
    }
    expect(stream.getState().waits).toBe('The server cannot be reached.');
    expect((await store.blocks('t')).length).toBe(59);
    server.away = false;
    const ended = stream.end();
    await vi.advanceTimersByTimeAsync(500);
    await ended;
    expect(server.samples.map((value) => value + 0)).toEqual(wanted(6000));
    expect(stream.getState()).toEqual({ frames: 6000, storedFrames: 6000, waits: undefined });
    expect(await store.blocks('t')).toEqual([]);
  });

  it('is sent by the page that opens next, and only once', async () => {
    server.away = true;
    const stream = new TakeStream(take, store, server, 100);
    stream.add(frames(0, 3 * BLOCK_FRAMES));
    await settle();
    stream.stop();
    server.away = false;
    expect((await sendLeftBlocks(store, server, ({ id }) => id === 'other')).length).toBe(0);
    expect(await sendLeftBlocks(store, server, () => true)).toEqual([take]);
    expect(server.samples.map((value) => value + 0)).toEqual(wanted(300));
    expect(await store.takes()).toEqual([]);
    expect(await sendLeftBlocks(store, server, () => true)).toEqual([]);
  });

  it('is let go where what came before it was discarded elsewhere', async () => {
    await store.begin(take);
    await store.put({ takeId: 't', fromFrame: 300, bytes: new Uint8Array(800) });
    expect(await sendLeftBlocks(store, server, () => true)).toEqual([take]);
    expect(await store.blocks('t')).toEqual([]);
    expect(server.samples).toEqual([]);
    // One that cannot be reached is another thing.
    await store.begin(take);
    await store.put({ takeId: 't', fromFrame: 0, bytes: new Uint8Array(800) });
    server.away = true;
    await expect(sendLeftBlocks(store, server, () => true)).rejects.toThrow(/cannot be reached/);
    expect(await store.blocks('t')).toEqual([0]);
  });

  it('has both channels the same where the input has one', async () => {
    const stream = new TakeStream(take, store, server);
    stream.add([Float32Array.of(1, 2, 3)]);
    await stream.end();
    expect(server.samples).toEqual([1, 1, 2, 2, 3, 3]);
  });

  it('goes on in a browser that keeps nothing', async () => {
    const broken: BlockStore = {
      ...inMemory(),
      put: () => Promise.reject(new Error('full')),
      remove: () => Promise.reject(new Error('full')),
      begin: () => Promise.reject(new Error('full')),
    };
    const stream = new TakeStream(take, broken, server);
    stream.add(frames(0, 500));
    await stream.end();
    expect(server.samples.map((value) => value + 0)).toEqual(wanted(500));
  });
});
