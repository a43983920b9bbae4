/**
 * Copies of the database, made with SQLite's online backup while it is in use, the last seven kept. A song is brought back
 * from one beside what is there now; nothing is overwritten.
 */
import { randomUUID } from 'node:crypto';
import { existsSync } from 'node:fs';
import { mkdir, readdir, rename, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import type { Knex } from 'knex';
import type { Backup, BackupSong, SongDocument, SongSummary } from '@plundra/contract';
import {
  DATABASE_FILE,
  openDatabaseFile,
  Problem,
  readBackedUpSong,
  type DataFolder,
  type SongStore,
} from '../store/index.ts';

const KEPT = 7;
const NAME = /^plundra-(\d{4}-\d{2}-\d{2})T(\d{2})-(\d{2})-(\d{2})-(\d{3})\.sqlite$/;

export interface Backups {
  /** Makes a copy unless nothing changed since the last. */
  make(): Promise<void>;
  list(): Promise<Backup[]>;
  songs(name: string): Promise<BackupSong[]>;
  restore(name: string, songId: string): Promise<SongDocument>;
  /** All stored texts of the copies, in which hashes of recordings can be found. */
  texts(): AsyncIterable<string>;
}

interface SongRow {
  id: string;
  summary: string;
  revision: number;
  updated_at: string;
  deleted_at: string | null;
}

const backupFolder = (folder: DataFolder) => join(folder.root, 'backups');

/** Copies the database of a folder as it is; before anything opens it. */
export async function backUp(folder: DataFolder, now = new Date()): Promise<void> {
  const source = join(folder.root, DATABASE_FILE);
  if (!existsSync(source)) return;
  const target = backupFolder(folder);
  await mkdir(target, { recursive: true });
  const names = (await namesIn(folder)).reverse();
  const database = new Database(source, { timeout: 5000 });
  try {
    const newest = names.at(-1);
    if (newest && fingerprint(database) === fingerprintOf(join(target, newest))) return;
    const name = `plundra-${now.toISOString().slice(0, 23).replace(/[:.]/g, '-')}.sqlite`;
    // Written beside and renamed: a copy is whole or not there.
    await database.backup(join(target, `${name}.new`));
    inOneFile(join(target, `${name}.new`));
    await rename(join(target, `${name}.new`), join(target, name));
    for (const old of [...names, name].slice(0, -KEPT)) await rm(join(target, old), { force: true });
  } finally {
    database.close();
  }
}

export function createBackups(folder: DataFolder, songs: SongStore): Backups {
  const pathOf = async (name: string): Promise<string> => {
    if (NAME.test(name) && (await namesIn(folder)).includes(name)) return join(backupFolder(folder), name);
    throw new Problem(404, 'backup_not_found', 'This backup is not there any more. Choose another.');
  };
  return {
    make: () => backUp(folder),
    async list() {
      const names = await namesIn(folder);
      return Promise.all(
        names.map(async (name) => {
          const [, day, hour, minute, second, millisecond] = NAME.exec(name)!;
          const { size } = await stat(join(backupFolder(folder), name));
          return { name, madeAt: `${day}T${hour}:${minute}:${second}.${millisecond}Z`, byteLength: size };
        }),
      );
    },
    async songs(name) {
      const rows = rowsOf(await pathOf(name));
      const now = new Map((await songs.list()).map((song) => [song.id, song]));
      const binned = new Set((await songs.bin()).map(({ id }) => id));
      return rows
        .filter(({ deleted_at }) => !deleted_at)
        .map((row) => {
          const there = now.get(row.id);
          const state = binned.has(row.id)
            ? 'in the bin'
            : !there
              ? 'gone'
              : there.revision === row.revision
                ? 'the same'
                : 'changed since';
          return { ...summaryOf(row), now: state };
        });
    },
    async restore(name, songId) {
      const copy = join(folder.incoming, randomUUID());
      const source = new Database(await pathOf(name), { readonly: true });
      let database: Knex | undefined;
      try {
        // A copy of the copy: bringing its tables up to date must not change the backup.
        await source.backup(copy);
        database = await openDatabaseFile(copy);
        const song = await readBackedUpSong(database, songId);
        const taken = [...(await songs.list()), ...(await songs.bin())].some(({ id }) => id === songId);
        const when = name.slice('plundra-'.length, 'plundra-2026-01-01'.length);
        return await songs.insert(
          taken ? { ...song, id: randomUUID(), title: `${song.title.slice(0, 170)} (as of ${when})` } : song,
        );
      } finally {
        source.close();
        await database?.destroy();
        for (const ending of ['', '-wal', '-shm']) await rm(copy + ending, { force: true });
      }
    },
    async *texts() {
      for (const name of await namesIn(folder)) {
        const database = new Database(join(backupFolder(folder), name), { readonly: true });
        try {
          const tables = database
            .prepare(
              `select name from sqlite_master where type = 'table' and name in ('songs', 'snapshots', 'steps', 'history')`,
            )
            .pluck()
            .all() as string[];
          for (const table of tables)
            for (const row of database.prepare(`select * from ${table}`).iterate()) yield JSON.stringify(row);
        } finally {
          database.close();
        }
      }
    },
  };
}

/** Without the files that a database keeps beside it while it is written. */
function inOneFile(path: string): void {
  const database = new Database(path);
  database.pragma('journal_mode = DELETE');
  database.close();
}

/** The newest first. */
async function namesIn(folder: DataFolder): Promise<string[]> {
  const names = await readdir(backupFolder(folder)).catch(() => []);
  return names
    .filter((name) => NAME.test(name))
    .sort()
    .reverse();
}

/** A text that differs whenever any song or recording differs. */
function fingerprint(database: Database.Database): string {
  const songs = database
    .prepare('select id, revision, updated_at, deleted_at from songs order by id')
    .raw()
    .all();
  const recordings = database.prepare('select count(*) from recordings').pluck().get();
  const versions = database.prepare('select count(*) from knex_migrations').pluck().get();
  return JSON.stringify([songs, recordings, versions]);
}

function fingerprintOf(path: string): string | undefined {
  try {
    const database = new Database(path, { readonly: true });
    try {
      return fingerprint(database);
    } finally {
      database.close();
    }
  } catch {
    return undefined;
  }
}

function rowsOf(path: string): SongRow[] {
  const database = new Database(path, { readonly: true });
  try {
    return database
      .prepare('select id, summary, revision, updated_at, deleted_at from songs order by updated_at desc')
      .all() as SongRow[];
  } finally {
    database.close();
  }
}

function summaryOf({ id, summary, revision, updated_at }: SongRow): SongSummary {
  return { ...(JSON.parse(summary) as SongSummary), id, revision, updatedAt: updated_at };
}
