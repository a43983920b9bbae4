import { Router } from 'express';
import { paths, recordingHashSchema } from '@plundra/contract';
import type { DiskSpace } from '../care/diskSpace.ts';
import type { Pool } from '../readings/pool.ts';
import { addRecording } from '../recordings/addRecording.ts';
import type { RecordingStore } from '../store/index.ts';
import { fileNameOf, parseBody } from './errors.ts';
import { sendFile } from './sendFile.ts';

const SOUND_TYPES = { wav: 'audio/wav', flac: 'audio/flac', mp3: 'audio/mpeg', ogg: 'audio/ogg' };

export function recordingRoutes(recordings: RecordingStore, pool: Pool, disk: DiskSpace): Router {
  const router = Router();
  router.post(paths.recordings, async (request, response) => {
    const name = fileNameOf(request, 'Recording');
    await disk.checkRoom(Number(request.headers['content-length'] ?? 0));
    response.status(201).json(await addRecording(recordings, pool, request, name));
  });
  router.get('/api/recordings/:hash', async (request, response) => {
    response.json(await recordings.find(parseBody(recordingHashSchema, request.params.hash)));
  });
  router.get('/api/recordings/:hash/sound', async (request, response) => {
    const { hash, format } = await recordings.find(parseBody(recordingHashSchema, request.params.hash));
    // Content under its hash never changes.
    response.set({
      'Content-Type': SOUND_TYPES[format],
      'Cache-Control': 'private, max-age=31536000, immutable',
    });
    await sendFile(response, recordings.soundPath(hash));
  });
  router.get('/api/recordings/:hash/peaks', async (request, response) => {
    const { hash } = await recordings.find(parseBody(recordingHashSchema, request.params.hash));
    response.set({
      'Content-Type': 'application/octet-stream',
      'Cache-Control': 'private, max-age=31536000, immutable',
    });
    response.send(Buffer.from(await recordings.peaks(hash)));
  });
  return router;
}
