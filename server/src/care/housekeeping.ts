/** What is cleaned up at the start and every day: work that was killed, and songs that lay in the bin long enough. */
import { readdir, rm, stat } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Knex } from 'knex';
import {
  recordingsIn,
  type DataFolder,
  type RecordingStore,
  type ShelfStore,
  type SongStore,
} from '../store/index.ts';
import type { UnfinishedTakes } from '../recordings/unfinishedTakes.ts';
import type { Backups } from './backups.ts';

/** A file that was not written to for this long is not being written any more. */
const LEFT_MS = 15 * 60 * 1000;
/** Decoded sound that nobody played for so long is decoded again when it is played. */
const UNPLAYED_MS = 7 * 24 * 60 * 60 * 1000;
/** Files that earlier releases left in the system's folder for temporary files. */
const OLD_TEMPORARY = /^plundra-[0-9a-f-]{36}\.wav$/;

/** Removes what killed work left behind. */
export async function removeLeftovers(
  folder: DataFolder,
  now: () => number = Date.now,
  temporary: string = tmpdir(),
): Promise<void> {
  const remove = async (path: string, afterMs = LEFT_MS) => {
    try {
      if (now() - (await stat(path)).mtimeMs < afterMs) return;
      await rm(path, { force: true });
    } catch {
      // Somebody else was faster.
    }
  };
  for (const name of await namesIn(folder.incoming)) await remove(join(folder.incoming, name));
  for (const name of await namesIn(temporary))
    if (OLD_TEMPORARY.test(name)) await remove(join(temporary, name));
  for (const path of await filesBelow(folder.derived)) if (path.endsWith('.new')) await remove(path);
  const decoded = join(folder.derived, 'decoded');
  for (const name of await namesIn(decoded)) await remove(join(decoded, name), UNPLAYED_MS);
  for (const name of await namesIn(join(folder.root, 'backups')))
    if (name.endsWith('.new')) await remove(join(folder.root, 'backups', name));
}

/** Takes songs out of the bin whose time is over. */
export async function emptyBin(songs: SongStore, now: () => number = Date.now): Promise<void> {
  for (const { id, goneAt } of await songs.bin()) if (Date.parse(goneAt) <= now()) await songs.purge(id);
}

/** What was taken off the shelf can be put back for so long. */
const ON_FLOOR_MS = 30 * 24 * 60 * 60 * 1000;

/** Takes items away for good that were taken off the shelf long ago. */
export async function clearShelf(
  database: Knex,
  shelf: ShelfStore,
  now: () => number = Date.now,
): Promise<void> {
  for (const hash of await shelf.purge(new Date(now() - ON_FLOOR_MS).toISOString()))
    await database('discarded').insert({ hash }).onConflict('hash').ignore();
}

/** Removes recordings of songs that went for good, as soon as no song could bring them back, by undoing or from a backup. */
export async function removeDiscarded(
  database: Knex,
  songs: SongStore,
  shelf: ShelfStore,
  recordings: RecordingStore,
  backups: Pick<Backups, 'texts'>,
): Promise<void> {
  const discarded = ((await database('discarded').select('hash')) as { hash: string }[]).map(
    ({ hash }) => hash,
  );
  if (discarded.length === 0) return;
  const unused = new Set(discarded);
  const used = await shelf.recordings();
  for (const { id } of (await database('songs').select('id')) as { id: string }[])
    for await (const line of songs.raw(id)) recordingsIn(line).forEach((hash) => used.add(hash));
  for (const hash of discarded.filter((each) => used.has(each))) {
    await database('discarded').where({ hash }).delete();
    unused.delete(hash);
  }
  for await (const text of backups.texts()) recordingsIn(text).forEach((hash) => unused.delete(hash));
  for (const hash of unused) {
    await recordings.remove(hash);
    await database('discarded').where({ hash }).delete();
  }
}

/** Takes of songs that went for good, and samples whose note is gone. */
export async function removeOrphanedTakes(
  database: Knex,
  takes: UnfinishedTakes,
  folder: DataFolder,
): Promise<void> {
  const songs = new Set(((await database('songs').select('id')) as { id: string }[]).map(({ id }) => id));
  const found = await takes.list();
  for (const { id, songId } of found) if (!songs.has(songId)) await takes.discard(id);
  const names = new Set(await namesIn(folder.takes));
  for (const name of names) {
    if (names.has(name.replace(/\.f32$/, '.json'))) continue;
    const path = join(folder.takes, name);
    const touched = (await stat(path).catch(() => undefined))?.mtimeMs ?? 0;
    if (Date.now() - touched >= LEFT_MS) await rm(path, { force: true });
  }
}

async function namesIn(path: string): Promise<string[]> {
  return readdir(path).catch(() => []);
}

async function filesBelow(path: string): Promise<string[]> {
  const entries = await readdir(path, { withFileTypes: true, recursive: true }).catch(() => []);
  return entries.filter((entry) => entry.isFile()).map((entry) => join(entry.parentPath, entry.name));
}
