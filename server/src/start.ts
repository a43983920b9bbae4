import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { createApp } from './app.ts';
import { createDemoSongs, type DemoSongs } from './demoSongs.ts';
import { createEventHub } from './http/eventHub.ts';
import { createPool } from './readings/pool.ts';
import { createReadingService } from './readings/readingService.ts';
import { createRecordingStore, createSongStore, openDatabase, openDataFolder } from './store/index.ts';

export interface StartOptions {
  dataFolder: string;
  webFolder: string;
  demoFolder: string;
  /** 0 lets the system choose. */
  port: number;
  /** 127.0.0.1 unless told otherwise. */
  host?: string;
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
  const database = await openDatabase(folder);
  const pool = createPool();
  const events = createEventHub();
  const songs = createSongStore(database);
  const recordings = createRecordingStore(database, folder);
  const readings = createReadingService(folder, recordings, pool, (status) =>
    events.send({ type: 'reading', status }),
  );
  const demo = createDemoSongs(options.demoFolder, songs, recordings, pool);
  let hosts: ReadonlySet<string> = new Set();
  const app = createApp({
    songs,
    recordings,
    readings,
    demo,
    pool,
    events,
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
  return {
    url: `http://${host}:${port}`,
    demo,
    async stop() {
      events.close();
      await new Promise<void>((resolve) => {
        server.close(() => resolve());
        server.closeIdleConnections();
      });
      await pool.close();
      await database.destroy();
    },
  };
}
