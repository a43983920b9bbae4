import { Chord as TonalChord } from 'tonal';
import { describe, expect, it } from 'vitest';
import {
  bassOf,
  chordOn,
  chordSymbol,
  harteLabel,
  keyNamed,
  keysOf,
  noteNamesOf,
  parseChord,
  pitchClassesOf,
  prettyName,
  suffixOf,
  transposeChord,
  type Chord,
} from './index.ts';

const read = (text: string): Chord => {
  const parsed = parseChord(text);
  if ('error' in parsed || !parsed.chord) throw new Error(`${text}: ${JSON.stringify(parsed)}`);
  return parsed.chord;
};
const classes = (text: string) => [...new Set(pitchClassesOf(read(text)))].sort((a, b) => a - b);

describe('chord symbols', () => {
  it('are built as Harte et al. 2005 give their shorthands', () => {
    // Table 1 of "Symbolic representation of musical chords"; 9, maj9 and min9 of table 2.
    for (const [symbol, degrees] of [
      ['C', '1,3,5'],
      ['Cm', '1,b3,5'],
      ['Cdim', '1,b3,b5'],
      ['Caug', '1,3,#5'],
      ['Cmaj7', '1,3,5,7'],
      ['Cm7', '1,b3,5,b7'],
      ['C7', '1,3,5,b7'],
      ['Cdim7', '1,b3,b5,bb7'],
      ['Cm7b5', '1,b3,b5,b7'],
      ['CmMaj7', '1,b3,5,7'],
      ['C6', '1,3,5,6'],
      ['Cm6', '1,b3,5,6'],
      ['C9', '1,3,5,b7,9'],
      ['Cmaj9', '1,3,5,7,9'],
      ['Cm9', '1,b3,5,b7,9'],
      ['Csus4', '1,4,5'],
    ])
      expect(harteLabel(read(symbol)), symbol).toBe(`C:(${degrees})`);
  });

  it('sound as the library tonal says', () => {
    const letters: Record<string, number> = { C: 0, D: 2, E: 4, F: 5, G: 7, A: 9, B: 11 };
    const classOf = (name: string) =>
      (letters[name[0]] + (name.match(/#/g)?.length ?? 0) - (name.match(/b/g)?.length ?? 0) + 24) % 12;
    for (const symbol of [
      ...['C', 'Dm', 'Edim', 'Faug', 'Gsus2', 'Asus4', 'B5', 'Bb6', 'Ebm6', 'F#7', 'Abmaj7', 'C#m7'],
      ...['F#m7b5', 'Bdim7', 'DmMaj7', 'E7#5', 'G7b5', 'A7sus4', 'Cadd9', 'Dm9', 'Ebmaj9', 'F9', 'G13'],
      ...['C6/9', 'A7b9', 'B7#9', 'Cmaj7#11', 'E7#11', 'F#m11', 'Gmaj13', 'D9sus4'],
    ]) {
      const theirs = TonalChord.get(symbol === 'C6/9' ? 'C69' : symbol).notes.map(classOf);
      expect(theirs.length, symbol).toBeGreaterThan(1);
      expect(classes(symbol), symbol).toEqual([...new Set(theirs)].sort((a, b) => a - b));
    }
  });

  it('are understood as players type them', () => {
    expect(classes('F♯m7♭5')).toEqual(classes('F#ø'));
    expect(classes('A7(b9)')).toEqual(classes('A7b9'));
    expect(classes('CΔ')).toEqual(classes('CM7'));
    expect(classes('C-7')).toEqual(classes('Cmin7'));
    expect(bassOf(read('Bb/D'))).toBe(2);
    expect(read('Bb/Bb').bass).toBeUndefined();
    expect(classes('C6/9/E')).toEqual(classes('C69'));
    expect(bassOf(read('C6/9/E'))).toBe(4);
    expect(parseChord('N.C.')).toEqual({ chord: null });
    expect(parseChord('nc')).toEqual({ chord: null });
    // Without a third, and one of two degrees left out.
    expect(classes('C7(no3)')).toEqual([0, 7, 10]);
  });

  it('say what was not understood', () => {
    const error = (text: string) => {
      const parsed = parseChord(text);
      return 'error' in parsed ? parsed.error : undefined;
    };
    expect(error('Cmaj#9x')).toMatch(/“x” in “Cmaj#9x”/);
    expect(error('H7')).toMatch(/does not start with a note/);
    expect(error('')).toMatch(/does not start with a note/);
    expect(error('C/H')).toMatch(/“H” after the slash is not a note/);
    expect(error('Gfoo')).toMatch(/“foo”/);
    expect(error('C7b')).toMatch(/“b”/);
  });

  it('are written so that they read back', () => {
    for (const symbol of ['C', 'F#m7b5', 'Bb/D', 'Esus4', 'A7(b9)', 'Gmaj7(#11)', 'D6/9', 'Cm(b13)', 'B7alt'])
      expect(chordSymbol(read(symbol))).toBe(symbol);
    expect(chordSymbol(null)).toBe('N.C.');
    expect(chordSymbol(read('Cmin7'))).toBe('Cm7');
    // Every small set of degrees has a name that says all of it.
    for (const third of ['2', 'b3', '3', '4', '']) {
      for (const fifth of ['b5', '5', '#5', '']) {
        for (const more of ['', '6', 'b7', '7', '9', 'b9 b7', '9 11 b7', '#11 7']) {
          const degrees = ['1', third, fifth, ...more.split(' ')].filter(Boolean);
          const sounds = (list: readonly string[]) => classes(`C${suffixOf(list)}`);
          const wanted = [...new Set(pitchClassesOf({ root: 'C', degrees }))].sort((a, b) => a - b);
          expect(sounds(degrees), `${degrees.join(' ')} → ${suffixOf(degrees)}`).toEqual(wanted);
        }
      }
    }
  });

  it('take a major seventh that is written behind', () => {
    expect(read('C9maj7').degrees).toEqual(['1', '3', '5', '7', '9']);
    expect(parseChord('C9maj5')).toHaveProperty('error');
  });

  it('move to another key with its spelling', () => {
    // Common practice: F up to B flat is +5.
    const move = (text: string, by: number, tonic: string) =>
      chordSymbol(transposeChord(read(text), by, keyNamed(tonic, 'major')!));
    expect(move('Fmaj7', 5, 'Bb')).toBe('Bbmaj7');
    expect(move('G/B', 5, 'Bb')).toBe('C/E');
    expect(move('F', 1, 'G')).toBe('F#');
    expect(move('G/B', 2, 'Db')).toBe('A/C#');
  });

  it.each([
    ['C#7', 'C♯ E♯ G♯ B'],
    ['Cm', 'C E♭ G'],
    ['Abm7', 'A♭ C♭ E♭ G♭'],
    ['Cdim7', 'C E♭ G♭ B♭♭'],
    ['F#maj7', 'F♯ A♯ C♯ E♯'],
    ['C/D', 'D C E G'],
  ])('%s is spelled from its root: %s (common practice)', (text, notes) => {
    expect(noteNamesOf(read(text)!).map(prettyName).join(' ')).toBe(notes);
  });

  it('spell a note of their own in the bass as they would above it', () => {
    expect(chordSymbol(read('A7/Db'))).toBe('A7/C#');
    expect(chordSymbol(chordOn(9, ['1', '3', '5', 'b7'], keyNamed('Db', 'major')!, 1))).toBe('A7/C#');
    expect(chordSymbol({ root: 'A', degrees: ['1', '3', '5', 'b7'], bass: 'Db' })).toBe('A7/C#');
    expect(chordSymbol(chordOn(0, ['1', '3', '5'], null, 10))).toBe('C/Bb');
    expect(chordSymbol(chordOn(6, ['1', '3', '5'], keyNamed('Gb', 'major')!, 11))).toBe('Gb/Cb');
    for (let root = 0; root < 12; root++)
      for (let bass = 0; bass < 12; bass++)
        for (const key of [...keysOf('major'), ...keysOf('minor'), null]) {
          const made = chordOn(root, ['1', '3', '5', 'b7'], key, bass);
          expect(bassOf(made)).toBe(bass);
          expect(read(chordSymbol(made))).toEqual(made);
        }
  });
});
