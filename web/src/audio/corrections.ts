/**
 * Keeps the sound of corrected lines up to date: asks a worker for what differs from the recording, the newest request
 * first, and tells who plays.
 */
import type { Contour } from '@plundra/core/reading';
import { limitedOnsets, type Patch, type CorrectionSpec, type WarpSpec } from '@plundra/core/retune';
import type { RetuneAnswer, RetuneFailure, RetuneRequest } from './retuneWorker.ts';

/** What has to be laid over a recording. Patches are at the sample rate of the decoded sound. */
export interface Correction {
  /** Changes whenever the sound does. */
  version: number;
  patches: Patch[];
  limited: string[];
  /** Of a passage at a speed of its own: all of its sound, from its start on. */
  made?: Float32Array[];
  /** Of a recording that is too long to be held: what is laid over its pieces where they play. */
  inPieces?: { spec: CorrectionSpec; contour: Contour | undefined };
}

export interface CorrectionRequest {
  /** See soundSources.ts. */
  key: string;
  hash: string;
  /** The reading with the contour, where notes are corrected. */
  readingId: string | undefined;
  /** Null: as recorded. */
  spec: CorrectionSpec | null;
  /** Of a passage at a speed of its own. */
  warp?: WarpSpec;
}

/** How many of the takes in the current batch of corrections are ready. */
export interface CorrectionProgress {
  done: number;
  total: number;
}

export type CorrectionWorker = Pick<Worker, 'postMessage' | 'terminate' | 'onmessage' | 'onerror'>;

export interface CorrectionSources {
  decoded(hash: string): Promise<AudioBuffer | undefined>;
  contour(readingId: string): Promise<Contour>;
  problem(message: string): void;
  /** A worker that renders; see retuneWorker.ts. */
  worker(): CorrectionWorker;
}

interface Entry {
  request: CorrectionRequest;
  signature: string;
  opened: string | undefined;
  running: boolean;
  again: boolean;
}

const TOO_LONG_TO_FOLLOW =
  'A passage of a recording of more than 20 minutes cannot have another speed than it was recorded, so it stays silent. Let it keep its own time, or import the stretch you need as a file of its own.';
const NOT_AUDIBLE = 'A correction could not be made audible. Change it again, or reload the page.';

export class Corrections {
  private worker: CorrectionWorker | undefined;
  private readonly entries = new Map<string, Entry>();
  private readonly answers = new Map<
    number,
    { resolve(answer: RetuneAnswer): void; reject(error: Error): void }
  >();
  /** How many entries use each source that is open in the worker: two parts may share a recording. */
  private readonly users = new Map<string, number>();
  private readonly listeners = new Set<() => void>();
  private current: ReadonlyMap<string, Correction> = new Map();
  private version = 0;
  private making: CorrectionProgress | null = null;

  constructor(private readonly sources: CorrectionSources) {}

  subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  /** By part and take; a new map after every change. */
  get = (): ReadonlyMap<string, Correction> => this.current;

  /** Progress of the corrections that cannot be heard yet; null: all can be heard. */
  progress = (): CorrectionProgress | null => this.making;

  /** Sets the corrections to keep up to date; others are forgotten. */
  want(requests: readonly CorrectionRequest[]): void {
    const wanted = new Set(requests.map((request) => request.key));
    for (const [key, entry] of this.entries) {
      if (wanted.has(key)) continue;
      this.entries.delete(key);
      this.leave(entry);
      this.set(key, undefined);
    }
    for (const request of requests) {
      const signature = JSON.stringify([request.readingId, request.hash, request.spec, request.warp]);
      const entry = this.entries.get(request.key);
      if (!entry) {
        const made = { request, signature, opened: undefined, running: false, again: false };
        this.entries.set(request.key, made);
        void this.run(made);
      } else if (entry.signature !== signature) {
        entry.request = request;
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
    this.users.clear();
    this.fail();
  }

  /** Every question that waits is answered, so that whoever asked goes on. */
  private fail(): void {
    const waiting = [...this.answers.values()];
    this.answers.clear();
    waiting.forEach(({ reject }) => reject(new Error(NOT_AUDIBLE)));
  }

  /** The worker broke: what it knew is gone, and is handed to another when it is next asked for. */
  private startOver(): void {
    this.worker?.terminate();
    this.worker = undefined;
    this.users.clear();
    for (const entry of this.entries.values()) entry.opened = undefined;
    this.fail();
  }

  private leave(entry: Entry): void {
    if (entry.opened === undefined) return;
    const left = (this.users.get(entry.opened) ?? 1) - 1;
    if (left > 0) this.users.set(entry.opened, left);
    else {
      this.users.delete(entry.opened);
      this.post({ type: 'close', key: entry.opened });
    }
    entry.opened = undefined;
  }

  private async run(entry: Entry): Promise<void> {
    entry.running = true;
    this.making = { done: this.making?.done ?? 0, total: (this.making?.total ?? 0) + 1 };
    this.tell();
    try {
      do {
        entry.again = false;
        const { request } = entry;
        const source = `${request.hash}/${request.readingId ?? 'whole'}`;
        if (entry.opened !== source && !(await this.open(entry, source))) continue;
        const { patches, limited, made } = await this.ask(source, request);
        if (this.entries.get(request.key) !== entry) return;
        this.set(request.key, { version: ++this.version, patches, limited, ...(made && { made }) });
      } while (entry.again);
    } catch (error) {
      if (this.entries.get(entry.request.key) !== entry) return;
      // Asked for again with the next edit, even an equal one.
      entry.signature = '';
      this.sources.problem(error instanceof Error ? error.message : NOT_AUDIBLE);
    } finally {
      entry.running = false;
      const { done, total } = this.making!;
      this.making = done + 1 < total ? { done: done + 1, total } : null;
      this.tell();
    }
  }

  private async open(entry: Entry, source: string): Promise<boolean> {
    const { request } = entry;
    const [sound, contour] = await Promise.all([
      this.sources.decoded(request.hash),
      request.readingId === undefined ? undefined : this.sources.contour(request.readingId),
    ]);
    if (this.entries.get(request.key) !== entry) return false;
    if (!sound) {
      this.setInPieces(request, contour);
      return false;
    }
    this.leave(entry);
    entry.opened = source;
    this.users.set(source, (this.users.get(source) ?? 0) + 1);
    if (this.users.get(source)! > 1) return true;
    const channels = Array.from({ length: sound.numberOfChannels }, (_, c) =>
      sound.getChannelData(c).slice(),
    );
    this.post({ type: 'open', key: source, channels, sampleRateHz: sound.sampleRate, contour }, channels);
    return true;
  }

  /** Nothing is rendered ahead: whoever plays a piece renders it. */
  private setInPieces({ key, spec, warp }: CorrectionRequest, contour: Contour | undefined): void {
    if (warp) throw new Error(TOO_LONG_TO_FOLLOW);
    if (!spec) return this.set(key, undefined);
    if (spec.as === 'notes' && spec.notes.length === 0) return this.set(key, undefined);
    this.set(key, {
      version: ++this.version,
      patches: [],
      limited: spec.as === 'stretch' ? limitedOnsets(spec.stretch) : [],
      inPieces: { spec, contour },
    });
  }

  private ask(key: string, request: CorrectionRequest): Promise<RetuneAnswer> {
    const id = ++this.version;
    return new Promise((resolve, reject) => {
      this.answers.set(id, { resolve, reject });
      this.post({ type: 'render', id, key, spec: request.spec, ...(request.warp && { warp: request.warp }) });
    });
  }

  private post(request: RetuneRequest, channels: Float32Array[] = []): void {
    if (!this.worker) {
      this.worker = this.sources.worker();
      this.worker.onmessage = (event: MessageEvent<RetuneAnswer | RetuneFailure>) => {
        const { id } = event.data;
        const asked = this.answers.get(id);
        this.answers.delete(id);
        if ('message' in event.data) asked?.reject(new Error(event.data.message));
        else asked?.resolve(event.data);
      };
      this.worker.onerror = () => this.startOver();
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
