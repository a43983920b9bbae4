/** Routes for backups, disk space and the error log. */
import { Router } from 'express';
import { faultReportSchema, paths, restoreRequestSchema } from '@plundra/contract';
import type { Backups } from '../care/backups.ts';
import type { DiskSpace } from '../care/diskSpace.ts';
import type { FaultRecord } from '../care/faults.ts';
import type { EventHub } from './eventHub.ts';
import { parseBody } from './errors.ts';

export interface CareParts {
  backups: Backups;
  disk: DiskSpace;
  faults: FaultRecord;
  events: EventHub;
}

export function careRoutes({ backups, disk, faults, events }: CareParts): Router {
  const router = Router();
  router.get(paths.health, async (_request, response) => {
    response.json(await disk.health());
  });
  router.get(paths.backups, async (_request, response) => {
    response.json({ backups: await backups.list() });
  });
  router.get('/api/backups/:name/songs', async (request, response) => {
    response.json({ songs: await backups.songs(request.params.name) });
  });
  router.post('/api/backups/:name/restore', async (request, response) => {
    const { songId } = parseBody(restoreRequestSchema, request.body);
    response.status(201).json(await backups.restore(request.params.name, songId));
    events.send({ type: 'songs' });
  });
  router.get(paths.faults, (_request, response) => {
    response.json({ faults: faults.list() });
  });
  router.post(paths.faults, (request, response) => {
    faults.report(parseBody(faultReportSchema, request.body));
    response.status(204).end();
  });
  return router;
}
