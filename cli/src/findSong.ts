/** The one song of the data folder that a title or an id names. */
import { Problem, type SongStore } from '@plundra/server/store';
import type { Song } from '@plundra/core/song';

/** Throws {@link Problem} where none is called that, or several are. */
export async function findSong(songs: SongStore, wanted: string): Promise<Song> {
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
  return (await songs.read(found[0].id)).song;
}
