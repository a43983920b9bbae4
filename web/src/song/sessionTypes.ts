/** What a session of a song needs from around it, and what it tells. */
import type { HistoryEntry, SongDocument, StepsRequest, StepsResponse } from '@plundra/contract';
import type { Step } from '@plundra/core/song';

/** `gone`: the song was deleted elsewhere; what waits is kept. */
export type SaveState = 'saved' | 'saving' | 'offline' | 'gone';

export interface Saving {
  saveState: SaveState;
  /** Steps that are not saved yet. */
  waiting: number;
}

export interface SessionServer {
  /** `asked`: ids of requests; the answer says which of them are in the song. */
  song(id: string, asked: readonly string[]): Promise<SongDocument>;
  songRevision(id: string): Promise<number>;
  sendSteps(id: string, request: StepsRequest): Promise<StepsResponse>;
  historyEntry(id: string, entryId: string): Promise<HistoryEntry>;
}

/** A step on its way. */
export interface WaitingStep {
  requestId: string;
  step: Step;
}

/** Where steps are kept until they are saved, so that they outlive the window. */
export interface StepStore {
  keep(songId: string, step: WaitingStep): void;
  drop(requestIds: readonly string[]): void;
}

export interface SessionOptions {
  outbox: StepStore;
  /** Steps kept by a window that closed before they were saved. */
  kept?: readonly WaitingStep[];
  /** Says to the user what could not be done. */
  explain(message: string): void;
  clientId?: string;
  /** When a new step may be sent: the page shows it first. */
  soon?(action: () => void): void;
  /** Does something after a while. */
  later?(action: () => void, ms: number): void;
}
