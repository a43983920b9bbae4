/**
 * Songs on disk: a snapshot of the song with its history, and every step since as a row of its own. A step is
 * acknowledged only when its row is committed, so an acknowledged edit survives the process.
 */
import { randomUUID } from 'node:crypto';
import type { Knex } from 'knex';
import { STALE_REVISION, type SongDocument, type SongSummary, type StepRequest } from '@plundra/contract';
import {
  createSong,
  EditError,
  EMPTY_HISTORY,
  songSchema,
  takeStep,
  type Song,
  type SongState,
  type Step,
} from '@plundra/core/song';
import { asStorageProblem, Problem } from './problem.ts';

/** A snapshot is written once in so many steps; between them a step costs one small row. */
const SNAPSHOT_EVERY = 25;
/** Requests told to a page that opens a song. */
const RECENT_REQUESTS = 50;
/** Songs kept parsed in memory. */
const CACHED_SONGS = 8;

interface SongRow {
  id: string;
  revision: number;
  summary: string;
  snapshot: string;
  snapshot_revision: number;
  updated_at: string;
  deleted_at: string | null;
}

interface Cached {
  state: SongState;
  revision: number;
  snapshotRevision: number;
}

export interface SongStore {
  list(): Promise<SongSummary[]>;
  read(id: string): Promise<SongDocument>;
  create(title: string): Promise<SongDocument>;
  /** Stores a whole song under its id; fails when the id is taken. */
  insert(song: Song): Promise<SongDocument>;
  copy(id: string): Promise<SongDocument>;
  remove(id: string): Promise<void>;
  restore(id: string): Promise<void>;
  /** Takes a step; repeats of a request answer with the revision it led to. */
  step(id: string, request: StepRequest): Promise<{ revision: number; repeated: boolean }>;
}

export function createSongStore(database: Knex): SongStore {
  const cache = new Map<string, Cached>();
  const queues = new Map<string, Promise<unknown>>();

  /** Steps of one song run one after the other, so that none is computed on a state that changes meanwhile. */
  const inTurn = <T>(id: string, work: () => Promise<T>): Promise<T> => {
    const turn = (queues.get(id) ?? Promise.resolve()).then(work, work);
    const settled = turn.catch(() => undefined);
    queues.set(id, settled);
    void settled.then(() => queues.get(id) === settled && queues.delete(id));
    return turn;
  };

  const load = async (id: string): Promise<Cached> => {
    const held = cache.get(id);
    const row = await database<SongRow>('songs').where({ id }).first();
    if (!row || row.deleted_at) throw songNotFound();
    // Another process (the command line) may have taken steps since.
    if (held && held.revision === row.revision) return held;
    let state = JSON.parse(row.snapshot) as SongState;
    const steps = await database('steps')
      .where('song_id', id)
      .where('revision', '>', row.snapshot_revision)
      .orderBy('revision');
    for (const each of steps as { step: string }[]) state = takeStep(state, JSON.parse(each.step) as Step);
    const loaded = { state, revision: row.revision, snapshotRevision: row.snapshot_revision };
    remember(id, loaded);
    return loaded;
  };

  const remember = (id: string, entry: Cached) => {
    cache.delete(id);
    cache.set(id, entry);
    const oldest = cache.keys().next().value;
    if (cache.size > CACHED_SONGS && oldest !== undefined) cache.delete(oldest);
  };

  const insert = async (song: Song): Promise<SongDocument> => {
    const now = new Date().toISOString();
    const state: SongState = { song: songSchema.parse(song), history: EMPTY_HISTORY };
    const row = {
      id: song.id,
      revision: 0,
      summary: JSON.stringify(summarise(song)),
      snapshot: JSON.stringify(state),
      snapshot_revision: 0,
      created_at: now,
      updated_at: now,
    };
    await database('songs').insert(row).catch(rethrow);
    return { song: state.song, revision: 0, history: { done: [], undone: [] }, recentRequestIds: [] };
  };

  return {
    async list() {
      const rows = await database<SongRow>('songs')
        .whereNull('deleted_at')
        .orderBy('updated_at', 'desc')
        .select('id', 'summary', 'revision', 'updated_at');
      return rows.map((row) => ({
        ...JSON.parse(row.summary),
        id: row.id,
        revision: row.revision,
        updatedAt: row.updated_at,
      }));
    },
    async read(id) {
      const { state, revision } = await load(id);
      const recent = (await database('steps')
        .where('song_id', id)
        .orderBy('revision', 'desc')
        .limit(RECENT_REQUESTS)
        .select('request_id')) as { request_id: string }[];
      return {
        song: state.song,
        revision,
        history: { done: [...state.history.done], undone: [...state.history.undone] },
        recentRequestIds: recent.map((row) => row.request_id),
      };
    },
    create: (title) => insert(createSong(randomUUID(), title)),
    insert,
    async copy(id) {
      const { state } = await load(id);
      return insert({ ...state.song, id: randomUUID(), title: `${state.song.title.slice(0, 190)} (copy)` });
    },
    async remove(id) {
      const count = await database('songs')
        .where({ id })
        .whereNull('deleted_at')
        .update({ deleted_at: new Date().toISOString() })
        .catch(rethrow);
      if (count === 0) throw songNotFound();
    },
    async restore(id) {
      const count = await database('songs').where({ id }).update({ deleted_at: null }).catch(rethrow);
      if (count === 0) throw songNotFound();
    },
    step: (id, request) =>
      inTurn(id, async () => {
        const known = await database('steps').where({ song_id: id, request_id: request.requestId }).first();
        if (known) return { revision: (known as { revision: number }).revision, repeated: true };
        const current = await load(id);
        if (current.revision !== request.baseRevision) {
          throw new Problem(
            409,
            STALE_REVISION,
            'The song was changed in another window meanwhile. Your change is put on top of it.',
            {
              revision: current.revision,
            },
          );
        }
        let state: SongState;
        try {
          state = takeStep(current.state, request.step);
        } catch (error) {
          if (error instanceof EditError) throw new Problem(422, 'edit_does_not_fit', error.message);
          throw error;
        }
        const revision = current.revision + 1;
        const now = new Date().toISOString();
        const snapshotDue = revision - current.snapshotRevision >= SNAPSHOT_EVERY;
        await database
          .transaction(async (transaction) => {
            await transaction('steps').insert({
              song_id: id,
              revision,
              request_id: request.requestId,
              step: JSON.stringify(request.step),
              created_at: now,
            });
            await transaction('songs')
              .where({ id })
              .update({
                revision,
                summary: JSON.stringify(summarise(state.song)),
                updated_at: now,
                ...(snapshotDue && { snapshot: JSON.stringify(state), snapshot_revision: revision }),
              });
          })
          .catch(rethrow);
        remember(id, {
          state,
          revision,
          snapshotRevision: snapshotDue ? revision : current.snapshotRevision,
        });
        return { revision, repeated: false };
      }),
  };
}

function summarise(song: Song): Omit<SongSummary, 'id' | 'revision' | 'updatedAt'> {
  const metre = song.metreMap[0];
  return {
    title: song.title,
    key: song.key,
    bpm: song.tempoMap[0].bpm,
    metre: `${metre.beats}/${metre.unit}`,
    partCount: song.parts.length,
  };
}

function songNotFound(): Problem {
  return new Problem(
    404,
    'song_not_found',
    'This song is not here any more; it may have been deleted. Go back to the songs and choose another.',
  );
}

function rethrow(error: unknown): never {
  throw asStorageProblem(error);
}
