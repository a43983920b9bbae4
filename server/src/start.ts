import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { createApp } from './app.ts';
import { backUp, createBackups } from './care/backups.ts';
import { createDiskSpace, type Space } from './care/diskSpace.ts';
import { createFaultRecord } from './care/faults.ts';
import { lockFolder } from './care/folderLock.ts';
import {
  clearShelf,
  emptyBin,
  removeDiscarded,
  removeLeftovers,
  removeOrphanedTakes,
} from './care/housekeeping.ts';
import { createDemoSongs, type DemoSongs } from './demoSongs.ts';
import { createEventHub } from './http/eventHub.ts';
import { createSoundRanges } from './recordings/soundRanges.ts';
import { createUnfinishedTakes } from './recordings/unfinishedTakes.ts';
import { createPool } from './readings/pool.ts';
import { createShelfService } from './shelf/shelfService.ts';
import { createShippedShelf } from './shelf/shippedShelf.ts';
import { createReadingService } from './readings/readingService.ts';
import {
  createRecordingStore,
  createShelfStore,
  createSongStore,
  openDatabase,
  openDataFolder,
  type DataFolder,
} from './store/index.ts';

const HOUR_MS = 3600 * 1000;
/** How long what is being answered may take when the server stops. */
const PATIENCE_MS = 1500;

export interface StartOptions {
  dataFolder: string;
  webFolder: string;
  demoFolder: string;
  /** 0 lets the system choose. */
  port: number;
  /** 127.0.0.1 unless told otherwise. */
  host?: string;
  /** Room on the disk; asked of the system unless told otherwise. */
  space?: () => Promise<Space>;
  /** What the threads of the pool run, where it is built: from source each of them loads for seconds. */
  poolProgram?: URL;
}

export interface RunningServer {
  url: string;
  demo: DemoSongs;
  /** Answers what is open, then closes pool and database. */
  stop(): Promise<void>;
}

/** Starts the server. Throws a Problem when the data folder cannot be used. */
export async function startServer(options: StartOptions): Promise<RunningServer> {
  const host = options.host ?? '127.0.0.1';
  const folder = openDataFolder(options.dataFolder);
  const unlock = lockFolder(folder);
  try {
    return await serve(options, host, folder, unlock);
  } catch (error) {
    unlock();
    throw error;
  }
}

async function serve(
  options: StartOptions,
  host: string,
  folder: DataFolder,
  unlock: () => void,
): Promise<RunningServer> {
  // Before the tables are brought up to date: what this release would do wrong can be taken back.
  await backUp(folder);
  const database = await openDatabase(folder);
  const pool = createPool(options.poolProgram);
  const events = createEventHub();
  const faults = createFaultRecord(folder);
  const disk = createDiskSpace(folder, options.space);
  const songs = createSongStore(database);
  const recordings = createRecordingStore(database, folder);
  const takes = createUnfinishedTakes(folder, recordings, pool, disk);
  const backups = createBackups(folder, songs);
  const readings = createReadingService(folder, recordings, pool, (status) => {
    events.send({ type: 'reading', status });
    shelf.hear(status).catch((error: unknown) => faults.add('listening for the shelf', error));
  });
  const shelfStore = createShelfStore(database);
  const shelfChanged = () => events.send({ type: 'shelf' });
  const shelf = createShelfService(shelfStore, recordings, readings, shelfChanged);
  const shippedShelf = createShippedShelf(
    options.demoFolder,
    shelfStore,
    recordings,
    pool,
    shelfChanged,
    (error) => faults.add('the shelf that comes with Plundra', error),
  );
  const demo = createDemoSongs(options.demoFolder, songs, recordings, pool);
  let hosts: ReadonlySet<string> = new Set();
  const app = createApp({
    songs,
    recordings,
    ranges: createSoundRanges(recordings, pool, disk),
    takes,
    readings,
    shelf,
    shippedShelf,
    demo,
    pool,
    events,
    backups,
    disk,
    faults,
    folder,
    webFolder: options.webFolder,
    allowedHosts: () => hosts,
  });
  const server = createServer(app);
  await new Promise<void>((resolve, reject) => {
    server.once('error', reject);
    server.listen(options.port, host, resolve);
  });
  const { port } = server.address() as AddressInfo;
  hosts = new Set([`${host}:${port}`, `127.0.0.1:${port}`, `localhost:${port}`]);
  const tidyUp = async () => {
    try {
      await removeLeftovers(folder);
      await emptyBin(songs);
      await removeOrphanedTakes(database, takes, folder);
      await clearShelf(database, shelfStore);
      await removeDiscarded(database, songs, shelfStore, recordings, backups);
    } catch (error) {
      faults.add('tidying up', error);
    }
  };
  let tidying = tidyUp();
  const everyHour = setInterval(() => (tidying = tidying.then(tidyUp)), HOUR_MS);
  const everyDay = setInterval(
    () => void backups.make().catch((error: unknown) => faults.add('backup', error)),
    24 * HOUR_MS,
  );
  return {
    url: `http://${host}:${port}`,
    demo,
    async stop() {
      clearInterval(everyHour);
      clearInterval(everyDay);
      events.close();
      await new Promise<void>((resolve) => {
        server.close(() => resolve());
        server.closeIdleConnections();
        // Nobody waits for an upload that hangs; nothing of it was promised yet.
        setTimeout(() => server.closeAllConnections(), PATIENCE_MS).unref();
      });
      shelf.close();
      await pool.close();
      await tidying;
      await database.destroy();
      unlock();
    },
  };
}
