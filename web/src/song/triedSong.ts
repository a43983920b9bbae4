import { applyEdit, EditError, type Edit, type Song } from '@plundra/core/song';

/** The song with a tried edit applied; an edit that no longer fits is left out. */
export function withTried(song: Song, tried: Edit): Song {
  try {
    return applyEdit(song, tried).song;
  } catch (error) {
    if (error instanceof EditError) return song;
    throw error;
  }
}
