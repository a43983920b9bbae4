/** Routes for recordings: upload, sound, stretches of it, waveform. */
import { Router } from 'express';
import { z } from 'zod';
import { paths, recordingHashSchema } from '@plundra/contract';
import type { DiskSpace } from '../care/diskSpace.ts';
import type { Pool } from '../readings/pool.ts';
import { addRecording } from '../recordings/addRecording.ts';
import type { SoundRanges } from '../recordings/soundRanges.ts';
import { Problem, type RecordingStore } from '../store/index.ts';
import { fileNameOf, parseBody } from './errors.ts';
import { sendFile } from './sendFile.ts';

const SOUND_TYPES = { wav: 'audio/wav', flac: 'audio/flac', mp3: 'audio/mpeg', ogg: 'audio/ogg' };

/** More is asked for in pieces. */
const LONGEST_RANGE_SECONDS = 180;
const rangeSchema = z
  .object({ from: z.coerce.number().int().min(0), to: z.coerce.number().int().min(0) })
  .refine(({ from, to }) => from <= to);

interface RecordingParts {
  recordings: RecordingStore;
  ranges: SoundRanges;
  pool: Pool;
  disk: DiskSpace;
}

export function recordingRoutes({ recordings, ranges, pool, disk }: RecordingParts): Router {
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
  router.get('/api/recordings/:hash/range', async (request, response) => {
    const recording = await recordings.find(parseBody(recordingHashSchema, request.params.hash));
    const { from, to } = parseBody(rangeSchema, request.query);
    if (to - from > LONGEST_RANGE_SECONDS * recording.sampleRateHz)
      throw new Problem(
        400,
        'too_long',
        `At most ${LONGEST_RANGE_SECONDS} seconds of a recording can be asked for at once.`,
      );
    response.set({ 'Content-Type': 'audio/wav', 'Cache-Control': 'private, max-age=31536000, immutable' });
    response.send(await ranges.read(recording, from, to));
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
