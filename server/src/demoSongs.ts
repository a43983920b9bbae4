/** The demo songs: shipped as song documents and recordings, put into the data folder when asked for. */
import { createReadStream, existsSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { upgradeSong, type Song } from '@plundra/core/song';
import type { Pool } from './readings/pool.ts';
import { addRecording } from './recordings/addRecording.ts';
import { Problem, type RecordingStore, type SongStore } from './store/index.ts';

export interface DemoSongs {
  /** Puts the songs that are missing in place and returns the ids of all, the main one first. */
  open(): Promise<string[]>;
}

export function createDemoSongs(
  folder: string,
  songs: SongStore,
  recordings: RecordingStore,
  pool: Pool,
): DemoSongs {
  let running: Promise<string[]> | undefined;
  const open = async (): Promise<string[]> => {
    const index = join(folder, 'songs.json');
    if (!existsSync(index)) {
      throw new Problem(
        500,
        'no_demo',
        'The demo songs are missing from this copy of Plundra. Get a complete copy, or start with a recording of your own.',
      );
    }
    const documents = (JSON.parse(readFileSync(index, 'utf8')) as unknown[]).map((each) => upgradeSong(each));
    for (const file of readdirSync(folder)
      .filter((name) => name.endsWith('.flac'))
      .sort()) {
      await addRecording(recordings, pool, createReadStream(join(folder, file)), file);
    }
    const present = new Set((await songs.list()).map((song) => song.id));
    for (const song of documents) if (!present.has(song.id)) await putBack(song);
    return documents.map((song) => song.id);
  };
  const putBack = async (song: Song) => {
    // A demo song that was deleted comes back as it was left.
    await songs.restore(song.id).catch(() => songs.insert(song));
  };
  return {
    open() {
      running ??= open().finally(() => (running = undefined));
      return running;
    },
  };
}
