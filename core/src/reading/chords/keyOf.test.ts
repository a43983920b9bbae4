import { describe, expect, it } from 'vitest';
import { keyName, mod12, parseChord, pitchClassesOf, pitchClassOf, type Chord } from '../../theory/index.ts';
import { guessKeyOfChords, trackKeys, type ChordEvidence } from './keyOf.ts';

const chord = (symbol: string, weight = 4): ChordEvidence => {
  const parsed = parseChord(symbol);
  if ('error' in parsed || !parsed.chord) throw new Error(symbol);
  const classes = pitchClassesOf(parsed.chord);
  const root = mod12(pitchClassOf(parsed.chord.root)!);
  return { root, classes, minor: classes.includes((root + 3) % 12), weight };
};
const C = { fifths: 0, mode: 'major' } as const;
const names = (symbols: string) =>
  trackKeys(
    C,
    symbols.split(' ').map((each) => (each === '-' ? null : chord(each))),
  ).map(keyName);

describe('the key of chords that are known', () => {
  it.each([
    ['C Am F G C', 'C major'],
    ['Am Dm E7 Am', 'A minor'],
    ['Db Gb Ab7 Db', 'D♭ major'],
  ])('%s: %s', (symbols, name) => {
    const chords = symbols.split(' ').map((each) => {
      const parsed = parseChord(each) as { chord: Chord };
      return { chord: parsed.chord, weight: 4 };
    });
    expect(keyName(guessKeyOfChords(chords)[0].key)).toBe(name);
    expect(guessKeyOfChords([])).toEqual([]);
  });
});

describe('the key along a song', () => {
  it('stays through a secondary dominant, a borrowed chord and silence', () => {
    expect(new Set(names('C Am D7 G C Fm C - F G7 C'))).toEqual(new Set(['C major']));
  });

  it('changes where several bars belong to another', () => {
    const path = names('C F G C Am F G C Eb Ab Bb Eb Cm Ab Bb7 Eb Ab Bb7 Eb');
    expect(path.slice(0, 8)).toEqual(new Array(8).fill('C major'));
    expect(path.slice(8)).toEqual(new Array(11).fill('E♭ major'));
  });

  it('is nothing for no chords', () => {
    expect(trackKeys(C, [])).toEqual([]);
  });
});
