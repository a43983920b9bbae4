import { randomUUID } from 'node:crypto';
import express, { Router } from 'express';
import { createSongRequestSchema, paths, stepRequestSchema } from '@plundra/contract';
import { MidiFormatError, readMidi } from '@plundra/core/formats';
import { createSong } from '@plundra/core/song';
import { Problem, type SongStore } from '../store/index.ts';
import type { DemoSongs } from '../demoSongs.ts';
import type { EventHub } from './eventHub.ts';
import { parseBody } from './errors.ts';

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
      const name = decodeURIComponent(String(request.headers['x-file-name'] ?? 'Imported song')).replace(
        /\.midi?$/i,
        '',
      );
      try {
        const { title, key, tempoMap, metreMap, parts } = readMidi(bytes, randomUUID);
        const song = { ...createSong(randomUUID(), title ?? name), key, tempoMap, metreMap, parts };
        await songs.insert(song);
        response.status(201).json({ songId: song.id });
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
    response.json(await songs.read(request.params.id));
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
    const step = parseBody(stepRequestSchema, request.body);
    const { revision, repeated } = await songs.step(request.params.id, step);
    response.json({ revision });
    if (repeated) return;
    events.send({
      type: 'song',
      songId: request.params.id,
      revision,
      clientId: step.clientId,
      step: step.step,
    });
    if (step.step.kind !== 'do' || step.step.edit.type === 'song.set') listChanged();
  });
  return router;
}
