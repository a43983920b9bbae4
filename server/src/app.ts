import express, { type Express } from 'express';
import { paths } from '@plundra/contract';
import type { DemoSongs } from './demoSongs.ts';
import { correctedRoutes } from './http/correctedRoutes.ts';
import type { Backups } from './care/backups.ts';
import type { DiskSpace } from './care/diskSpace.ts';
import type { FaultRecord } from './care/faults.ts';
import { careRoutes } from './http/careRoutes.ts';
import { answerError, unknownPath } from './http/errors.ts';
import { jsonBodies } from './http/jsonBodies.ts';
import type { EventHub } from './http/eventHub.ts';
import { readingRoutes } from './http/readingRoutes.ts';
import { recordingRoutes } from './http/recordingRoutes.ts';
import { checkOrigin, securityHeaders } from './http/security.ts';
import { shelfRoutes } from './http/shelfRoutes.ts';
import { songRoutes } from './http/songRoutes.ts';
import { takeRoutes } from './http/takeRoutes.ts';
import { webFiles } from './http/webFiles.ts';
import type { Pool } from './readings/pool.ts';
import type { ReadingService } from './readings/readingService.ts';
import type { SoundRanges } from './recordings/soundRanges.ts';
import type { UnfinishedTakes } from './recordings/unfinishedTakes.ts';
import type { ShelfService } from './shelf/shelfService.ts';
import type { ShippedShelf } from './shelf/shippedShelf.ts';
import type { DataFolder, RecordingStore, SongStore } from './store/index.ts';

export interface AppParts {
  songs: SongStore;
  recordings: RecordingStore;
  ranges: SoundRanges;
  takes: UnfinishedTakes;
  readings: ReadingService;
  shelf: ShelfService;
  shippedShelf: ShippedShelf;
  demo: DemoSongs;
  pool: Pool;
  events: EventHub;
  backups: Backups;
  disk: DiskSpace;
  faults: FaultRecord;
  folder: DataFolder;
  webFolder: string;
  allowedHosts: () => ReadonlySet<string>;
}

export function createApp(parts: AppParts): Express {
  const app = express();
  app.disable('x-powered-by');
  app.use(securityHeaders);
  app.use(checkOrigin(parts.allowedHosts));
  app.use(jsonBodies);
  app.get(paths.events, (request, response) => parts.events.attach(request, response));
  app.use(songRoutes(parts.songs, parts.demo, parts.events));
  app.use(careRoutes(parts));
  app.use(recordingRoutes(parts));
  app.use(takeRoutes(parts));
  app.use(shelfRoutes(parts));
  app.use(readingRoutes(parts.readings));
  app.use(correctedRoutes(parts));
  app.use(webFiles(parts.webFolder));
  app.use(unknownPath);
  app.use(answerError(parts.faults));
  return app;
}
