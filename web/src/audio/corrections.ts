/**
 * Keeps the sound of corrected lines up to date: asks a worker for what differs from the recording, the newest wish
 * first, and tells who plays.
 */
import type { Contour } from '@plundra/core/reading';
import type { Patch, Wanted } from '@plundra/core/retune';
import type { RetuneAnswer, RetuneRequest } from './retuneWorker.ts';

/** What has to be laid over a recording. Patches are at the sample rate of the decoded sound. */
export interface Correction {
  /** Another number, another sound. */
  version: number;
  patches: Patch[];
  limited: string[];
}

export interface CorrectionWish {
  /** Part and passage. */
  key: string;
  hash: string;
  durationSeconds: number;
  /** The reading with the contour, where notes are corrected. */
  readingId: string | undefined;
  wanted: Wanted;
}

/** Of the passages that are being corrected since nothing was: how many are ready. */
export interface CorrectionProgress {
  done: number;
  total: number;
}

interface Sources {
  decoded(hash: string, durationSeconds: number): Promise<AudioBuffer | undefined>;
  contour(readingId: string): Promise<Contour>;
  problem(message: string): void;
}

interface Entry {
  wish: CorrectionWish;
  signature: string;
  opened: string | undefined;
  running: boolean;
  again: boolean;
}

export class Corrections {
  private worker: Worker | undefined;
  private readonly entries = new Map<string, Entry>();
  private readonly answers = new Map<number, (answer: RetuneAnswer) => void>();
  private readonly listeners = new Set<() => void>();
  private current: ReadonlyMap<string, Correction> = new Map();
  private version = 0;
  private making: CorrectionProgress | null = null;

  constructor(private readonly sources: Sources) {}

  subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  /** By part and passage; a new map after every change. */
  get = (): ReadonlyMap<string, Correction> => this.current;

  /** How far everything is that is wanted and cannot be heard yet; null: all of it can be heard. */
  progress = (): CorrectionProgress | null => this.making;

  /** Sets what is wanted now; what is not named any more is forgotten. */
  want(wishes: readonly CorrectionWish[]): void {
    const wanted = new Set(wishes.map((wish) => wish.key));
    for (const [key, entry] of this.entries) {
      if (wanted.has(key)) continue;
      this.entries.delete(key);
      if (entry.opened) this.post({ type: 'close', key: entry.opened });
      this.set(key, undefined);
    }
    for (const wish of wishes) {
      const signature = JSON.stringify([wish.readingId, wish.hash, wish.wanted]);
      const entry = this.entries.get(wish.key);
      if (!entry) {
        const made = { wish, signature, opened: undefined, running: false, again: false };
        this.entries.set(wish.key, made);
        void this.run(made);
      } else if (entry.signature !== signature) {
        entry.wish = wish;
        entry.signature = signature;
        if (entry.running) entry.again = true;
        else void this.run(entry);
      }
    }
  }

  close(): void {
    this.worker?.terminate();
    this.worker = undefined;
    this.entries.clear();
  }

  private async run(entry: Entry): Promise<void> {
    entry.running = true;
    this.making = { done: this.making?.done ?? 0, total: (this.making?.total ?? 0) + 1 };
    this.tell();
    try {
      do {
        entry.again = false;
        const { wish } = entry;
        const source = `${wish.hash}/${wish.readingId ?? 'whole'}`;
        if (entry.opened !== source && !(await this.open(entry, source))) return;
        const answer = await this.ask(source, wish);
        if (this.entries.get(wish.key) !== entry) return;
        this.set(wish.key, { version: ++this.version, patches: answer.patches, limited: answer.limited });
      } while (entry.again);
    } catch (error) {
      this.sources.problem(
        error instanceof Error
          ? error.message
          : 'A correction could not be made audible. Reload the page to try again.',
      );
    } finally {
      entry.running = false;
      const { done, total } = this.making!;
      this.making = done + 1 < total ? { done: done + 1, total } : null;
      this.tell();
    }
  }

  private async open(entry: Entry, source: string): Promise<boolean> {
    const { wish } = entry;
    const [sound, contour] = await Promise.all([
      this.sources.decoded(wish.hash, wish.durationSeconds),
      wish.readingId === undefined ? undefined : this.sources.contour(wish.readingId),
    ]);
    // Recordings too long to be decoded are heard as recorded.
    if (!sound) return false;
    const channels = Array.from({ length: sound.numberOfChannels }, (_, c) =>
      sound.getChannelData(c).slice(),
    );
    if (entry.opened) this.post({ type: 'close', key: entry.opened });
    this.post({ type: 'open', key: source, channels, sampleRateHz: sound.sampleRate, contour }, channels);
    entry.opened = source;
    return true;
  }

  private ask(key: string, wish: CorrectionWish): Promise<RetuneAnswer> {
    const id = ++this.version;
    return new Promise((resolve) => {
      this.answers.set(id, resolve);
      this.post({ type: 'render', id, key, wanted: wish.wanted });
    });
  }

  private post(request: RetuneRequest, channels: Float32Array[] = []): void {
    if (!this.worker) {
      this.worker = new Worker(new URL('./retuneWorker.ts', import.meta.url), { type: 'module' });
      this.worker.onmessage = (event: MessageEvent<RetuneAnswer>) => {
        this.answers.get(event.data.id)?.(event.data);
        this.answers.delete(event.data.id);
      };
      this.worker.onerror = () =>
        this.sources.problem('A correction could not be made audible. Reload the page to try again.');
    }
    this.worker.postMessage(
      request,
      channels.map((channel) => channel.buffer),
    );
  }

  private set(key: string, correction: Correction | undefined): void {
    const next = new Map(this.current);
    if (correction) next.set(key, correction);
    else if (!next.delete(key)) return;
    this.current = next;
    this.tell();
  }

  private tell(): void {
    this.listeners.forEach((listener) => listener());
  }
}
