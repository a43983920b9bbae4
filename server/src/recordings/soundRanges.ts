/**
 * Stretches of long recordings as small WAV files, so that nobody need hold the whole sound to play it. Of a WAV file they
 * are the bytes as they stand there; what is compressed is decoded once, beside the recording, and kept while it is used.
 */
import { existsSync } from 'node:fs';
import { mkdir, open, rename, utimes, type FileHandle } from 'node:fs/promises';
import { dirname } from 'node:path';
import type { Recording } from '@plundra/contract';
import { AudioFormatError, createWavHeaderReader, wavHead } from '@plundra/core/formats';
import type { DiskSpace } from '../care/diskSpace.ts';
import type { Pool } from '../readings/pool.ts';
import type { RecordingStore } from '../store/index.ts';

export interface SoundRanges {
  /** The samples from one to another as a WAV file; it ends where the recording ends. */
  read(recording: Recording, fromSample: number, toSample: number): Promise<Buffer>;
}

const DECODED_BYTES_A_SAMPLE = 4;
const HEADER_PIECE_BYTES = 1 << 16;

export function createSoundRanges(recordings: RecordingStore, pool: Pool, disk: DiskSpace): SoundRanges {
  const decoding = new Map<string, Promise<void>>();

  const decode = async ({ hash, sampleRateHz, channels, durationSeconds }: Recording): Promise<void> => {
    const path = recordings.decodedPath(hash);
    await disk.checkRoom(durationSeconds * sampleRateHz * channels * DECODED_BYTES_A_SAMPLE);
    await mkdir(dirname(path), { recursive: true });
    await pool.run({
      task: 'correct',
      path: recordings.soundPath(hash),
      recordedSeconds: durationSeconds,
      readingPath: undefined,
      spec: null,
      fromSeconds: 0,
      toSeconds: durationSeconds,
      resultPath: `${path}.new`,
    });
    await rename(`${path}.new`, path);
  };

  const decodedPath = async (recording: Recording): Promise<string> => {
    const { hash } = recording;
    const path = recordings.decodedPath(hash);
    if (!existsSync(path)) {
      const running = decoding.get(hash) ?? decode(recording).finally(() => decoding.delete(hash));
      decoding.set(hash, running);
      await running;
    }
    const now = new Date();
    await utimes(path, now, now);
    return path;
  };

  return {
    async read(recording, fromSample, toSample) {
      const isWav = recording.format === 'wav';
      const file = await open(isWav ? recordings.soundPath(recording.hash) : await decodedPath(recording));
      try {
        const { header, startByte } = await findSamples(file);
        const frameBytes = header.channels * (header.bitsPerSample / 8);
        const { size } = await file.stat();
        const frames = Math.floor(Math.min(header.dataBytes, size - startByte) / frameBytes);
        const [first, last] = [fromSample, toSample].map((sample) => Math.min(sample, frames));
        const samples = Buffer.alloc((last - first) * frameBytes);
        await file.read(samples, 0, samples.length, startByte + first * frameBytes);
        return Buffer.concat([wavHead(header, last - first), samples]);
      } finally {
        await file.close();
      }
    },
  };
}

async function findSamples(file: FileHandle) {
  const reader = createWavHeaderReader();
  const piece = Buffer.alloc(HEADER_PIECE_BYTES);
  for (let at = 0; ;) {
    const { bytesRead } = await file.read(piece, 0, piece.length, at);
    at += bytesRead;
    const found = reader.push(new Uint8Array(piece.subarray(0, bytesRead)));
    if (found) return { header: found.header, startByte: at - found.rest.length };
    if (bytesRead === 0)
      throw new AudioFormatError(
        'damaged',
        'This recording has no samples where they should be. Import the file again.',
      );
  }
}
