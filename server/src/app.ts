import express, { type Express } from 'express';
import { paths } from '@plundra/contract';
import type { DemoSongs } from './demoSongs.ts';
import { correctedRoutes } from './http/correctedRoutes.ts';
import { answerError, unknownPath } from './http/errors.ts';
import type { EventHub } from './http/eventHub.ts';
import { readingRoutes } from './http/readingRoutes.ts';
import { recordingRoutes } from './http/recordingRoutes.ts';
import { checkOrigin, securityHeaders } from './http/security.ts';
import { songRoutes } from './http/songRoutes.ts';
import { webFiles } from './http/webFiles.ts';
import type { Pool } from './readings/pool.ts';
import type { ReadingService } from './readings/readingService.ts';
import type { RecordingStore, SongStore } from './store/index.ts';

export interface AppParts {
  songs: SongStore;
  recordings: RecordingStore;
  readings: ReadingService;
  demo: DemoSongs;
  pool: Pool;
  events: EventHub;
  webFolder: string;
  allowedHosts: () => ReadonlySet<string>;
}

/** Longest step that is taken: a line of several hours. */
const LARGEST_BODY = '64mb';

export function createApp(parts: AppParts): Express {
  const app = express();
  app.disable('x-powered-by');
  app.use(securityHeaders);
  app.use(checkOrigin(parts.allowedHosts));
  app.use(express.json({ limit: LARGEST_BODY, type: 'application/json' }));
  app.get(paths.events, (request, response) => parts.events.attach(request, response));
  app.use(songRoutes(parts.songs, parts.demo, parts.events));
  app.use(recordingRoutes(parts.recordings, parts.pool));
  app.use(readingRoutes(parts.readings));
  app.use(correctedRoutes(parts.songs, parts.recordings, parts.readings, parts.pool));
  app.use(webFiles(parts.webFolder));
  app.use(unknownPath);
  app.use(answerError);
  return app;
}
