/**
 * A take on its way to the server while it is recorded. Every quarter of a second a block is put into the browser's own
 * database and sent; it leaves the database when the server has it on its disk. While the server is away blocks wait.
 */
import { TAKE_GAP, type TakeBeginning } from '@plundra/contract';
import { ApiError } from '../../api/apiError.ts';
import type { BlockStore, TakeBlock } from './takeBlocks.ts';

export interface TakeServer {
  beginTake(take: TakeBeginning): Promise<{ frames: number }>;
  writeTake(id: string, fromFrame: number, bytes: Uint8Array<ArrayBuffer>): Promise<{ frames: number }>;
}

export interface StreamState {
  /** Frames that came in, and those that are on the server's disk. */
  frames: number;
  storedFrames: number;
  /** Why blocks wait, as a sentence; undefined while they do not. */
  waits: string | undefined;
}

const BLOCK_SECONDS = 0.25;
const RETRY_MS = 1500;
/** What waits is sent in pieces of at most this size. */
const LARGEST_SEND_BYTES = 1 << 20;
/** So many blocks are held in memory; the rest is read from the database when its turn comes. */
const HELD_BLOCKS = 40;

export class TakeStream {
  private readonly frameBytes: number;
  private readonly blockFrames: number;
  /** What does not fill a block yet. */
  private open: Float32Array<ArrayBuffer>;
  private openFrames = 0;
  /** Blocks that are not on the server, by where they begin; undefined: to be read from the database. */
  private readonly queue = new Map<number, Uint8Array<ArrayBuffer> | undefined>();
  private queuedFrames = 0;
  private sending: Promise<void> | undefined;
  private begun = false;
  private stopped = false;
  private state: StreamState = { frames: 0, storedFrames: 0, waits: undefined };
  private readonly listeners = new Set<() => void>();

  constructor(
    private readonly take: TakeBeginning,
    private readonly store: BlockStore,
    private readonly server: TakeServer,
    private readonly retryMs = RETRY_MS,
  ) {
    this.frameBytes = take.channels * Float32Array.BYTES_PER_ELEMENT;
    this.blockFrames = Math.round(BLOCK_SECONDS * take.sampleRateHz);
    this.open = new Float32Array(this.blockFrames * take.channels);
    void store.begin(take).catch(() => undefined);
  }

  subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  getState = (): StreamState => this.state;

  /** Takes samples that follow those before; a channel that is missing is the first once more. */
  add(channels: readonly Float32Array[]): void {
    const frames = channels[0]?.length ?? 0;
    const { channels: count } = this.take;
    for (let i = 0; i < frames; i++) {
      for (let c = 0; c < count; c++)
        this.open[this.openFrames * count + c] = (channels[c] ?? channels[0])[i];
      if (++this.openFrames === this.blockFrames) this.close();
    }
    this.set({ frames: this.state.frames + frames });
  }

  /** Silence where nothing came in. */
  addGap(frames: number): void {
    for (let left = frames; left > 0; left -= this.blockFrames)
      this.add([new Float32Array(Math.min(left, this.blockFrames))]);
  }

  /** No more comes. Resolves when all of it is on the server; it may wait long for that. */
  async end(): Promise<void> {
    this.close();
    while (this.queue.size > 0 && !this.stopped) await this.pump();
  }

  /** Sends nothing any more. */
  stop(): void {
    this.stopped = true;
  }

  private close(): void {
    if (this.openFrames === 0) return;
    const samples = this.open.slice(0, this.openFrames * this.take.channels);
    const fromFrame = this.queuedFrames;
    this.queuedFrames += this.openFrames;
    this.openFrames = 0;
    const block: TakeBlock = { takeId: this.take.id, fromFrame, bytes: new Uint8Array(samples.buffer) };
    this.queue.set(fromFrame, block.bytes);
    void this.store.put(block).then(
      () => {
        // It can be read again when it is needed.
        if (this.queue.size > HELD_BLOCKS && this.queue.has(fromFrame)) this.queue.set(fromFrame, undefined);
      },
      () => undefined,
    );
    void this.pump();
  }

  private pump(): Promise<void> {
    this.sending ??= this.sendAll().finally(() => (this.sending = undefined));
    return this.sending;
  }

  private async sendAll(): Promise<void> {
    while (this.queue.size > 0 && !this.stopped) {
      try {
        if (!this.begun) await this.server.beginTake(this.take);
        this.begun = true;
        await this.sendSome();
        this.set({ waits: undefined });
      } catch (error) {
        this.set({
          waits: error instanceof ApiError ? error.message : 'Something unexpected went wrong on the way.',
        });
        await new Promise((resolve) => setTimeout(resolve, this.retryMs));
      }
    }
  }

  /** The next blocks in one request. */
  private async sendSome(): Promise<void> {
    const starts: number[] = [];
    const pieces: Uint8Array<ArrayBuffer>[] = [];
    let length = 0;
    for (const [fromFrame, held] of this.queue) {
      if (length > 0 && length + this.blockFrames * this.frameBytes > LARGEST_SEND_BYTES) break;
      const bytes = held ?? (await this.store.get(this.take.id, fromFrame))?.bytes;
      // A database that lost it is beyond mending: silence is better than no take.
      const piece = bytes ?? new Uint8Array(this.blockFrames * this.frameBytes);
      starts.push(fromFrame);
      pieces.push(piece);
      length += piece.length;
    }
    const joined = new Uint8Array(length);
    let at = 0;
    for (const piece of pieces) {
      joined.set(piece, at);
      at += piece.length;
    }
    const { frames } = await this.server.writeTake(this.take.id, starts[0], joined);
    for (const fromFrame of starts) {
      this.queue.delete(fromFrame);
      void this.store.remove(this.take.id, fromFrame).catch(() => undefined);
    }
    this.set({ storedFrames: frames });
  }

  private set(change: Partial<StreamState>): void {
    this.state = { ...this.state, ...change };
    this.listeners.forEach((listener) => listener());
  }
}

/** Sends what a page that went left in the browser's database. Gives the takes of which everything is on the server now. */
export async function sendLeftBlocks(
  store: BlockStore,
  server: TakeServer,
  wanted: (take: TakeBeginning) => boolean,
): Promise<TakeBeginning[]> {
  const sent: TakeBeginning[] = [];
  for (const take of (await store.takes()).filter(wanted)) {
    const starts = await store.blocks(take.id);
    if (starts.length > 0) await server.beginTake(take);
    for (const fromFrame of starts) {
      const block = await store.get(take.id, fromFrame);
      try {
        if (block) await server.writeTake(take.id, fromFrame, block.bytes);
      } catch (error) {
        // What came before was kept or discarded elsewhere: there is nothing left to put it to.
        if (!(error instanceof ApiError) || error.code !== TAKE_GAP) throw error;
      }
      await store.remove(take.id, fromFrame);
    }
    await store.forget(take.id);
    sent.push(take);
  }
  return sent;
}
