/** Routes for the shelf. */
import { Router } from 'express';
import { addToShelfSchema, changeShelfItemSchema, paths } from '@plundra/contract';
import type { ShelfService } from '../shelf/shelfService.ts';
import type { ShippedShelf } from '../shelf/shippedShelf.ts';
import { parseBody } from './errors.ts';

interface ShelfParts {
  shelf: ShelfService;
  shippedShelf: ShippedShelf;
}

export function shelfRoutes({ shelf, shippedShelf }: ShelfParts): Router {
  const router = Router();
  router.get(paths.shelf, async (_request, response) => {
    const arriving = await shippedShelf.arrive();
    response.json({ items: await shelf.list(), arriving });
  });
  router.post(paths.shelf, async (request, response) => {
    response.status(201).json(await shelf.add(parseBody(addToShelfSchema, request.body)));
  });
  router.get('/api/shelf/:id/notes', async (request, response) => {
    response.json({ notes: await shelf.notes(request.params.id) });
  });
  router.patch('/api/shelf/:id', async (request, response) => {
    response.json(await shelf.change(request.params.id, parseBody(changeShelfItemSchema, request.body)));
  });
  router.delete('/api/shelf/:id', async (request, response) => {
    await shelf.takeOff(request.params.id);
    response.status(204).end();
  });
  router.post('/api/shelf/:id/restore', async (request, response) => {
    await shelf.putBack(request.params.id);
    response.status(204).end();
  });
  router.post('/api/shelf/:id/listen', async (request, response) => {
    response.json(await shelf.listen(request.params.id));
  });
  return router;
}
