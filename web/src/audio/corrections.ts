/**
 * Keeps the sound of corrected lines up to date: asks a worker for what differs from the recording, the newest request
 * first, and tells who plays.
 */
import type { Contour } from '@plundra/core/reading';
import { limitedOnsets, type Patch, type CorrectionSpec, type WarpSpec } from '@plundra/core/retune';
import { RetuneSources, type MadeSound, type OpenSource, type RecordedSources } from './retuneSources.ts';

/** What has to be laid over a recording. Patches are at the sample rate of the decoded sound. */
export interface Correction {
  /** Changes whenever the sound does. */
  version: number;
  patches: Patch[];
  limited: string[];
  /** Of a passage at a speed of its own: all of its sound, from its start on. */
  made?: MadeSound;
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

export interface CorrectionSources extends RecordedSources {
  problem(message: string): void;
}

interface Entry {
  request: CorrectionRequest;
  /** Asked for again with the next edit, even an equal one. */
  failed: boolean;
  /** Of the source it has claimed. */
  source: string | undefined;
  /** Of a passage at a speed of its own: what is made for it is not asked for any more. */
  forget: (() => void) | undefined;
  running: boolean;
  again: boolean;
}

const TOO_LONG_TO_FOLLOW =
  'A passage of a recording of more than 20 minutes cannot have another speed than it was recorded, so it stays silent. Let it keep its own time, or import the stretch you need as a file of its own.';
const NOT_AUDIBLE = 'A correction could not be made audible. Change it again, or reload the page.';

export class Corrections {
  private readonly retune: RetuneSources;
  private readonly entries = new Map<string, Entry>();
  private readonly listeners = new Set<() => void>();
  private current: ReadonlyMap<string, Correction> = new Map();
  private version = 0;
  private making: CorrectionProgress | null = null;
  private telling = true;

  constructor(private readonly sources: CorrectionSources) {
    this.retune = new RetuneSources(sources, (message) => this.broke(message));
  }

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
    this.telling = false;
    for (const request of requests) {
      const entry = this.entries.get(request.key);
      if (!entry) {
        const made = { ...IDLE, request };
        this.entries.set(request.key, made);
        void this.run(made);
      } else if (entry.failed || !soundsAlike(entry.request, request)) {
        entry.request = request;
        entry.failed = false;
        if (entry.running) entry.again = true;
        else void this.run(entry);
      }
    }
    // Last, so that a recording that goes on being used stays open.
    const wanted = new Set(requests.map((request) => request.key));
    for (const [key, entry] of this.entries) {
      if (wanted.has(key)) continue;
      this.entries.delete(key);
      entry.forget?.();
      if (entry.source !== undefined) this.retune.leave(entry.source);
      this.set(key, undefined);
    }
    // All at once: whoever plays goes on with what is new when it lets go of what is gone.
    this.telling = true;
    this.tell();
  }

  close(): void {
    this.entries.clear();
    this.retune.close();
  }

  private async run(entry: Entry): Promise<void> {
    entry.running = true;
    this.making = { done: this.making?.done ?? 0, total: (this.making?.total ?? 0) + 1 };
    this.tell();
    try {
      do {
        entry.again = false;
        const { request } = entry;
        const source = this.retune.claim(request);
        if (entry.source !== undefined) this.retune.leave(entry.source);
        entry.source = source;
        const open = this.retune.opened(source) ?? (await this.retune.open(source));
        if (this.entries.get(request.key) !== entry) return;
        await (open.held ? this.make(entry, source, open) : this.setInPieces(request, open.contour));
      } while (entry.again);
    } catch (error) {
      if (this.entries.get(entry.request.key) !== entry) return;
      entry.failed = true;
      this.sources.problem(error instanceof Error ? error.message : NOT_AUDIBLE);
    } finally {
      entry.running = false;
      const { done, total } = this.making!;
      this.making = done + 1 < total ? { done: done + 1, total } : null;
      this.tell();
    }
  }

  /** What is made as it plays stays silent until it is asked for again. */
  private broke(message: string): void {
    const silent = [...this.entries.values()].filter(({ forget, running }) => forget && !running);
    if (silent.length === 0) return;
    for (const entry of silent) entry.failed = true;
    this.sources.problem(message);
  }

  private async make(entry: Entry, source: string, open: OpenSource): Promise<void> {
    const { key, spec, warp } = entry.request;
    if (warp) {
      const { made, measured, forget } = this.retune.warp(source, spec, warp, open);
      entry.forget?.();
      entry.forget = forget;
      // It can be heard before all of it is measured.
      this.set(key, { version: ++this.version, patches: [], limited: [], made });
      await measured;
    } else {
      const { patches, limited } = await this.retune.render(source, spec);
      if (this.entries.get(key) === entry) this.set(key, { version: ++this.version, patches, limited });
    }
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

  private set(key: string, correction: Correction | undefined): void {
    const next = new Map(this.current);
    if (correction) next.set(key, correction);
    else if (!next.delete(key)) return;
    this.current = next;
    this.tell();
  }

  private tell(): void {
    if (this.telling) this.listeners.forEach((listener) => listener());
  }
}

const IDLE = { failed: false, source: undefined, forget: undefined, running: false, again: false };

/** The same take has the same spec; one that was changed and changed back an equal one. */
function soundsAlike(a: CorrectionRequest, b: CorrectionRequest): boolean {
  const alike = (x: unknown, y: unknown) => x === y || JSON.stringify(x) === JSON.stringify(y);
  return a.hash === b.hash && a.readingId === b.readingId && alike(a.spec, b.spec) && alike(a.warp, b.warp);
}
