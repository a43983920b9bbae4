/** Steps of songs as rows: what was taken, and which requests are known. */
import type { Knex } from 'knex';
import type { StepsRequest, TakenStep } from '@plundra/contract';
import { EDIT_VERSION, applyStep, type SongState, type Step, type Taken } from '@plundra/core/song';
import { findEntry } from './historyRows.ts';

/** A step that was taken, for those who hear of it. */
export interface TakenRow {
  requestId: string;
  revision: number;
  step: TakenStep;
}

/** A step on a song, with what the history knows of it. */
export async function take(transaction: Knex, state: SongState, step: Step): Promise<Taken> {
  const entry = step.kind === 'do' ? undefined : await findEntry(transaction, state.song, step.id);
  return applyStep(state, step, entry);
}

export function takenStep(step: Step, { applied }: Taken): TakenStep {
  return step.kind === 'do'
    ? { kind: 'do', id: step.id, label: step.label, edit: applied }
    : { kind: step.kind, id: step.id, edit: applied };
}

/** Returns how long the step is as a text. */
export async function writeStep(
  transaction: Knex,
  songId: string,
  { requestId, revision, step }: TakenRow,
): Promise<number> {
  const text = JSON.stringify(step);
  await transaction('steps').insert({
    song_id: songId,
    revision,
    request_id: requestId,
    step: text,
    version: EDIT_VERSION,
    created_at: new Date().toISOString(),
  });
  return text.length;
}

/** The revisions to which requests have led. */
export async function knownRequests(
  transaction: Knex,
  songId: string,
  { steps }: StepsRequest,
): Promise<Map<string, number>> {
  const rows = (await transaction('steps')
    .where('song_id', songId)
    .whereIn(
      'request_id',
      steps.map(({ requestId }) => requestId),
    )
    .select('request_id', 'revision')) as { request_id: string; revision: number }[];
  return new Map(rows.map((row) => [row.request_id, row.revision]));
}

/** Requests that were refused once. */
export async function knownRefusals(
  transaction: Knex,
  songId: string,
  { steps }: StepsRequest,
): Promise<Map<string, string>> {
  const rows = (await transaction('refusals')
    .where('song_id', songId)
    .whereIn(
      'request_id',
      steps.map(({ requestId }) => requestId),
    )
    .select('request_id', 'reason')) as { request_id: string; reason: string }[];
  return new Map(rows.map((row) => [row.request_id, row.reason]));
}
