/**
 * One open song: edits are applied at once and queued; the queue is sent in order, step by step. A step that was
 * made on an older revision is put on top of the newer song. What is not saved yet is also kept in the browser's
 * storage, so that it survives a reload while the server is away.
 */
import { STALE_REVISION, type ServerEvent, type SongDocument, type StepRequest } from '@plundra/contract';
import { EditError, takeStep, type Edit, type SongState, type Step } from '@plundra/core/song';
import { ApiError } from '../api/client.ts';

export type SaveState = 'saved' | 'saving' | 'offline';

export interface Saving {
  saveState: SaveState;
  /** Steps that are not saved yet. */
  waiting: number;
}

export interface SessionServer {
  song(id: string): Promise<SongDocument>;
  takeStep(id: string, request: StepRequest): Promise<{ revision: number }>;
}

/** The part of Storage that is used; tests bring their own. */
export interface Keeper {
  getItem(key: string): string | null;
  setItem(key: string, value: string): void;
  removeItem(key: string): void;
}

interface Queued {
  requestId: string;
  step: Step;
}

const RETRY_MS = 1500;

export class SongSession {
  private confirmed: SongState;
  private revision: number;
  private queue: Queued[] = [];
  private shown: SongState;
  private saving: Saving = { saveState: 'saved', waiting: 0 };
  private sending = false;
  private closed = false;
  private readonly listeners = new Set<() => void>();

  constructor(
    document: SongDocument,
    private readonly server: SessionServer,
    private readonly keeper: Keeper,
    private readonly explain: (message: string) => void,
    private readonly clientId: string = crypto.randomUUID(),
    /** When a new step may be sent: the page shows it first. */
    private readonly soon: (action: () => void) => void = (action) => action(),
  ) {
    this.confirmed = { song: document.song, history: document.history };
    this.revision = document.revision;
    this.shown = this.confirmed;
    const stored = new Set(document.recentRequestIds);
    this.queue = this.readKept().filter(({ requestId }) => !stored.has(requestId));
    if (this.queue.length > 0) {
      this.replay();
      void this.send();
    }
  }

  subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  /** Song and history as they are shown: another object whenever one of them is another. */
  getState = (): SongState => this.shown;

  /** Another object whenever it is another. */
  getSaving = (): Saving => this.saving;

  /** Applies an edit and queues it. An edit that does not fit is explained and changes nothing. */
  apply(label: string, edit: Edit): boolean {
    return this.take({ kind: 'do', id: crypto.randomUUID(), label, edit });
  }

  undo(): boolean {
    const entry = this.shown.history.done.at(-1);
    return entry ? this.take({ kind: 'undo', id: entry.id }) : false;
  }

  redo(): boolean {
    const entry = this.shown.history.undone.at(-1);
    return entry ? this.take({ kind: 'redo', id: entry.id }) : false;
  }

  /** A step that another window took. */
  hear(event: Extract<ServerEvent, { type: 'song' }>): void {
    if (event.songId !== this.shown.song.id || event.clientId === this.clientId) return;
    if (event.revision <= this.revision) return;
    if (event.revision === this.revision + 1 && !this.sending) {
      this.confirmed = takeStep(this.confirmed, event.step);
      this.revision = event.revision;
      this.replay();
    } else {
      void this.catchUp();
    }
  }

  /** Asks the server for the newest song and puts the queue on top of it. */
  async catchUp(): Promise<void> {
    try {
      const document = await this.server.song(this.shown.song.id);
      if (document.revision < this.revision) return;
      const stored = new Set(document.recentRequestIds);
      this.queue = this.queue.filter(({ requestId }) => !stored.has(requestId));
      this.confirmed = { song: document.song, history: document.history };
      this.revision = document.revision;
      this.replay();
      void this.send();
    } catch {
      this.changed('offline');
    }
  }

  close(): void {
    this.closed = true;
  }

  private take(step: Step): boolean {
    try {
      this.shown = takeStep(this.shown, step);
    } catch (error) {
      if (!(error instanceof EditError)) throw error;
      this.explain(error.message);
      return false;
    }
    this.queue.push({ requestId: crypto.randomUUID(), step });
    this.keep();
    this.changed(this.saving.saveState === 'saved' ? 'saving' : this.saving.saveState);
    this.soon(() => void this.send());
    return true;
  }

  private async send(): Promise<void> {
    if (this.sending || this.closed) return;
    this.sending = true;
    try {
      while (this.queue.length > 0 && !this.closed) {
        const next = this.queue[0];
        const { revision } = await this.server.takeStep(this.shown.song.id, {
          requestId: next.requestId,
          clientId: this.clientId,
          baseRevision: this.revision,
          step: next.step as StepRequest['step'],
        });
        if (revision > this.revision + 1) return void this.catchUp();
        // At or below: the song was fetched meanwhile and holds this step already.
        if (revision === this.revision + 1) {
          this.confirmed = takeStep(this.confirmed, next.step);
          this.revision = revision;
        }
        this.queue.shift();
        this.keep();
        this.changed(this.queue.length > 0 ? 'saving' : 'saved');
      }
    } catch (error) {
      this.failed(error);
    } finally {
      this.sending = false;
    }
  }

  private failed(error: unknown): void {
    if (error instanceof ApiError && error.code === STALE_REVISION) {
      setTimeout(() => void this.catchUp());
      return;
    }
    const temporary = !(error instanceof ApiError) || error.status === 0 || error.status >= 500;
    if (temporary) {
      // A full disk is said once; being offline shows in the top line.
      if (error instanceof ApiError && error.status >= 500 && this.saving.saveState !== 'offline')
        this.explain(error.message);
      this.changed('offline');
      setTimeout(() => void this.send(), RETRY_MS);
      return;
    }
    // The server refuses this step for good: it goes, and is said to be gone.
    this.queue.shift();
    this.explain(error.message);
    this.replay();
    setTimeout(() => void this.send());
  }

  /** Puts the waiting steps on top of the confirmed song; those that do not fit any more go, with a word. */
  private replay(): void {
    let state = this.confirmed;
    const fitting: Queued[] = [];
    for (const each of this.queue) {
      try {
        state = takeStep(state, each.step);
        fitting.push(each);
      } catch (error) {
        if (!(error instanceof EditError)) throw error;
        const what = each.step.kind === 'do' ? `“${each.step.label}”` : `The ${each.step.kind}`;
        this.explain(`${what} could not be kept, because the song was changed elsewhere: ${error.message}`);
      }
    }
    this.queue = fitting;
    this.keep();
    this.shown = state;
    this.changed(this.queue.length > 0 ? 'saving' : 'saved');
  }

  private changed(saveState: SaveState): void {
    const waiting = this.queue.length;
    if (saveState !== this.saving.saveState || waiting !== this.saving.waiting)
      this.saving = { saveState, waiting };
    this.listeners.forEach((listener) => listener());
  }

  private get keeperKey(): string {
    return `plundra.unsaved.${this.confirmed.song.id}`;
  }

  private keep(): void {
    try {
      if (this.queue.length === 0) this.keeper.removeItem(this.keeperKey);
      else this.keeper.setItem(this.keeperKey, JSON.stringify(this.queue));
    } catch {
      // The browser's storage is full or off; the queue lives on in this window.
    }
  }

  private readKept(): Queued[] {
    try {
      return JSON.parse(this.keeper.getItem(this.keeperKey) ?? '[]') as Queued[];
    } catch {
      return [];
    }
  }
}
