/** A server in memory that follows the rules of the real one (server/src/store/songStore.ts). */
import {
  STALE_REVISION,
  type HistoryEntry,
  type ServerEvent,
  type SongDocument,
  type StepsRequest,
  type StepsResponse,
  type TakenStep,
} from '@plundra/contract';
import {
  createSong,
  EditError,
  EMPTY_HISTORY,
  applyStep,
  type Reversible,
  type Song,
  type SongState,
  type Step,
} from '@plundra/core/song';
import { ApiError } from '../api/apiError.ts';
import type { SessionServer } from '../song/sessionTypes.ts';

export type SongEvent = Extract<ServerEvent, { type: 'song' }>;

export class SongServer implements SessionServer {
  state: SongState;
  revision = 0;
  /** Every step that was taken, in order. */
  readonly log: { requestId: string; step: TakenStep }[] = [];
  readonly listeners = new Set<(event: SongEvent) => void>();
  private readonly refusals = new Map<string, string>();
  private readonly entries = new Map<string, Reversible & { label: string }>();

  constructor(song: Song = createSong('s', 'start')) {
    this.state = { song, history: EMPTY_HISTORY };
  }

  document(asked: readonly string[] = []): SongDocument {
    const { song, history } = this.state;
    const stored = new Set(this.log.map(({ requestId }) => requestId));
    const recent = this.log.slice(-100).map(({ requestId }) => requestId);
    return {
      song,
      revision: this.revision,
      history: { done: [...history.done], undone: [...history.undone] },
      storedRequestIds: [...new Set([...recent, ...asked.filter((id) => stored.has(id))])],
    };
  }

  async song(_id: string, asked: readonly string[] = []): Promise<SongDocument> {
    return this.document(asked);
  }

  async songRevision(): Promise<number> {
    return this.revision;
  }

  async historyEntry(_id: string, entryId: string): Promise<HistoryEntry> {
    const entry = this.entries.get(entryId);
    if (!entry) throw new ApiError(404, 'entry_not_found', 'This step is too long ago to be undone.');
    return { id: entryId, ...entry };
  }

  async sendSteps(_id: string, request: StepsRequest): Promise<StepsResponse> {
    const revisionOf = (requestId: string) => this.log.findIndex((each) => each.requestId === requestId) + 1;
    const known = request.steps.map(({ requestId }) => revisionOf(requestId)).filter((at) => at > 0);
    const own = known.filter((at) => at > request.baseRevision).length;
    const isNew = known.length < request.steps.length;
    if (isNew && !request.onTop && this.revision - request.baseRevision !== own)
      throw new ApiError(409, STALE_REVISION, 'stale', { revision: this.revision });
    return {
      outcomes: request.steps.map(({ requestId, step }) => {
        const at = revisionOf(requestId);
        if (at > 0) return { requestId, revision: at };
        const refused = this.refusals.get(requestId);
        if (refused !== undefined) return { requestId, refused };
        try {
          this.take(step as Step, requestId, request.clientId);
          return { requestId, revision: this.revision };
        } catch (error) {
          if (!(error instanceof EditError)) throw error;
          this.refusals.set(requestId, error.message);
          return { requestId, refused: error.message };
        }
      }),
    };
  }

  take(step: Step, requestId = `other-${this.revision}`, clientId = 'them'): void {
    const taken = applyStep(this.state, step, this.entries.get(step.id));
    this.state = taken.state;
    this.revision++;
    if (step.kind !== 'undo')
      this.entries.set(step.id, {
        label: step.kind === 'do' ? step.label : this.entries.get(step.id)!.label,
        edit: taken.edit,
        inverse: taken.inverse,
      });
    const told = { ...step, edit: taken.applied } as TakenStep;
    this.log.push({ requestId, step: told });
    const event: SongEvent = {
      type: 'song',
      songId: 's',
      revision: this.revision,
      clientId,
      requestId,
      step: told,
    };
    this.listeners.forEach((listener) => listener(event));
  }
}
