/** Routes for readings: asked for, their state, their result. */
import { Router } from 'express';
import { paths, readingRequestSchema } from '@plundra/contract';
import type { ReadingService } from '../readings/readingService.ts';
import { parseBody } from './errors.ts';

export function readingRoutes(readings: ReadingService): Router {
  const router = Router();
  router.get(paths.readings, (_request, response) => {
    response.json({ readings: readings.list() });
  });
  router.post(paths.readings, async (request, response) => {
    response.status(202).json(await readings.start(parseBody(readingRequestSchema, request.body)));
  });
  router.get('/api/readings/:id', (request, response) => {
    response.json(readings.status(request.params.id));
  });
  router.get('/api/readings/:id/result', async (request, response) => {
    response.type('application/json').send(await readings.result(request.params.id));
  });
  router.delete('/api/readings/:id', (request, response) => {
    readings.cancel(request.params.id);
    response.status(204).end();
  });
  return router;
}
