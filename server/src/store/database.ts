/** The data folder and its SQLite database. */
import { accessSync, constants, existsSync, mkdirSync } from 'node:fs';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import knex, { type Knex } from 'knex';
import { migrationNames, migrations } from './migrations.ts';
import { Problem } from './problem.ts';

export interface DataFolder {
  root: string;
  recordings: string;
  derived: string;
  incoming: string;
  /** Takes that are being recorded, or were when something stopped. */
  takes: string;
}

/** Creates the folders that are missing. Throws a {@link Problem} when the place cannot be written to. */
export function openDataFolder(root: string): DataFolder {
  const folder = {
    root,
    recordings: join(root, 'recordings'),
    derived: join(root, 'derived'),
    incoming: join(root, 'incoming'),
    takes: join(root, 'takes'),
  };
  try {
    for (const path of Object.values(folder)) {
      mkdirSync(path, { recursive: true });
      accessSync(path, constants.W_OK);
    }
  } catch (error) {
    throw new Problem(
      500,
      'data_folder',
      `The data folder ${root} cannot be written to (${(error as { code?: string }).code ?? 'unknown reason'}). Choose another with PLUNDRA_DATA, or change its rights.`,
    );
  }
  return folder;
}

export const DATABASE_FILE = 'plundra.sqlite';

/** Opens the database of a data folder and brings its tables up to date. */
export const openDatabase = (folder: DataFolder): Promise<Knex> =>
  openDatabaseFile(join(folder.root, DATABASE_FILE));

/** Whether opening would change its tables. */
export function needsUpgrade(folder: DataFolder): boolean {
  const filename = join(folder.root, DATABASE_FILE);
  if (!existsSync(filename)) return false;
  const database = new Database(filename, { readonly: true });
  try {
    const done = database.prepare('select count(*) from knex_migrations').pluck().get() as number;
    return done < migrationNames.length;
  } catch {
    // Not even the list of what was done is there.
    return true;
  } finally {
    database.close();
  }
}

export async function openDatabaseFile(filename: string): Promise<Knex> {
  const database = knex({
    client: 'better-sqlite3',
    connection: { filename },
    useNullAsDefault: true,
    pool: {
      min: 1,
      max: 1,
      afterCreate(
        connection: { pragma(text: string): unknown },
        done: (error: Error | null, made: unknown) => void,
      ) {
        connection.pragma('journal_mode = WAL');
        connection.pragma('foreign_keys = ON');
        // FULL: an acknowledged step is on the disk, whatever happens to the process or the machine.
        connection.pragma('synchronous = FULL');
        connection.pragma('busy_timeout = 5000');
        done(null, connection);
      },
    },
  });
  try {
    await database.migrate.latest({ migrationSource: migrations });
  } catch (error) {
    await database.destroy();
    throw error;
  }
  return database;
}
