import { withDataFolder } from './dataFolder.ts';
import { findSong } from './findSong.ts';
import { parseCommand, single } from './usage.ts';
import { writeJson } from './writeJson.ts';

/** `plundra show`: the document of a song of the data folder, as this release understands it. */
export async function show(args: string[]): Promise<void> {
  const { values, positionals } = parseCommand(args, { out: { type: 'string' } });
  const wanted = single(positionals, 'song');
  await withDataFolder(async ({ songs }) => writeJson(values.out, await findSong(songs, wanted)));
}
