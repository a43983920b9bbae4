/**
 * Songs on disk: now and then a snapshot, and every step as a row of its own. A step is acknowledged only when its row
 * is committed, so an acknowledged edit survives the process. docs/architecture.md tells the whole of it.
 */
import { randomUUID } from 'node:crypto';
import type { Knex } from 'knex';
import {
  MAX_STEPS,
  STALE_REVISION,
  type BinnedSong,
  type HistoryEntry,
  type SongDocument,
  type SongSummary,
  type StepsRequest,
  type StepsResponse,
} from '@plundra/contract';
import {
  createSong,
  EditError,
  SongFormatError,
  upgradeKey,
  upgradeSong,
  type Song,
} from '@plundra/core/song';
import { findEntry, writeHistory } from './historyRows.ts';
import { knownRefusals, knownRequests, take, takenStep, writeStep, type TakenRow } from './stepRows.ts';
import { asStorageProblem, Problem } from './problem.ts';
import {
  lastReadable,
  loadSong,
  rawRows,
  recordingsIn,
  songNotFound,
  type LoadedSong,
  type SongRow,
} from './songRows.ts';

/**
 * A snapshot is due after so many steps, fewer in a large song (a step goes through as many bytes as the song has, and
 * opening goes through all steps since); or after as many bytes of steps as the last snapshot has.
 */
const SNAPSHOT_STEPS = 50;
const REPLAYED_BYTES = 20_000_000;
const SNAPSHOT_BYTES = 1_000_000;
/** Older snapshots, and the steps before them, go. */
const KEPT_SNAPSHOTS = 3;
/** Songs kept parsed in memory. */
const CACHED_SONGS = 8;
/** How long a deleted song can be brought back. */
const BIN_DAYS = 30;
const DAY_MS = 24 * 3600 * 1000;

interface RequestRow {
  request_id: string;
}

export interface SongStore {
  list(): Promise<SongSummary[]>;
  bin(): Promise<BinnedSong[]>;
  /** `asked`: ids of requests; the answer says which of them are in the song. */
  read(id: string, asked?: readonly string[]): Promise<SongDocument>;
  revision(id: string): Promise<number>;
  entry(id: string, entryId: string): Promise<HistoryEntry>;
  create(title: string): Promise<SongDocument>;
  /** Stores a whole song under its id; fails when the id is taken. */
  insert(song: Song): Promise<SongDocument>;
  copy(id: string): Promise<SongDocument>;
  /** The last state of a song that can be read, as a song of its own. */
  recover(id: string): Promise<SongDocument>;
  /** Everything that is stored of a song, line by line, each a JSON text. */
  raw(id: string): AsyncIterable<string>;
  remove(id: string): Promise<void>;
  restore(id: string): Promise<void>;
  /** Takes a song out of the bin for good. */
  purge(id: string): Promise<void>;
  /** Takes steps in one transaction; repeats of a request answer with the revision it led to. */
  steps(id: string, request: StepsRequest): Promise<StepsResponse & { taken: TakenRow[] }>;
}

export function createSongStore(database: Knex): SongStore {
  const cache = new Map<string, LoadedSong>();
  const queues = new Map<string, Promise<unknown>>();

  /** Steps of one song run one after the other, so that none is computed on a state that changes meanwhile. */
  const inTurn = <T>(id: string, work: () => Promise<T>): Promise<T> => {
    const turn = (queues.get(id) ?? Promise.resolve()).then(work, work);
    const settled = turn.catch(() => undefined);
    queues.set(id, settled);
    void settled.then(() => queues.get(id) === settled && queues.delete(id));
    return turn;
  };

  /** Rows of one moment. */
  const together = <T>(work: (transaction: Knex.Transaction) => Promise<T>): Promise<T> =>
    database.transaction(work).catch(rethrow);

  const load = async (transaction: Knex, id: string): Promise<LoadedSong> => {
    const row = await transaction<SongRow>('songs').where({ id }).first();
    if (!row || row.deleted_at) throw songNotFound();
    const held = cache.get(id);
    // Another process (the command line) may have taken steps since.
    if (held && held.revision === row.revision) return held;
    const loaded = await loadSong(transaction, row);
    remember(id, loaded);
    return loaded;
  };

  const remember = (id: string, entry: LoadedSong) => {
    cache.delete(id);
    cache.set(id, entry);
    const oldest = cache.keys().next().value;
    if (cache.size > CACHED_SONGS && oldest !== undefined) cache.delete(oldest);
  };

  const insert = async (made: Song): Promise<SongDocument> => {
    const song = fitting(made);
    const now = new Date().toISOString();
    await together(async (transaction) => {
      await transaction('songs').insert({
        id: song.id,
        revision: 0,
        summary: JSON.stringify(summarise(song)),
        created_at: now,
        updated_at: now,
      });
      await transaction('snapshots').insert({ song_id: song.id, revision: 0, song: JSON.stringify(song) });
    });
    return { song, revision: 0, history: { done: [], undone: [] }, storedRequestIds: [] };
  };

  const rowOf = async (id: string): Promise<SongRow> => {
    const row = await database<SongRow>('songs').where({ id }).first();
    if (!row) throw songNotFound();
    return row;
  };

  /** Between steps, so that no step waits for it. */
  const snapshot = (id: string): Promise<void> =>
    inTurn(id, async () => {
      const held = cache.get(id);
      if (!held || !isSnapshotDue(held)) return;
      const song = JSON.stringify(held.state.song);
      await together(async (transaction) => {
        const row = await transaction<SongRow>('songs').where({ id }).first();
        if (row?.revision !== held.revision) return;
        await transaction('snapshots').insert({ song_id: id, revision: held.revision, song });
        const kept = (await transaction('snapshots')
          .where('song_id', id)
          .orderBy('revision', 'desc')
          .limit(KEPT_SNAPSHOTS)
          .select('revision')) as { revision: number }[];
        const oldest = kept[kept.length - 1].revision;
        await transaction('snapshots').where('song_id', id).where('revision', '<', oldest).delete();
        // The names of requests stay: a repeat of one must still be known.
        await transaction('steps')
          .where('song_id', id)
          .where('revision', '<=', oldest)
          .whereNot('step', '')
          .update({ step: '' });
      });
      held.since = { steps: 0, bytes: 0 };
      held.snapshotBytes = song.length;
    });

  return {
    async list() {
      const rows = await database<SongRow>('songs').whereNull('deleted_at').orderBy('updated_at', 'desc');
      return rows.map(summaryOf);
    },
    async bin() {
      const rows = await database<SongRow>('songs').whereNotNull('deleted_at').orderBy('deleted_at', 'desc');
      return rows.map((row) => ({
        ...summaryOf(row),
        deletedAt: row.deleted_at!,
        goneAt: new Date(Date.parse(row.deleted_at!) + BIN_DAYS * DAY_MS).toISOString(),
      }));
    },
    read: (id, asked = []) =>
      together(async (transaction) => {
        const { state, revision } = await load(transaction, id);
        const names = transaction('steps').where('song_id', id).select('request_id');
        // The newest are told unasked: a window may have sent one after it asked.
        const recent = (await names.clone().orderBy('revision', 'desc').limit(MAX_STEPS)) as RequestRow[];
        const older = (await names.clone().whereIn('request_id', [...asked])) as RequestRow[];
        return {
          song: state.song,
          revision,
          history: { done: [...state.history.done], undone: [...state.history.undone] },
          storedRequestIds: [...new Set([...recent, ...older].map((row) => row.request_id))],
        };
      }),
    async revision(id) {
      const { revision, deleted_at } = await rowOf(id);
      if (deleted_at) throw songNotFound();
      return revision;
    },
    entry: (id, entryId) =>
      together(async (transaction) => {
        const { state } = await load(transaction, id);
        const entry = await findEntry(transaction, state.song, entryId);
        if (!entry) throw new Problem(404, 'entry_not_found', 'This step is too long ago to be undone.');
        return entry;
      }),
    create: (title) => insert(createSong(randomUUID(), title)),
    insert,
    async copy(id) {
      const { state } = await together((transaction) => load(transaction, id));
      return insert({ ...state.song, id: randomUUID(), title: titleWith(state.song.title, 'copy') });
    },
    async recover(id) {
      const found = await lastReadable(database, await rowOf(id));
      if (!found)
        throw new Problem(
          422,
          'nothing_readable',
          'No state of this song can be read any more. Save its raw data as a file, or bring the song back from a backup on the songs page.',
        );
      return insert({ ...found.song, id: randomUUID(), title: titleWith(found.song.title, 'recovered') });
    },
    raw: (id) => rawRows(database, id),
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
    purge: (id) =>
      inTurn(id, async () => {
        await together(async (transaction) => {
          const row = await transaction<SongRow>('songs').where({ id }).whereNotNull('deleted_at').first();
          if (!row) throw songNotFound();
          for await (const line of rawRows(transaction, id))
            for (const hash of recordingsIn(line))
              await transaction('discarded').insert({ hash }).onConflict('hash').ignore();
          await transaction('songs').where({ id }).delete();
        });
        cache.delete(id);
      }),
    steps: (id, request) =>
      inTurn(id, async () => {
        const result = await together(async (transaction) => {
          let current = await load(transaction, id);
          const known = await knownRequests(transaction, id, request);
          const refusals = await knownRefusals(transaction, id, request);
          const missed = current.revision - request.baseRevision;
          const own = [...known.values()].filter((revision) => revision > request.baseRevision).length;
          const isNew = request.steps.some(({ requestId }) => !known.has(requestId));
          if (isNew && !request.onTop && missed !== own) throw stale(current.revision);
          const outcomes: StepsResponse['outcomes'] = [];
          const taken: TakenRow[] = [];
          for (const { requestId, step } of request.steps) {
            const before = known.get(requestId);
            if (before !== undefined) {
              outcomes.push({ requestId, revision: before });
              continue;
            }
            const reason = refusals.get(requestId);
            if (reason !== undefined) {
              outcomes.push({ requestId, refused: reason });
              continue;
            }
            try {
              const made = await take(transaction, current.state, step);
              const row = { requestId, revision: current.revision + 1, step: takenStep(step, made) };
              const bytes = await writeStep(transaction, id, row);
              await writeHistory(transaction, id, step, made);
              current = {
                ...current,
                state: made.state,
                revision: row.revision,
                since: { steps: current.since.steps + 1, bytes: current.since.bytes + bytes },
              };
              known.set(requestId, row.revision);
              taken.push(row);
              outcomes.push({ requestId, revision: row.revision });
            } catch (error) {
              if (!(error instanceof EditError)) throw error;
              const reason = error.message;
              refusals.set(requestId, reason);
              await transaction('refusals').insert({ song_id: id, request_id: requestId, reason });
              outcomes.push({ requestId, refused: reason });
            }
          }
          if (taken.length > 0)
            await transaction('songs')
              .where({ id })
              .update({
                revision: current.revision,
                summary: JSON.stringify(summarise(current.state.song)),
                updated_at: new Date().toISOString(),
              });
          return { outcomes, taken, current };
        });
        remember(id, result.current);
        if (isSnapshotDue(result.current)) setImmediate(() => void snapshot(id).catch(() => undefined));
        return { outcomes: result.outcomes, taken: result.taken };
      }),
  };
}

const isSnapshotDue = ({ since, snapshotBytes }: LoadedSong) =>
  since.steps >= SNAPSHOT_STEPS ||
  since.steps * snapshotBytes >= REPLAYED_BYTES ||
  since.bytes >= Math.max(SNAPSHOT_BYTES, snapshotBytes);

const titleWith = (title: string, what: string) => `${title.slice(0, 180)} (${what})`;

/** The song as it can be stored. */
function fitting(song: Song): Song {
  try {
    return upgradeSong(song);
  } catch (error) {
    if (!(error instanceof SongFormatError)) throw error;
    throw new Problem(422, 'song_does_not_fit', `${error.message} It was not stored.`);
  }
}

function summaryOf(row: SongRow): SongSummary {
  const summary = JSON.parse(row.summary) as Omit<SongSummary, 'id' | 'revision' | 'updatedAt'>;
  return {
    ...summary,
    // Songs that were not opened since have their key in the shape of an older release.
    key: upgradeKey(summary.key) as SongSummary['key'],
    id: row.id,
    revision: row.revision,
    updatedAt: row.updated_at,
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

function stale(revision: number): Problem {
  return new Problem(
    409,
    STALE_REVISION,
    'The song was changed in another window meanwhile. Your change is put on top of it.',
    { revision },
  );
}

function rethrow(error: unknown): never {
  throw asStorageProblem(error);
}
