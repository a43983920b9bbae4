import { describe, expect, it } from 'vitest';
import { parseChord, type Chord } from '../theory/index.ts';
import { bracketedChords, chordSheetText, createSong, createTimeMap, type Song } from './index.ts';

const BAR = 3840;
const chord = (text: string) => (parseChord(text) as { chord: Chord | null }).chord;
const song: Song = {
  ...createSong('s', 'Ferry at Six'),
  key: { fifths: 1, mode: 'major' },
  tempoMap: [{ startTicks: 0, bpm: 92 }],
  changes: [
    ['G', 0],
    ['N.C.', BAR],
    ['F#m7b5', 2 * BAR],
    ['B7', 2.5 * BAR],
    ['D/F#', 4 * BAR],
  ].map(([text, startTicks], i) => ({
    id: `c${i}`,
    startTicks: startTicks as number,
    chord: chord(text as string),
  })),
  sections: [{ id: 'v', startTicks: 2 * BAR, name: 'Verse 1' }],
};

describe('chords as text', () => {
  it('have title, key, tempo, metre and sections', () => {
    expect(chordSheetText(song, createTimeMap(song)).split('\n')).toEqual([
      'Ferry at Six',
      'G major · 92 bpm · 4/4',
      '',
      '| G             | N.C.          |',
      '',
      'Verse 1:',
      '| F#m7b5 . B7 . | .             | D/F#          |',
      '',
    ]);
  });

  it('in brackets hold each chord whole, N.C. too', () => {
    expect(bracketedChords(song, createTimeMap(song)).split('\n')).toEqual([
      '{title: Ferry at Six}',
      '{key: G}',
      '{tempo: 92}',
      '{time: 4/4}',
      '',
      '| [G]               | [N.C.]            |',
      '{comment: Verse 1}',
      '| [F#m7b5] . [B7] . | .                 | [D/F#]            |',
      '',
    ]);
  });

  it('say where the key changes', () => {
    const changing: Song = {
      ...song,
      keyChanges: [{ startTicks: 3 * BAR, key: { fifths: 3, mode: 'major' } }],
    };
    expect(chordSheetText(changing, createTimeMap(changing)).split('\n').slice(5)).toEqual([
      'Verse 1:',
      '| F#m7b5 . B7 . |',
      '(A major)',
      '| .             | D/F#          |',
      '',
    ]);
    expect(bracketedChords(changing, createTimeMap(changing))).toContain('\n{key: A}\n| .');
  });

  it('write minor keys with an m, and bars before the first chord as silent', () => {
    const later: Song = {
      ...song,
      key: { fifths: 4, mode: 'minor' },
      changes: song.changes!.slice(4),
      sections: [],
    };
    const text = bracketedChords(later, createTimeMap(later));
    expect(text).toContain('{key: C#m}');
    expect(text.split('\n').find((line) => line.startsWith('|'))).toMatch(/^\| - +\| - /);
  });
});
