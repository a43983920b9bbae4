/** Routes for takes while they are recorded. */
import { pipeline } from 'node:stream/promises';
import express, { Router } from 'express';
import { z } from 'zod';
import { keepTakeRequestSchema, LARGEST_BLOCK_BYTES, paths, takeBeginningSchema } from '@plundra/contract';
import type { UnfinishedTakes } from '../recordings/unfinishedTakes.ts';
import { parseBody } from './errors.ts';

const idSchema = takeBeginningSchema.shape.id;
const fromSchema = z.object({ from: z.coerce.number().int().min(0) });
const songSchema = z.object({ song: z.string().min(1).max(64) });

export function takeRoutes({ takes }: { takes: UnfinishedTakes }): Router {
  const router = Router();
  router.get(paths.takes, async (request, response) => {
    const { song } = parseBody(songSchema, request.query);
    response.json({ takes: await takes.list(song) });
  });
  router.post(paths.takes, async (request, response) => {
    response.status(201).json(await takes.begin(parseBody(takeBeginningSchema, request.body)));
  });
  router.put(
    '/api/takes/:id/samples',
    express.raw({ type: 'application/octet-stream', limit: LARGEST_BLOCK_BYTES }),
    async (request, response) => {
      const id = parseBody(idSchema, request.params.id);
      const { from } = parseBody(fromSchema, request.query);
      const bytes: unknown = request.body;
      const frames = await takes.write(id, from, bytes instanceof Uint8Array ? bytes : new Uint8Array(0));
      response.json({ frames });
    },
  );
  router.get('/api/takes/:id/sound', async (request, response) => {
    const { bytes, byteLength } = await takes.sound(parseBody(idSchema, request.params.id));
    response.set({
      'Content-Type': 'audio/wav',
      'Content-Length': String(byteLength),
      'Cache-Control': 'no-store',
    });
    // A page that goes meanwhile is nobody's fault.
    await pipeline(bytes, response).catch(() => undefined);
  });
  router.post('/api/takes/:id/keep', async (request, response) => {
    const id = parseBody(idSchema, request.params.id);
    const { pieces } = parseBody(keepTakeRequestSchema, request.body);
    response.status(201).json({ recordings: await takes.keep(id, pieces) });
  });
  router.delete('/api/takes/:id', async (request, response) => {
    await takes.discard(parseBody(idSchema, request.params.id));
    response.status(204).end();
  });
  return router;
}
