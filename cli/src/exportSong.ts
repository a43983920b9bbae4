import { writeFile } from 'node:fs/promises';
import { followedSong } from '@plundra/core/arranging';
import { writeSongMidi } from '@plundra/core/formats';
import { bracketedChords, chordSheetText, createTimeMap, type Song } from '@plundra/core/song';
import { withDataFolder } from './dataFolder.ts';
import { findSong } from './findSong.ts';
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
    const song = await findSong(songs, wanted);
    await writeFile(out, write(song));
  });
}
