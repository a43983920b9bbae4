/** Reading a song from its rows: the newest snapshot, and the steps since. */
import type { Knex } from 'knex';
import {
  applyEdit,
  EditError,
  SongFormatError,
  upgradeEdit,
  upgradeSong,
  type Edit,
  type Song,
  type SongState,
} from '@plundra/core/song';
import { readHistory } from './historyRows.ts';
import { Problem } from './problem.ts';

export interface SongRow {
  id: string;
  revision: number;
  summary: string;
  created_at: string;
  updated_at: string;
  deleted_at: string | null;
}

interface SnapshotRow {
  revision: number;
  song: string;
}
interface StepRow {
  revision: number;
  step: string;
  version: number;
}

export interface LoadedSong {
  state: SongState;
  revision: number;
  /** What a start from the disk would have to replay. */
  since: { steps: number; bytes: number };
  snapshotBytes: number;
}

/**
 * The song of a row. Throws a {@link Problem} that says what can be done where its data cannot be read. `database` is a
 * transaction, so that all rows are of one moment.
 */
export async function loadSong(database: Knex, row: SongRow): Promise<LoadedSong> {
  const snapshot = (await snapshotsOf(database, row.id, row.revision).first()) as SnapshotRow | undefined;
  const steps = snapshot ? await stepsBetween(database, row.id, snapshot.revision, row.revision) : [];
  try {
    if (!snapshot) throw new SongFormatError('Its data is missing.');
    let song = parsedSong(snapshot.song);
    for (const step of steps) song = applyEdit(song, editOf(step, song)).song;
    return {
      state: { song, history: await readHistory(database, row.id) },
      revision: row.revision,
      since: { steps: steps.length, bytes: steps.reduce((sum, { step }) => sum + step.length, 0) },
      snapshotBytes: snapshot.song.length,
    };
  } catch (error) {
    throw unreadable(error);
  }
}

/** A song of another database, as far as it can be read. */
export async function readBackedUpSong(database: Knex, id: string): Promise<Song> {
  const row = (await database('songs').where({ id }).first()) as SongRow | undefined;
  const found = row && (await lastReadable(database, row));
  if (!found)
    throw new Problem(
      404,
      'song_not_found',
      'This song cannot be read in this backup. Choose another backup.',
    );
  return found.song;
}

/**
 * The newest state of a song that can be read, with its revision; undefined where none can. Slow: it looks at every
 * snapshot and step there is.
 */
export async function lastReadable(
  database: Knex,
  { id, revision }: SongRow,
): Promise<{ song: Song; revision: number } | undefined> {
  const snapshots = (await snapshotsOf(database, id, revision)) as SnapshotRow[];
  for (const snapshot of snapshots) {
    try {
      let found = { song: parsedSong(snapshot.song), revision: snapshot.revision };
      for (const step of await stepsBetween(database, id, snapshot.revision, revision)) {
        try {
          const { song } = applyEdit(found.song, editOf(step, found.song));
          found = { song, revision: step.revision };
        } catch {
          break;
        }
      }
      return found;
    } catch {
      // This snapshot cannot be read; an older one may.
    }
  }
  return undefined;
}

const snapshotsOf = (database: Knex, id: string, revision: number) =>
  database('snapshots').where('song_id', id).where('revision', '<=', revision).orderBy('revision', 'desc');

const stepsBetween = (database: Knex, id: string, after: number, upTo: number): Promise<StepRow[]> =>
  database('steps')
    .where('song_id', id)
    .where('revision', '>', after)
    .where('revision', '<=', upTo)
    .orderBy('revision')
    .select('revision', 'step', 'version');

function parsedSong(text: string): Song {
  try {
    return upgradeSong(JSON.parse(text));
  } catch (error) {
    if (error instanceof SongFormatError) throw error;
    throw new SongFormatError('Its data is damaged.');
  }
}

/** The edit of a stored step; of an undo the one that the song went through. */
function editOf({ step, version }: StepRow, song: Song): Edit {
  let stored: { edit?: unknown };
  try {
    stored = JSON.parse(step) as { edit?: unknown };
  } catch {
    throw new SongFormatError('A step in the history of this song is damaged.');
  }
  return upgradeEdit(stored.edit, version, song);
}

function unreadable(error: unknown): unknown {
  if (!(error instanceof SongFormatError) && !(error instanceof EditError)) return error;
  return new Problem(
    422,
    'song_unreadable',
    `This song cannot be opened as it was saved last. ${error.message} Nothing of it was thrown away: open the last state that can be read as a copy, or save its raw data as a file.`,
  );
}

/** Names of recordings in a text. */
export const recordingsIn = (text: string): Set<string> => new Set(text.match(/[0-9a-f]{64}/g));

/** Everything that is stored of a song, line by line, each a JSON text. */
export async function* rawRows(database: Knex, id: string): AsyncIterable<string> {
  const line = (table: string, row: unknown) => `${JSON.stringify({ table, row })}\n`;
  const song = await database('songs').where({ id }).first();
  if (!song) throw songNotFound();
  yield line('songs', song);
  for (const [table, order] of [
    ['snapshots', 'revision'],
    ['steps', 'revision'],
    ['history', 'position'],
  ]) {
    // One row at a time: together they can be larger than a text may be.
    let after = -1;
    for (;;) {
      const row = (await database(table)
        .where('song_id', id)
        .where(order, '>', after)
        .orderBy(order)
        .first()) as Record<string, number> | undefined;
      if (!row) break;
      after = row[order];
      yield line(table, row);
    }
  }
}

export function songNotFound(): Problem {
  return new Problem(
    404,
    'song_not_found',
    'This song is not here any more; it may have been deleted. Go back to the songs and choose another.',
  );
}
