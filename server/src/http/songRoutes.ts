/** Routes for songs: list, make, open, change by steps, copy, delete, and the bin. */
import { randomUUID } from 'node:crypto';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import express, { Router } from 'express';
import { createSongRequestSchema, MAX_STEPS, paths, stepsRequestSchema } from '@plundra/contract';
import { MidiFormatError, readMidi, withoutMidiEnding } from '@plundra/core/formats';
import { createSong } from '@plundra/core/song';
import { Problem, type SongStore } from '../store/index.ts';
import type { DemoSongs } from '../demoSongs.ts';
import type { EventHub } from './eventHub.ts';
import { fileNameOf, parseBody } from './errors.ts';

export function songRoutes(songs: SongStore, demo: DemoSongs, events: EventHub): Router {
  const router = Router();
  const listChanged = () => events.send({ type: 'songs' });

  router.get(paths.songs, async (_request, response) => {
    response.json({ songs: await songs.list() });
  });
  router.post(paths.songs, async (request, response) => {
    const { title } = parseBody(createSongRequestSchema, request.body);
    response.status(201).json(await songs.create(title));
    listChanged();
  });
  router.post(
    paths.midiImport,
    express.raw({ type: () => true, limit: '64mb' }),
    async (request, response) => {
      const bytes = Buffer.isBuffer(request.body) ? new Uint8Array(request.body) : new Uint8Array(0);
      const name = withoutMidiEnding(fileNameOf(request, 'Imported song'));
      try {
        const { title, changed, ...contents } = readMidi(bytes, randomUUID);
        const song = { ...createSong(randomUUID(), title ?? name), ...contents };
        await songs.insert(song);
        response.status(201).json({ songId: song.id, changed });
        listChanged();
      } catch (error) {
        if (error instanceof MidiFormatError) throw new Problem(422, 'not_midi', error.message);
        throw error;
      }
    },
  );
  router.post(paths.demo, async (_request, response) => {
    response.status(201).json({ songIds: await demo.open() });
    listChanged();
  });
  router.get('/api/songs/:id', async (request, response) => {
    const { asked } = request.query;
    const ids = typeof asked === 'string' && asked ? asked.split(',').slice(0, MAX_STEPS) : [];
    response.json(await songs.read(request.params.id, ids));
  });
  router.get('/api/songs/:id/revision', async (request, response) => {
    response.json({ revision: await songs.revision(request.params.id) });
  });
  router.get('/api/songs/:id/history/:entryId', async (request, response) => {
    response.json(await songs.entry(request.params.id, request.params.entryId));
  });
  router.get('/api/songs/:id/raw', async (request, response) => {
    response.set({
      'Content-Type': 'application/x-ndjson',
      'Content-Disposition': 'attachment; filename="song.ndjson"',
      'Cache-Control': 'no-store',
    });
    await pipeline(Readable.from(songs.raw(request.params.id)), response);
  });
  router.post('/api/songs/:id/recovered', async (request, response) => {
    response.status(201).json(await songs.recover(request.params.id));
    listChanged();
  });
  router.get(paths.bin, async (_request, response) => {
    response.json({ songs: await songs.bin() });
  });
  router.delete('/api/bin/:id', async (request, response) => {
    await songs.purge(request.params.id);
    response.status(204).end();
    listChanged();
  });
  router.delete('/api/songs/:id', async (request, response) => {
    await songs.remove(request.params.id);
    response.status(204).end();
    listChanged();
  });
  router.post('/api/songs/:id/restore', async (request, response) => {
    await songs.restore(request.params.id);
    response.status(204).end();
    listChanged();
  });
  router.post('/api/songs/:id/copy', async (request, response) => {
    response.status(201).json(await songs.copy(request.params.id));
    listChanged();
  });
  router.post('/api/songs/:id/steps', async (request, response) => {
    const steps = parseBody(stepsRequestSchema, request.body);
    const { outcomes, taken } = await songs.steps(request.params.id, steps);
    response.json({ outcomes });
    for (const each of taken)
      events.send({ type: 'song', songId: request.params.id, clientId: steps.clientId, ...each });
    const inList = taken.some(({ step }) => step.kind !== 'do' || step.edit.type === 'song.set');
    if (inList) listChanged();
  });
  return router;
}
