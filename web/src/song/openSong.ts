import type { SongDocument } from '@plundra/contract';
import { api } from '../api/client.ts';

/** Songs that are on their way while the code that shows them is still being loaded. */
const underway = new Map<string, Promise<SongDocument>>();

/** Asks for a song that will be opened in a moment. */
export function fetchAhead(songId: string): void {
  const document = api.song(songId);
  // Whoever opens it hears of a failure; nobody may have come for it yet.
  document.catch(() => undefined);
  underway.set(songId, document);
}

/** The song as it is now; one that was fetched ahead is given away once. `asked`: see {@link api.song}. */
export function openSong(songId: string, asked: readonly string[] = []): Promise<SongDocument> {
  const document = underway.get(songId);
  underway.delete(songId);
  return document && asked.length === 0 ? document : api.song(songId, asked);
}
