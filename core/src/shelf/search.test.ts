import { describe, expect, it } from 'vitest';
import { bassLoop, pianoPhrase } from '../test/shelf.ts';
import { EVERYTHING, filterItems, type ShelfFilter } from './search.ts';

const items = [
  bassLoop({ id: '1', tags: ['round', 'finger-played'] }),
  bassLoop({
    id: '2',
    name: 'Quai d’été',
    material: 'guitar',
    key: { fifths: -2, mode: 'major' },
    bpm: 84.5,
  }),
  pianoPhrase({ id: '3', fromSong: 'Kettle Waltz' }),
  bassLoop({ id: '4', name: 'Bell', kind: 'recording', material: 'other', key: null, bpm: null }),
];
const found = (filter: Partial<ShelfFilter>) =>
  filterItems(items, { ...EVERYTHING, ...filter })
    .map(({ id }) => id)
    .join('');

describe('finding items', () => {
  it('by the beginnings of words in name, tags, sound, key and song, in any order', () => {
    expect(found({})).toBe('1234');
    expect(found({ text: 'walk lo' })).toBe('1');
    expect(found({ text: 'finger' })).toBe('1');
    expect(found({ text: 'played' })).toBe('1');
    expect(found({ text: 'guitar loop' })).toBe('2');
    expect(found({ text: 'kettle' })).toBe('3');
    expect(found({ text: 'alk' })).toBe('');
    expect(found({ text: 'd minor' })).toBe('3');
  });

  it('whatever accents and signs are typed', () => {
    expect(found({ text: 'ETE' })).toBe('2');
    expect(found({ text: 'bb' })).toBe('2');
    expect(found({ text: 'B♭' })).toBe('2');
  });

  it('by kind, key, tempo and length, together', () => {
    expect(found({ kind: 'loop' })).toBe('12');
    expect(found({ key: { fifths: -1, mode: 'major' } })).toBe('1');
    expect(found({ bpm: [84, 100] })).toBe('12');
    expect(found({ bpm: [101, 200] })).toBe('3');
    expect(found({ bars: [2.5, 4] })).toBe('12');
    expect(found({ bars: [0, 1] })).toBe('3');
    expect(found({ kind: 'loop', bpm: [90, 120], text: 'low' })).toBe('1');
  });
});
