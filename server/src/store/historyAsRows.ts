/**
 * Songs as the first releases stored them: a snapshot of song and history together, and steps of which an undo names
 * only what it takes back. Each is replayed once to its newest step and stored as rows. A song whose steps cannot be
 * replayed keeps its snapshot and its steps; what can be read of it is offered when it is opened.
 */
import type { Knex } from 'knex';
import { applyEdit, upgradeEdit, upgradeSong, type Edit, type Song } from '@plundra/core/song';

interface OldEntry {
  id: string;
  label: string;
  edit: Edit;
  inverse: Edit;
}
type OldStep = { kind: 'do'; id: string; label: string; edit: Edit } | { kind: 'undo' | 'redo'; id: string };
interface OldState {
  song: Song;
  history: { done: OldEntry[]; undone: OldEntry[] };
}
interface OldRow {
  id: string;
  revision: number;
  snapshot: string;
  snapshot_revision: number;
}

const VERSION = 1;
const LIMIT = 200;

export async function historyAsRows(knex: Knex): Promise<void> {
  const songs = (await knex('songs').select('id')) as { id: string }[];
  for (const { id } of songs) {
    const row = (await knex('songs').where({ id }).first()) as OldRow;
    const steps = (await knex('steps')
      .where('song_id', id)
      .where('revision', '>', row.snapshot_revision)
      .orderBy('revision')) as { step: string }[];
    const state = replayed(row.snapshot, steps);
    if (!state) {
      await knex('snapshots').insert({
        song_id: id,
        revision: row.snapshot_revision,
        song: songTextOf(row.snapshot),
      });
      continue;
    }
    await knex('snapshots').insert({ song_id: id, revision: row.revision, song: JSON.stringify(state.song) });
    const { done, undone } = state.history;
    const entries = [
      ...done.map((entry) => ({ ...entry, state: 'done' })),
      // What was undone last is done again first: it stands next to what is done.
      ...[...undone].reverse().map((entry) => ({ ...entry, state: 'undone' })),
    ];
    for (const [position, entry] of entries.entries()) {
      const [edit, inverse] = [JSON.stringify(entry.edit), JSON.stringify(entry.inverse)];
      await knex('history').insert({
        song_id: id,
        position,
        id: entry.id,
        label: entry.label,
        state: entry.state,
        version: VERSION,
        edit,
        inverse,
        bytes: edit.length + inverse.length,
      });
    }
  }
}

/** Undefined where the song cannot be read to its end. */
function replayed(snapshot: string, steps: readonly { step: string }[]): OldState | undefined {
  try {
    const { song, history } = JSON.parse(snapshot) as OldState;
    let state: OldState = { song: upgradeSong(song), history };
    for (const { step } of steps) state = taken(state, JSON.parse(step) as OldStep);
    upgradeSong(state.song);
    return state;
  } catch {
    return undefined;
  }
}

function taken({ song, history: { done, undone } }: OldState, step: OldStep): OldState {
  const apply = (edit: Edit) => applyEdit(song, upgradeEdit(edit, VERSION, song));
  if (step.kind === 'do') {
    const applied = apply(step.edit);
    const entry = { id: step.id, label: step.label, edit: step.edit, inverse: applied.inverse };
    return { song: applied.song, history: { done: [...done, entry].slice(-LIMIT), undone: [] } };
  }
  const entry = (step.kind === 'undo' ? done : undone).at(-1);
  if (entry?.id !== step.id) throw new Error('The steps of this song are not in order.');
  if (step.kind === 'undo')
    return {
      song: apply(entry.inverse).song,
      history: { done: done.slice(0, -1), undone: [...undone, entry] },
    };
  const { song: again, inverse } = apply(entry.edit);
  return { song: again, history: { done: [...done, { ...entry, inverse }], undone: undone.slice(0, -1) } };
}

/** The song in a snapshot that cannot be replayed: as it stands there, whatever it is. */
function songTextOf(snapshot: string): string {
  try {
    return JSON.stringify((JSON.parse(snapshot) as OldState).song);
  } catch {
    return snapshot;
  }
}
