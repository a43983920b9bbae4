/** One server to a data folder: a second would not hear of the steps that the first takes. */
import { join } from 'node:path';
import Database from 'better-sqlite3';
import { Problem, type DataFolder } from '../store/index.ts';

/**
 * Takes the folder for this process until it is given back, or the process ends in any way: the lock is the system's own,
 * on a file beside the database. Throws a {@link Problem} when another server has it.
 */
export function lockFolder(folder: DataFolder): () => void {
  const lock = new Database(join(folder.root, 'server.lock'), { timeout: 0 });
  try {
    lock.pragma('journal_mode = DELETE');
    lock.exec('BEGIN EXCLUSIVE');
  } catch (error) {
    lock.close();
    if ((error as { code?: string }).code !== 'SQLITE_BUSY') throw error;
    throw new Problem(
      409,
      'folder_in_use',
      `Another Plundra server is using the data folder ${folder.root}. Use the one that is running, stop it first, or choose another folder with PLUNDRA_DATA.`,
    );
  }
  return () => lock.close();
}
