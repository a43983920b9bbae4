import { writeFile } from 'node:fs/promises';
import { followedSong } from '@plundra/core/arranging';
import { writeSongMidi } from '@plundra/core/formats';
import { bracketedChords, chordSheetText, createTimeMap, type Song } from '@plundra/core/song';
import { Problem } from '@plundra/server/store';
import { withDataFolder } from './dataFolder.ts';
import { parseCommand, single, UsageError } from './usage.ts';

type Writer = (song: Song) => Uint8Array | string;

/** By the ending of the file. */
const WRITERS: Record<string, Writer> = {
  mid: (song) => writeSongMidi(followedSong(song)),
  midi: (song) => writeSongMidi(followedSong(song)),
  txt: (song) => chordSheetText(song, createTimeMap(song)),
  cho: (song) => bracketedChords(song, createTimeMap(song)),
};

/** `plundra export`: a song of the data folder as a file; the ending of --out says which kind. */
export async function exportSong(args: string[]): Promise<void> {
  const { values, positionals } = parseCommand(args, { out: { type: 'string' } });
  const wanted = single(positionals, 'song');
  const out = values.out;
  if (!out) throw new UsageError('--out FILE.mid is missing.');
  const write = WRITERS[out.slice(out.lastIndexOf('.') + 1).toLowerCase()] as Writer | undefined;
  if (!write)
    throw new UsageError(
      `Songs are exported as MIDI (.mid) or as a chord sheet (.txt, or .cho with chords in brackets); “${out}” ends otherwise.`,
    );
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
    await writeFile(out, write(song));
  });
}
