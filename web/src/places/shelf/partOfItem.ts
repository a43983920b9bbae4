/** The part that an item gets where it goes into none that is there. */
import type { ShelfItem } from '@plundra/core/shelf';
import { markOf, type Part, type Song } from '@plundra/core/song';
import { freeName, nextColour } from '../../song/newParts.ts';

export function partOfItem(song: Song, item: ShelfItem, id: string, levelDb: number): Part {
  const name = freeName(song, item.name);
  const shape = {
    id,
    name,
    mark: markOf(name),
    colour: nextColour(song),
    levelDb,
    pan: 0,
    mute: false,
    solo: false,
  };
  const { sound } = item;
  if (sound.type === 'recording')
    return { ...shape, kind: 'recording', material: item.material, takes: [], passages: [] };
  return sound.program === 'drums'
    ? { ...shape, kind: 'drums', passages: [] }
    : { ...shape, kind: 'notes', program: sound.program, passages: [] };
}

/** Colour by what it is, so that a list can be looked through. */
export const MATERIAL_COLOURS: Record<ShelfItem['material'], number> = {
  voice: 0,
  keys: 5,
  guitar: 9,
  bass: 6,
  drums: 7,
  other: 8,
};
