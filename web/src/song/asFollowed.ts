import { followedSong } from '@plundra/core/arranging';
import type { Song } from '@plundra/core/song';

const followed = new WeakMap<Song, Song>();

/** The song as its parts follow the chords, made once. */
export function asFollowed(song: Song): Song {
  let made = followed.get(song);
  if (!made) followed.set(song, (made = followedSong(song)));
  return made;
}
