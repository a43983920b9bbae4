/** Recordings under their content hash: the file as it came, never changed, and what is known about it. */
import { createHash, randomUUID } from 'node:crypto';
import { createWriteStream, existsSync } from 'node:fs';
import { mkdir, readdir, readFile, rename, rm, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { Transform, type Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { Knex } from 'knex';
import type { Recording } from '@plundra/contract';
import type { DataFolder } from './database.ts';
import { asStorageProblem, Problem } from './problem.ts';

/** What a look into the file brings: see recordings/inspect. */
export interface Inspection {
  info: Pick<Recording, 'format' | 'sampleRateHz' | 'channels' | 'durationSeconds' | 'warnings'>;
  peaks: Uint8Array;
}

export interface RecordingStore {
  /** Takes in a stream of bytes; `inspect` reads the stored file. A file that is here already is not stored twice. */
  add(bytes: Readable, name: string, inspect: (path: string) => Promise<Inspection>): Promise<Recording>;
  find(hash: string): Promise<Recording>;
  soundPath(hash: string): string;
  /** Where the decoded sound of a long recording is kept while it is played. */
  decodedPath(hash: string): string;
  peaks(hash: string): Promise<Uint8Array>;
  /** Takes a recording away, and all that was derived from it. */
  remove(hash: string): Promise<void>;
}

export function createRecordingStore(database: Knex, folder: DataFolder): RecordingStore {
  const soundPath = (hash: string) => join(folder.recordings, hash.slice(0, 2), hash);
  const decodedPath = (hash: string) => join(folder.derived, 'decoded', `${hash}.wav`);
  const peaksPath = (hash: string) => join(folder.derived, 'peaks', `${hash}.peaks`);
  const stored = async (hash: string): Promise<Recording | undefined> => {
    const row = (await database('recordings').where({ hash }).first()) as { info: string } | undefined;
    return row && existsSync(soundPath(hash)) ? (JSON.parse(row.info) as Recording) : undefined;
  };

  return {
    async add(bytes, name, inspect) {
      const arriving = join(folder.incoming, randomUUID());
      const hasher = createHash('sha256');
      let byteLength = 0;
      const meter = new Transform({
        transform(chunk: Buffer, _encoding, done) {
          hasher.update(chunk);
          byteLength += chunk.length;
          done(null, chunk);
        },
      });
      try {
        await pipeline(bytes, meter, createWriteStream(arriving));
        const hash = hasher.digest('hex');
        const known = await stored(hash);
        if (known && existsSync(peaksPath(hash))) return known;
        const { info, peaks } = await inspect(arriving);
        const recording: Recording = { hash, name, byteLength, ...info };
        await mkdir(dirname(peaksPath(hash)), { recursive: true });
        await writeFile(peaksPath(hash), peaks);
        await mkdir(dirname(soundPath(hash)), { recursive: true });
        await rename(arriving, soundPath(hash));
        await database('recordings')
          .insert({ hash, info: JSON.stringify(recording), created_at: new Date().toISOString() })
          .onConflict('hash')
          .merge();
        return recording;
      } catch (error) {
        throw asStorageProblem(error);
      } finally {
        await rm(arriving, { force: true });
      }
    },
    async find(hash) {
      const recording = await stored(hash);
      if (!recording) {
        throw new Problem(
          404,
          'recording_not_found',
          'The sound of this recording is not in the data folder. Import the file again; everything made from it comes back with it.',
        );
      }
      return recording;
    },
    soundPath,
    decodedPath,
    async peaks(hash) {
      try {
        return await readFile(peaksPath(hash));
      } catch {
        throw new Problem(
          404,
          'waveform_not_found',
          'The waveform of this recording is not in the data folder any more. Import the file again; it comes back with it.',
        );
      }
    },
    async remove(hash) {
      await database('recordings').where({ hash }).delete();
      await rm(soundPath(hash), { force: true });
      await rm(peaksPath(hash), { force: true });
      await rm(decodedPath(hash), { force: true });
      const readings = join(folder.derived, 'readings');
      for (const name of await readdir(readings).catch(() => []))
        if (name.startsWith(`${hash}-`)) await rm(join(readings, name), { force: true });
    },
  };
}
