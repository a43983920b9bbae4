/** Finding items: by words, and by what they are. */
import { keyName, sameKey, type Key } from '../theory/index.ts';
import { itemBars } from './fit.ts';
import type { ShelfItem, ShelfKind } from './item.ts';

export interface ShelfFilter {
  /** Words, each of which must begin a word of the name, the tags, the sound, the key or the song it comes from. */
  text: string;
  kind: ShelfKind | 'all';
  /** Null: any. */
  key: Key | null;
  /** Quarter notes a minute, both included; null: any. */
  bpm: readonly [number, number] | null;
  /** Bars, both included; null: any. */
  bars: readonly [number, number] | null;
}

export const EVERYTHING: ShelfFilter = { text: '', kind: 'all', key: null, bpm: null, bars: null };

/** Items are never changed in place: the words of each are made once. */
const knownWords = new WeakMap<ShelfItem, string>();

const plain = (text: string) =>
  text.toLowerCase().normalize('NFD').replace(/\p{M}/gu, '').replace(/♯/g, '#').replace(/♭/g, 'b');

/** Every word with a space before it. */
function wordsOf(item: ShelfItem): string {
  let words = knownWords.get(item);
  if (words === undefined) {
    const { name, tags, material, kind, key, fromSong = '' } = item;
    const all = [name, ...tags, material, kind, key ? keyName(key) : '', fromSong].join(' ');
    words = ` ${plain(all)
      .split(/[^\p{L}\p{N}#]+/u)
      .join(' ')}`;
    knownWords.set(item, words);
  }
  return words;
}

/** Rounding of what a recording lasts must not push it out of a filter. */
const NEARLY = 0.02;

/** Those that pass, in the order they came in. */
export function filterItems(items: readonly ShelfItem[], filter: ShelfFilter): ShelfItem[] {
  const { kind, key, bpm, bars } = filter;
  const wanted = plain(filter.text).split(/\s+/).filter(Boolean);
  return items.filter((item) => {
    if (kind !== 'all' && item.kind !== kind) return false;
    if (key && !sameKey(item.key, key)) return false;
    if (bpm && (item.bpm === null || item.bpm < bpm[0] || item.bpm > bpm[1])) return false;
    if (bars) {
      const count = itemBars(item);
      if (count === undefined || count < bars[0] - NEARLY || count > bars[1] + NEARLY) return false;
    }
    const words = wanted.length > 0 ? wordsOf(item) : '';
    return wanted.every((word) => words.includes(` ${word}`));
  });
}
