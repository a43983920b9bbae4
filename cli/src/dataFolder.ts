/** The data folder that commands work on. */
import { fileURLToPath } from 'node:url';
import { resolve } from 'node:path';
import { backUp } from '@plundra/server';
import {
  createRecordingStore,
  createSongStore,
  needsUpgrade,
  openDatabase,
  openDataFolder,
  type RecordingStore,
  type SongStore,
} from '@plundra/server/store';

/** Opens the stores of the data folder for the time of `work`; the server may run beside. */
export async function withDataFolder<T>(
  work: (stores: { songs: SongStore; recordings: RecordingStore }) => Promise<T>,
): Promise<T> {
  const root = fileURLToPath(new URL('../..', import.meta.url));
  const folder = openDataFolder(resolve(process.env.PLUNDRA_DATA ?? `${root}data`));
  if (needsUpgrade(folder)) await backUp(folder);
  const database = await openDatabase(folder);
  try {
    return await work({
      songs: createSongStore(database),
      recordings: createRecordingStore(database, folder),
    });
  } finally {
    await database.destroy();
  }
}
