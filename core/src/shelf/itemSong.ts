/** An item alone as a song, to be heard as it is. */
import { applyEdit, createSong, quartersPerMinute, type Note, type Part, type Song } from '../song/index.ts';
import type { ShelfItem } from './item.ts';
import { planPutIn } from './putIn.ts';

/** In its own tempo, metre and key, from the start of the song on. */
export function itemSong(item: ShelfItem, notes: readonly Note[] | undefined, into: Part): Song {
  const song: Song = {
    ...createSong('shelf', item.name),
    key: item.key,
    tempoMap: [{ startTicks: 0, bpm: item.bpm ?? quartersPerMinute(120, item.metre) }],
    metreMap: [{ startTicks: 0, ...item.metre }],
  };
  let made = 0;
  const plan = planPutIn(
    song,
    {
      item,
      ...(notes && { notes }),
      into,
      atTicks: 0,
      fit: { key: false, tempo: false },
      upbeatBefore: false,
    },
    () => `alone-${made++}`,
  );
  return applyEdit(song, plan.edit).song;
}
