/** Route for the corrected sound of a part. */
import { randomUUID } from 'node:crypto';
import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import { Router } from 'express';
import { followedSong } from '@plundra/core/arranging';
import { correctedTakes, correctionSpecOf } from '@plundra/core/retune';
import { melodyLineOf } from '@plundra/core/song';
import type { Pool } from '../readings/pool.ts';
import type { ReadingService } from '../readings/readingService.ts';
import { Problem, type DataFolder, type RecordingStore, type SongStore } from '../store/index.ts';
import { sendFile } from './sendFile.ts';

interface CorrectedParts {
  songs: SongStore;
  recordings: RecordingStore;
  readings: ReadingService;
  pool: Pool;
  folder: DataFolder;
}

export function correctedRoutes({ songs, recordings, readings, pool, folder }: CorrectedParts): Router {
  const router = Router();
  router.get('/api/songs/:id/parts/:partId/sound', async (request, response) => {
    // As it is heard: parts that follow the chords follow here too.
    const song = followedSong((await songs.read(request.params.id)).song);
    const part = song.parts.find((each) => each.id === request.params.partId);
    const { takeId } = request.query;
    const takes = part?.kind === 'recording' ? correctedTakes(part) : [];
    const take = takeId === undefined ? takes.at(0) : takes.find((each) => each.takeId === takeId);
    if (!take)
      throw new Problem(404, 'part_not_found', 'This part is not in the song any more, or is no recording.');
    const { durationSeconds: recordedSeconds } = await recordings.find(take.recordingHash);
    const resultPath = join(folder.incoming, `${randomUUID()}.wav`);
    const melody = melodyLineOf(take);
    const abort = new AbortController();
    response.once('close', () => abort.abort());
    try {
      await pool.run(
        {
          task: 'correct',
          path: recordings.soundPath(take.recordingHash),
          recordedSeconds,
          readingPath: melody ? readings.resultPath(melody.readingId) : undefined,
          spec: correctionSpecOf(take),
          fromSeconds: take.shownSeconds.from,
          toSeconds: take.shownSeconds.to,
          resultPath,
        },
        { signal: abort.signal },
      );
      response.set({ 'Content-Type': 'audio/wav', 'Cache-Control': 'no-store' });
      await sendFile(response, resultPath);
    } catch (error) {
      if (!abort.signal.aborted) throw error;
    } finally {
      await rm(resultPath, { force: true });
    }
  });
  return router;
}
