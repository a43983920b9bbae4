/** Recordings that are open in the worker that renders corrections, and what is asked of it. */
import type { Contour } from '@plundra/core/reading';
import { warpedSamples, type CorrectionSpec, type WarpSpec } from '@plundra/core/retune';
import type { RetuneAnswer, RetuneFailure, RetuneRequest } from './retuneWorker.ts';

export type CorrectionWorker = Pick<Worker, 'postMessage' | 'terminate' | 'onmessage' | 'onerror'>;

export interface RecordedSources {
  decoded(hash: string): Promise<AudioBuffer | undefined>;
  contour(readingId: string): Promise<Contour>;
  /** A worker that renders; see retuneWorker.ts. */
  worker(): CorrectionWorker;
}

/** A recording, with the reading with the contour where notes are corrected. */
export interface RetuneSource {
  hash: string;
  readingId: string | undefined;
}

/** What has been opened: `held` by the worker, or left to whoever plays its pieces. */
export interface OpenSource {
  held: boolean;
  sampleRateHz: number;
  channels: number;
  contour: Contour | undefined;
}

/** Sound of a passage at a speed of its own, made where it is asked for; in samples from the start of the passage. */
export interface MadeSound {
  lengthSamples: number;
  sampleRateHz: number;
  channels: number;
  /** Resolves when a stretch is made, so that it is at hand at once when it is to sound. */
  ahead(fromSample: number, toSample: number): Promise<unknown>;
  /** Gives a first stretch, and what is asked for after it, to whoever plays at the other end of a port. */
  stream(port: MessagePort, fromSample: number, toSample: number): void;
}

interface Entry extends RetuneSource {
  users: number;
  opening: Promise<OpenSource> | undefined;
  open: OpenSource | undefined;
}

const NOT_AUDIBLE = 'A correction could not be made audible. Change it again, or reload the page.';

export class RetuneSources {
  private worker: CorrectionWorker | undefined;
  private readonly entries = new Map<string, Entry>();
  private readonly answers = new Map<
    number,
    { resolve(answer: RetuneAnswer): void; reject(error: Error): void }
  >();
  private asked = 0;

  /** @param broke told when all that was made has to be asked for again */
  constructor(
    private readonly sources: RecordedSources,
    private readonly broke: (message: string) => void,
  ) {}

  /** Two parts may share a recording: it stays open until each that claimed it has left it. */
  claim({ hash, readingId }: RetuneSource): string {
    const key = `${hash}/${readingId ?? 'whole'}`;
    const entry = this.entries.get(key);
    if (entry) entry.users++;
    else this.entries.set(key, { hash, readingId, users: 1, opening: undefined, open: undefined });
    return key;
  }

  leave(key: string): void {
    const entry = this.entries.get(key);
    if (!entry || --entry.users > 0) return;
    this.entries.delete(key);
    if (entry.opening) this.worker?.postMessage({ type: 'close', key } satisfies RetuneRequest);
  }

  /** One that is open already: what sounds now need not wait for its turn. */
  opened(key: string): OpenSource | undefined {
    return this.entries.get(key)?.open;
  }

  /** @throws what keeps the recording from being decoded; it is tried again when it is next asked for */
  async open(key: string): Promise<OpenSource> {
    const entry = this.entries.get(key);
    if (!entry) throw new Error(NOT_AUDIBLE);
    const opening = (entry.opening ??= this.hand(key, entry));
    try {
      const open = await opening;
      if (entry.opening === opening) entry.open = open;
      return open;
    } catch (error) {
      if (entry.opening === opening) entry.opening = undefined;
      throw error;
    }
  }

  /** Of an open source. */
  render(key: string, spec: CorrectionSpec | null): Promise<RetuneAnswer> {
    return this.ask({ type: 'render', key, spec });
  }

  /**
   * Of an open source.
   * @returns its sound, which can be had at once; `measured` when no stretch of it has to wait any more
   */
  warp(
    key: string,
    spec: CorrectionSpec | null,
    warp: WarpSpec,
    { sampleRateHz, channels }: OpenSource,
  ): { made: MadeSound; measured: Promise<unknown>; forget(): void } {
    const measured = this.ask({ type: 'warp', key, spec, warp });
    const [warpId, worker] = [this.asked, this.worker];
    return {
      measured,
      made: {
        lengthSamples: warpedSamples(warp, sampleRateHz),
        sampleRateHz,
        channels,
        ahead: (fromSample, toSample) => {
          // What a worker knew that broke is asked for again, and is another sound.
          if (worker !== this.worker) return Promise.resolve();
          return this.ask({ type: 'ahead', warpId, fromSample, toSample });
        },
        stream: (port, fromSample, toSample) => {
          if (worker === this.worker)
            this.worker!.postMessage(
              { type: 'stream', warpId, port, fromSample, toSample } satisfies RetuneRequest,
              [port],
            );
        },
      },
      forget: () => {
        if (worker === this.worker) this.post({ type: 'forget', warpId });
      },
    };
  }

  close(): void {
    this.worker?.terminate();
    this.worker = undefined;
    this.entries.clear();
    this.fail();
  }

  private async hand(key: string, { hash, readingId }: Entry): Promise<OpenSource> {
    const [sound, contour] = await Promise.all([
      this.sources.decoded(hash),
      readingId === undefined ? undefined : this.sources.contour(readingId),
    ]);
    if (!sound) return { held: false, sampleRateHz: 0, channels: 0, contour };
    // Whoever claimed it may have left meanwhile.
    if (this.entries.has(key)) {
      const channels = Array.from({ length: sound.numberOfChannels }, (_, c) =>
        sound.getChannelData(c).slice(),
      );
      this.post({ type: 'open', key, channels, sampleRateHz: sound.sampleRate, contour }, channels);
    }
    return { held: true, sampleRateHz: sound.sampleRate, channels: sound.numberOfChannels, contour };
  }

  private ask(
    request:
      | Omit<Extract<RetuneRequest, { type: 'render' }>, 'id'>
      | Omit<Extract<RetuneRequest, { type: 'warp' }>, 'id'>
      | Omit<Extract<RetuneRequest, { type: 'ahead' }>, 'id'>,
  ): Promise<RetuneAnswer> {
    const id = ++this.asked;
    return new Promise((resolve, reject) => {
      this.answers.set(id, { resolve, reject });
      this.post({ ...request, id });
    });
  }

  private post(request: RetuneRequest, transferred: readonly Float32Array[] = []): void {
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
      transferred.map(({ buffer }) => buffer),
    );
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
    for (const entry of this.entries.values()) entry.opening = entry.open = undefined;
    this.fail();
    this.broke(NOT_AUDIBLE);
  }
}
