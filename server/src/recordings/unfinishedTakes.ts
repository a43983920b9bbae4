/**
 * Takes while they are recorded. Each has a file of samples that grows block by block, and a note of where it belongs. A
 * block says from which frame on it is, so that sending it again changes nothing; what was acknowledged is on the disk. A
 * take goes only when its page says that it is in the song, or that nobody wants it.
 */
import { createReadStream } from 'node:fs';
import { open, readdir, readFile, rename, rm, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import {
  TAKE_GAP,
  takeBeginningSchema,
  type KeepTakeRequest,
  type Recording,
  type TakeBeginning,
  type UnfinishedTake,
} from '@plundra/contract';
import { wavHead } from '@plundra/core/formats';
import type { DiskSpace } from '../care/diskSpace.ts';
import type { Pool } from '../readings/pool.ts';
import { Problem, type DataFolder, type RecordingStore } from '../store/index.ts';
import { addRecording } from './addRecording.ts';

export interface UnfinishedTakes {
  /** Begins a take; saying it again changes nothing. */
  begin(take: TakeBeginning): Promise<UnfinishedTake>;
  /** Writes interleaved 32-bit floats from a frame on. Gives the number of frames on the disk. */
  write(id: string, fromFrame: number, bytes: Uint8Array): Promise<number>;
  list(songId?: string): Promise<UnfinishedTake[]>;
  /** All of it so far, as a WAV file. */
  sound(id: string): Promise<{ bytes: Readable; byteLength: number }>;
  /** Makes recordings of stretches of it. The take stays until it is discarded. */
  keep(id: string, pieces: KeepTakeRequest['pieces']): Promise<Recording[]>;
  discard(id: string): Promise<void>;
}

const BYTES_A_SAMPLE = 4;

export function createUnfinishedTakes(
  folder: DataFolder,
  recordings: RecordingStore,
  pool: Pool,
  disk: DiskSpace,
): UnfinishedTakes {
  const notePath = (id: string) => join(folder.takes, `${id}.json`);
  const samplesPath = (id: string) => join(folder.takes, `${id}.f32`);
  /** Blocks of one take are written one after another. */
  const writing = new Map<string, Promise<unknown>>();

  const find = async (id: string): Promise<UnfinishedTake> => {
    let text: string;
    try {
      text = await readFile(notePath(id), 'utf8');
    } catch {
      throw new Problem(404, 'take_not_found', 'This take is not here any more: it was kept or discarded.');
    }
    const take = takeBeginningSchema.parse(JSON.parse(text));
    const { size, mtimeMs } = await stat(samplesPath(id));
    return {
      ...take,
      frames: Math.floor(size / frameBytesOf(take)),
      idleSeconds: Math.max(0, (Date.now() - mtimeMs) / 1000),
    };
  };

  const writeBlock = async (id: string, fromFrame: number, bytes: Uint8Array): Promise<number> => {
    const take = await find(id);
    const frameBytes = frameBytesOf(take);
    if (bytes.length === 0 || bytes.length % frameBytes !== 0)
      throw new Problem(
        400,
        'bad_request',
        `A block of this take is a whole number of frames of ${frameBytes} bytes.`,
      );
    if (fromFrame > take.frames)
      throw new Problem(409, TAKE_GAP, `The next block of this take begins at frame ${take.frames}.`, {
        frames: take.frames,
      });
    await disk.checkRoom(bytes.length);
    const file = await open(samplesPath(id), 'r+');
    try {
      // What a full disk cut off in the middle of a frame is written anew.
      await file.write(bytes, 0, bytes.length, fromFrame * frameBytes);
      await file.datasync();
    } finally {
      await file.close();
    }
    return Math.max(take.frames, fromFrame + bytes.length / frameBytes);
  };

  return {
    async begin(take) {
      const known = await find(take.id).catch(() => undefined);
      if (known) return known;
      await disk.checkRoom(0);
      await writeFile(samplesPath(take.id), '');
      // The note makes it a take: before that nobody sees it.
      await writeFile(`${notePath(take.id)}.new`, JSON.stringify(take));
      await rename(`${notePath(take.id)}.new`, notePath(take.id));
      return { ...take, frames: 0, idleSeconds: 0 };
    },
    write(id, fromFrame, bytes) {
      const before = writing.get(id) ?? Promise.resolve();
      const written = before.catch(() => undefined).then(() => writeBlock(id, fromFrame, bytes));
      writing.set(id, written);
      return written.finally(() => {
        if (writing.get(id) === written) writing.delete(id);
      });
    },
    async list(songId) {
      const names = (await readdir(folder.takes)).filter((name) => name.endsWith('.json'));
      // One that goes meanwhile, or that nobody can read, is not offered.
      const found = await Promise.all(names.map((name) => find(name.slice(0, -5)).catch(() => undefined)));
      return found
        .filter((take) => take !== undefined && (songId === undefined || take.songId === songId))
        .map((take) => take!)
        .sort((a, b) => (a.startedAt < b.startedAt ? -1 : 1));
    },
    async sound(id) {
      const take = await find(id);
      const head = headOf(take, take.frames);
      const dataBytes = take.frames * frameBytesOf(take);
      return {
        bytes: withHead(head, samplesPath(id), 0, dataBytes),
        byteLength: head.length + dataBytes,
      };
    },
    async keep(id, pieces) {
      const take = await find(id);
      const frameBytes = frameBytesOf(take);
      const wanted = pieces.map(({ fromFrame, toFrame, name }) => ({
        from: Math.min(fromFrame, take.frames),
        to: Math.min(toFrame, take.frames),
        name,
      }));
      if (wanted.some(({ from, to }) => to <= from))
        throw new Problem(
          409,
          'take_too_short',
          `Only ${(take.frames / take.sampleRateHz).toFixed(1)} s of this take have arrived, less than was asked for. Try again in a moment.`,
        );
      await disk.checkRoom(wanted.reduce((sum, { from, to }) => sum + (to - from) * frameBytes, 0));
      const made: Recording[] = [];
      for (const { from, to, name } of wanted)
        made.push(
          await addRecording(
            recordings,
            pool,
            withHead(headOf(take, to - from), samplesPath(id), from * frameBytes, to * frameBytes),
            name,
          ),
        );
      return made;
    },
    async discard(id) {
      await writing.get(id)?.catch(() => undefined);
      // Without its note it is no take; samples that are left then are tidied up.
      await rm(notePath(id), { force: true });
      await rm(samplesPath(id), { force: true });
    },
  };
}

const frameBytesOf = ({ channels }: Pick<TakeBeginning, 'channels'>) => channels * BYTES_A_SAMPLE;

const headOf = ({ channels, sampleRateHz }: TakeBeginning, frames: number) =>
  wavHead({ channels, sampleRateHz, bitsPerSample: 32, float: true }, frames);

/** A header, and bytes of a file from one to another. */
function withHead(head: Uint8Array, path: string, from: number, to: number): Readable {
  return Readable.from(
    (async function* () {
      yield head;
      if (to > from) yield* createReadStream(path, { start: from, end: to - 1 });
    })(),
    { objectMode: false },
  );
}
