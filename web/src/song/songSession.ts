/**
 * One open song: edits are applied at once and queued; the queue is sent in order. Steps are known by the id of their
 * request, never by their place in the queue: answers may come late, twice, in another order, or not at all, and a
 * newer song may hold steps whose answer never came.
 *
 * `confirmed` is the song as the server has it at `revision`; `shown` is that with the queue on top.
 */
import {
  MAX_STEPS,
  STALE_REVISION,
  type ServerEvent,
  type SongDocument,
  type StepsRequest,
  type StepsResponse,
  type TakenStep,
} from '@plundra/contract';
import {
  applyEdit,
  compactEdit,
  EditError,
  HISTORY_LIMIT,
  nextInLine,
  applyStep,
  type Edit,
  type HistoryItem,
  type SongState,
  type Step,
} from '@plundra/core/song';
import { ApiError } from '../api/apiError.ts';
import { KnownEntries } from './knownEntries.ts';
import type { SaveState, Saving, SessionOptions, SessionServer, WaitingStep } from './sessionTypes.ts';

interface Queued extends WaitingStep {
  /** It may have arrived, or arrive yet: only the server can say what becomes of it. */
  sent?: boolean;
  /** It is in the song already, at a revision that is still to be heard of. */
  stored?: boolean;
}

export const RETRY_MS = 1500;
/** Steps that are sent together take no more than this, except one alone. */
const MAX_BYTES = 4_000_000;
/** What a browser still sends of a page that goes. */
const LAST_WORDS_BYTES = 60_000;

export class SongSession {
  private confirmed: SongState;
  private revision: number;
  private shown: SongState;
  private queue: Queued[] = [];
  private readonly entries = new KnownEntries();
  /** The highest revision that is known to exist. */
  private newest: number;
  private saving: Saving = { saveState: 'saved', waiting: 0 };
  private sending = false;
  private catching: Promise<void> | undefined;
  private retrying = false;
  /** Steps that are sent together: one, after the server could not take several. */
  private most = MAX_STEPS;
  private stepping: Promise<unknown> | undefined;
  private closed = false;
  private readonly clientId: string;
  private readonly listeners = new Set<() => void>();

  constructor(
    document: SongDocument,
    private readonly server: SessionServer,
    private readonly options: SessionOptions,
  ) {
    this.clientId = options.clientId ?? crypto.randomUUID();
    this.confirmed = { song: document.song, history: document.history };
    this.revision = this.newest = document.revision;
    this.shown = this.confirmed;
    const stored = new Set(document.storedRequestIds);
    const kept = options.kept ?? [];
    options.outbox.drop(kept.map(({ requestId }) => requestId).filter((id) => stored.has(id)));
    this.queue = kept
      .filter(({ requestId }) => !stored.has(requestId))
      .map((waiting) => ({ ...waiting, sent: true }));
    if (this.queue.length > 0) {
      this.replay();
      void this.send();
    }
  }

  get songId(): string {
    return this.confirmed.song.id;
  }

  subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  /** Song and history as they are shown: a new object after every change, the same one in between. */
  getState = (): SongState => this.shown;

  /** A new object after every change, the same one in between. */
  getSaving = (): Saving => this.saving;

  /** Applies an edit and queues it. An edit that does not fit is explained and changes nothing. */
  apply(label: string, edit: Edit): boolean {
    const short = compactEdit(this.shown.song, edit);
    return this.take({ kind: 'do', id: crypto.randomUUID(), label, edit: short });
  }

  /** Takes back what was done last; what was done before this window was opened is asked for first. */
  undo = (): Promise<HistoryItem | undefined> => this.stepBack('undo');
  redo = (): Promise<HistoryItem | undefined> => this.stepBack('redo');

  /** Steps of a window that closed; they come behind those that wait here. */
  adopt(kept: readonly WaitingStep[]): void {
    const known = new Set(this.queue.map(({ requestId }) => requestId));
    const added = kept.filter(({ requestId }) => !known.has(requestId));
    if (added.length === 0) return;
    this.queue.push(...added.map((waiting) => ({ ...waiting, sent: true })));
    this.replay();
    void this.send();
  }

  /** A step that this or another window took. */
  hear(event: Extract<ServerEvent, { type: 'song' }>): void {
    if (event.songId !== this.songId || this.closed) return;
    this.newest = Math.max(this.newest, event.revision);
    if (event.revision > this.revision + 1) return void this.catchUp();
    if (event.revision <= this.revision) {
      if (this.remove([event.requestId])) this.replay();
      return;
    }
    const wasNext = this.queue.at(0)?.requestId === event.requestId;
    this.confirm(event.step);
    this.remove([event.requestId]);
    // The prediction was right.
    if (wasNext) this.changed();
    else this.replay();
  }

  /** Asks the server for the newest song and puts the queue on top of it. */
  catchUp(): Promise<void> {
    this.catching ??= this.fetchNewest().finally(() => (this.catching = undefined));
    return this.catching;
  }

  /** Something may have been missed: looks whether the song went on, and sends what waits. */
  async look(): Promise<void> {
    try {
      this.newest = Math.max(this.newest, await this.server.songRevision(this.songId));
      if (this.newest > this.revision || this.saving.saveState === 'gone') await this.catchUp();
      else void this.send();
    } catch (error) {
      this.failed(error, []);
    }
  }

  /** Steps that are not known to be saved. */
  waitingSteps(): WaitingStep[] {
    return this.queue.map(({ requestId, step }) => ({ requestId, step }));
  }

  /** What a page that goes should still send: the steps that wait, as far as a browser takes them along. */
  lastWords(): StepsRequest | undefined {
    const steps = this.batch(LAST_WORDS_BYTES, MAX_STEPS, 0);
    return steps.length > 0
      ? { clientId: this.clientId, baseRevision: this.revision, onTop: true, steps }
      : undefined;
  }

  /** Whether nothing waits to be saved or to be undone. */
  isAtRest(): boolean {
    return this.queue.length === 0 && !this.stepping;
  }

  /** Goes on after it was ended. */
  resume(): void {
    if (!this.closed) return;
    this.closed = false;
    void this.look();
  }

  /** Ends it at once; what waits stays kept. */
  close(): void {
    this.closed = true;
  }

  private take(step: Step): boolean {
    try {
      const taken = applyStep(this.shown, step, this.entries.of(step.id));
      this.shown = taken.state;
      this.entries.predict(step.id, taken);
    } catch (error) {
      if (!(error instanceof EditError)) throw error;
      this.options.explain(error.message);
      return false;
    }
    const waiting = { requestId: crypto.randomUUID(), step };
    this.queue.push(waiting);
    this.options.outbox.keep(this.songId, waiting);
    this.changed();
    const send = () => void this.send();
    if (this.options.soon) this.options.soon(send);
    else send();
    return true;
  }

  private stepBack(kind: 'undo' | 'redo'): Promise<HistoryItem | undefined> {
    const run = async () => {
      if (this.closed) return undefined;
      const item = nextInLine(this.shown.history, kind);
      if (!item) return undefined;
      if (!this.entries.of(item.id)) {
        try {
          this.entries.learn(item.id, await this.server.historyEntry(this.songId, item.id));
        } catch (error) {
          this.options.explain(
            error instanceof ApiError && error.status > 0
              ? error.message
              : 'This was done before the window was opened, and can be taken back as soon as the server is reached again.',
          );
          return undefined;
        }
        // Something may have been done meanwhile.
        if (this.closed || nextInLine(this.shown.history, kind)?.id !== item.id) return undefined;
      }
      return this.take({ kind, id: item.id }) ? item : undefined;
    };
    // One after the other; at once where nothing has to be asked for.
    const result = this.stepping ? this.stepping.then(run, run) : run();
    const settled = result
      .catch(() => undefined)
      .then(() => {
        if (this.stepping !== settled) return;
        this.stepping = undefined;
        this.changed();
      });
    this.stepping = settled;
    return result;
  }

  /** The next revision of the confirmed song. */
  private confirm(step: TakenStep): void {
    const { song, inverse } = applyEdit(this.confirmed.song, step.edit);
    const { done, undone } = this.confirmed.history;
    this.revision++;
    if (step.kind === 'do') {
      this.entries.learn(step.id, { edit: step.edit, inverse });
      const item = { id: step.id, label: step.label };
      this.confirmed = { song, history: { done: [...done, item].slice(-HISTORY_LIMIT), undone: [] } };
      return;
    }
    const item = nextInLine(this.confirmed.history, step.kind)!;
    if (step.kind === 'undo') {
      this.confirmed = { song, history: { done: done.slice(0, -1), undone: [...undone, item] } };
      return;
    }
    this.entries.learn(step.id, { edit: step.edit, inverse });
    this.confirmed = { song, history: { done: [...done, item], undone: undone.slice(0, -1) } };
  }

  /** The first steps of the queue that are not in the song yet, within an amount of bytes. */
  private batch(bytes: number, most: number, least: number): StepsRequest['steps'] {
    const steps: StepsRequest['steps'] = [];
    let sum = 0;
    for (const waiting of this.queue) {
      const { requestId, step, stored } = waiting;
      if (stored) continue;
      if (steps.length >= most) break;
      if (bytes < Infinity) sum += JSON.stringify(step).length + 100;
      if (steps.length >= least && sum > bytes) break;
      waiting.sent = true;
      steps.push({ requestId, step: step as StepsRequest['steps'][number]['step'] });
    }
    return steps;
  }

  private async send(): Promise<void> {
    if (this.sending || this.closed || this.saving.saveState === 'gone') return;
    const steps = this.batch(this.queue.length > 1 ? MAX_BYTES : Infinity, this.most, 1);
    if (steps.length === 0) return;
    this.sending = true;
    try {
      const { outcomes } = await this.server.sendSteps(this.songId, {
        clientId: this.clientId,
        baseRevision: this.revision,
        steps,
      });
      this.sending = false;
      this.most = MAX_STEPS;
      this.acknowledge(outcomes);
      void this.send();
    } catch (error) {
      this.sending = false;
      this.failed(error, steps);
    }
  }

  private acknowledge(outcomes: StepsResponse['outcomes']): void {
    let inOrder = true;
    for (const outcome of outcomes) {
      const waiting = this.queue.find(({ requestId }) => requestId === outcome.requestId);
      if ('refused' in outcome) {
        if (waiting) this.refuse(waiting, outcome.refused);
        inOrder = false;
        continue;
      }
      this.newest = Math.max(this.newest, outcome.revision);
      // It was heard of already, or came with a newer song.
      if (!waiting) continue;
      const entry = this.queue[0] === waiting ? this.confirmable(waiting) : undefined;
      if (outcome.revision === this.revision + 1 && entry) {
        this.confirm(entry);
        this.remove([outcome.requestId]);
      } else if (outcome.revision <= this.revision) {
        this.remove([outcome.requestId]);
        inOrder = false;
      } else waiting.stored = true;
    }
    if (inOrder) this.changed();
    else this.replay();
    if (this.newest > this.revision) void this.catchUp();
  }

  /** A step of the queue with the edit that the server went through, where that is known here. */
  private confirmable({ step }: WaitingStep): TakenStep | undefined {
    if (step.kind === 'do') return { ...step, edit: step.edit };
    const entry = this.entries.ofConfirmed(step.id);
    return entry && { kind: step.kind, id: step.id, edit: step.kind === 'undo' ? entry.inverse : entry.edit };
  }

  private async fetchNewest(): Promise<void> {
    try {
      const asked = this.queue.slice(0, MAX_STEPS).map(({ requestId }) => requestId);
      const document = await this.server.song(this.songId, asked);
      if (this.closed) return;
      this.newest = Math.max(this.newest, document.revision);
      if (document.revision >= this.revision) {
        this.remove(document.storedRequestIds);
        this.confirmed = { song: document.song, history: document.history };
        this.revision = document.revision;
        this.replay();
      }
      // An old answer that came late, or the song went on meanwhile.
      if (this.revision < this.newest) this.tryLater();
      void this.send();
    } catch (error) {
      this.failed(error, []);
    }
  }

  private failed(error: unknown, sent: readonly WaitingStep[]): void {
    if (this.closed) return;
    if (error instanceof ApiError && error.code === STALE_REVISION) {
      void this.catchUp();
      return;
    }
    if (error instanceof ApiError && error.code === 'song_not_found') {
      if (this.saving.saveState !== 'gone' && this.queue.length > 0)
        this.options.explain(
          'This song was deleted in another window. Your last changes are kept in this browser: bring the song back from the bin on the songs page, and they are saved.',
        );
      this.changed('gone');
      return;
    }
    const temporary = !(error instanceof ApiError) || error.status === 0 || error.status >= 500;
    if (temporary || sent.length === 0) {
      // A full disk is said once; being offline shows in the top line.
      if (error instanceof ApiError && error.status >= 500 && this.saving.saveState !== 'offline')
        this.options.explain(error.message);
      this.changed('offline');
      this.tryLater();
      return;
    }
    if (sent.length > 1) this.most = 1;
    else {
      const waiting = this.queue.find(({ requestId }) => requestId === sent[0].requestId);
      if (waiting) this.refuse(waiting, error.message);
      this.replay();
    }
    void this.send();
  }

  private tryLater(): void {
    if (this.retrying) return;
    this.retrying = true;
    const later = this.options.later ?? ((action, ms) => void setTimeout(action, ms));
    later(() => {
      this.retrying = false;
      if (this.closed) return;
      if (this.revision < this.newest || this.queue.length === 0) void this.catchUp();
      else void this.send();
    }, RETRY_MS);
  }

  /** Puts the waiting steps on top of the confirmed song; those that do not fit any more go, with a word. */
  private replay(): void {
    let state = this.confirmed;
    this.entries.forgetPredictions();
    for (const waiting of [...this.queue]) {
      const { step } = waiting;
      const entry = this.entries.of(step.id);
      if (step.kind !== 'do' && !entry) {
        // Sending goes on once it is known what should be taken back.
        void this.fetchEntry(step.id);
        break;
      }
      try {
        const taken = applyStep(state, step, entry);
        state = taken.state;
        this.entries.predict(step.id, taken);
      } catch (error) {
        if (!(error instanceof EditError)) throw error;
        if (!waiting.sent) this.refuse(waiting, `because the song was changed elsewhere: ${error.message}`);
      }
    }
    this.shown = state;
    this.changed();
  }

  private readonly fetching = new Set<string>();

  private async fetchEntry(entryId: string): Promise<void> {
    if (this.fetching.has(entryId)) return;
    this.fetching.add(entryId);
    try {
      this.entries.learn(entryId, await this.server.historyEntry(this.songId, entryId));
      this.fetching.delete(entryId);
      this.replay();
    } catch (error) {
      this.fetching.delete(entryId);
      if (error instanceof ApiError && error.status === 404) {
        for (const waiting of this.queue.filter(({ step }) => step.id === entryId && step.kind !== 'do'))
          this.refuse(waiting, error.message);
        this.replay();
      } else this.failed(error, []);
    }
  }

  /** The user is told of a step that is lost for good. */
  private refuse(waiting: Queued, reason: string): void {
    const { step } = waiting;
    const what = step.kind === 'do' ? `“${step.label}”` : `The ${step.kind}`;
    this.remove([waiting.requestId]);
    const because = reason.startsWith('because') ? `, ${reason}` : `: ${reason}`;
    this.options.explain(`${what} could not be kept${because}`);
  }

  /** Takes steps off the queue. Whether any was on it. */
  private remove(requestIds: readonly string[]): boolean {
    const gone = new Set(requestIds);
    const found = this.queue.filter(({ requestId }) => gone.has(requestId));
    if (found.length === 0) return false;
    this.queue = this.queue.filter(({ requestId }) => !gone.has(requestId));
    this.options.outbox.drop(found.map(({ requestId }) => requestId));
    return true;
  }

  private changed(saveState: SaveState = this.queue.length > 0 ? 'saving' : 'saved'): void {
    const waiting = this.queue.length;
    // New steps do not end being offline; an answer does.
    const stays = saveState === 'saving' && this.retrying && this.saving.saveState === 'offline';
    const next = stays ? 'offline' : saveState;
    if (next !== this.saving.saveState || waiting !== this.saving.waiting)
      this.saving = { saveState: next, waiting };
    this.listeners.forEach((listener) => listener());
  }
}
