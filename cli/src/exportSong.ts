import { writeFile } from 'node:fs/promises';
import { writeSongMidi } from '@plundra/core/formats';
import { Problem } from '@plundra/server/store';
import { withDataFolder } from './dataFolder.ts';
import { parseCommand, single, UsageError } from './usage.ts';

/** `plundra export`: a song of the data folder as a file; the ending of --out says which kind. */
export async function exportSong(args: string[]): Promise<void> {
  const { values, positionals } = parseCommand(args, { out: { type: 'string' } });
  const wanted = single(positionals, 'song');
  const out = values.out;
  if (!out) throw new UsageError('--out FILE.mid is missing.');
  if (!/\.midi?$/i.test(out))
    throw new UsageError(`Songs are exported as MIDI (.mid); “${out}” ends otherwise.`);
  await withDataFolder(async ({ songs }) => {
    const list = await songs.list();
    const found = list.filter((song) => song.id === wanted || song.title === wanted);
    if (found.length === 0) {
      throw new Problem(
        404,
        'song_not_found',
        `There is no song “${wanted}” in the data folder. There are: ${list.map((song) => song.title).join(', ') || 'none'}.`,
      );
    }
    if (found.length > 1) {
      throw new Problem(
        409,
        'ambiguous',
        `${found.length} songs are called “${wanted}”; name one by its id: ${found.map((song) => song.id).join(', ')}.`,
      );
    }
    const { song } = await songs.read(found[0].id);
    await writeFile(out, writeSongMidi(song));
  });
}
