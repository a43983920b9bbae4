import { describe, expect, it } from 'vitest';
import { usualShapes } from './guitarShapes.ts';
import {
  bassOf,
  chordInKey,
  chordsOfKey,
  chordSymbol,
  degreeOverChord,
  degreeText,
  functionOf,
  GUITAR_STRINGS,
  mod12,
  movement,
  parseChord,
  pitchClassesOf,
  voiceChord,
  VOICINGS,
  type Chord,
  type Key,
} from './index.ts';

const read = (text: string) => (parseChord(text) as { chord: Chord }).chord;
const G: Key = { fifths: 1, mode: 'major' };
const Dm: Key = { fifths: -1, mode: 'minor' };

describe('chords in a key (common practice)', () => {
  it('have numerals, with dominants of other degrees and borrowed chords', () => {
    const numeral = (symbol: string, key = G) => chordInKey(read(symbol), key);
    expect(['G', 'Am7', 'Bm', 'Cmaj7', 'D7', 'Em', 'F#dim', 'F#m7b5'].map((s) => numeral(s).numeral)).toEqual(
      [...['I', 'ii7', 'iii', 'IVmaj7', 'V7', 'vi', 'vii°', 'viiø7']],
    );
    expect(numeral('A7')).toEqual({ numeral: 'V7/V', belongs: 'leads to another chord' });
    expect(numeral('B7')).toEqual({ numeral: 'V7/vi', belongs: 'leads to another chord' });
    expect(numeral('F')).toEqual({ numeral: 'bVII', belongs: 'borrowed' });
    expect(numeral('Cm')).toEqual({ numeral: 'iv', belongs: 'borrowed' });
    expect(numeral('Ab')).toMatchObject({ numeral: 'bII', belongs: 'outside the key' });
    expect(numeral('A7', Dm)).toEqual({ numeral: 'V7', belongs: 'in the key' });
    expect(numeral('Bb', Dm).numeral).toBe('VI');
  });

  it('are at home, away or leading', () => {
    expect(['G', 'Em', 'C', 'Am', 'D', 'F#dim', 'B7'].map((s) => functionOf(read(s), G))).toEqual([
      ...['home', 'home', 'away', 'away', 'leading', 'leading', 'leading'],
    ]);
  });

  it('stand on every degree', () => {
    expect(chordsOfKey(G).map(chordSymbol)).toEqual(['G', 'Am', 'Bm', 'C', 'D', 'Em', 'F#dim']);
    expect(chordsOfKey(Dm, true).map(chordSymbol)).toEqual([
      ...['Dm7', 'Em7b5', 'Fmaj7', 'Gm7', 'Am7', 'Bbmaj7', 'C7', 'A7'],
    ]);
  });

  it('give notes their degree: D over C major is the ninth (common practice)', () => {
    expect(degreeText(degreeOverChord(62, read('C')))).toBe('9th');
    expect(degreeOverChord(63, read('C7'))).toBe('#9');
    expect(degreeOverChord(63, read('Cm7'))).toBe('b3');
    expect(degreeText(degreeOverChord(61, read('C/E')))).toBe('♭9th');
  });
});

/** Whether a shape sounds the chord and nothing else, its bass lowest. */
function isShapeOf(notes: readonly number[], chord: Chord): boolean {
  const own = new Set([...pitchClassesOf(chord), bassOf(chord)]);
  return notes.every((midi) => own.has(mod12(midi))) && mod12(Math.min(...notes)) === bassOf(chord);
}

describe('voicings', () => {
  const symbols = ['G', 'Em7', 'Cmaj9', 'D7(b9)', 'F#m7b5', 'Bb/D', 'Asus4', 'G13', 'C5', 'Edim7'];

  it('sound only notes of the chord, and those that make it', () => {
    for (const symbol of symbols) {
      const chord = read(symbol);
      const classes = new Set([...pitchClassesOf(chord), bassOf(chord)]);
      for (const voicing of VOICINGS) {
        const notes = voiceChord(chord, { voicing });
        expect(notes.length, `${symbol} ${voicing}`).toBeGreaterThan(0);
        expect(notes.every((midi) => classes.has(mod12(midi)))).toBe(true);
        expect([...notes].sort((a, b) => a - b)).toEqual(notes);
        const third = chord.degrees.find((degree) => /^b?3$/.test(degree));
        if (third && voicing !== 'bass')
          expect(
            notes.some((midi) => mod12(midi) === pitchClassesOf(chord)[chord.degrees.indexOf(third)]),
            `third of ${symbol} ${voicing}`,
          ).toBe(true);
      }
    }
  });

  it('have the bass of the chord lowest where they have a bass', () => {
    for (const symbol of symbols) {
      const chord = read(symbol);
      for (const voicing of ['keyboard', 'bass'] as const)
        expect(mod12(voiceChord(chord, { voicing })[0]), `${symbol} ${voicing}`).toBe(bassOf(chord));
      expect(mod12(voiceChord(chord, { voicing: 'close', withBass: true })[0])).toBe(bassOf(chord));
    }
  });

  it('for the guitar are the open shapes every player knows (common practice)', () => {
    const shape = (symbol: string) => voiceChord(read(symbol), { voicing: 'guitar' });
    expect(shape('Em')).toEqual([40, 47, 52, 55, 59, 64]);
    expect(shape('G')).toEqual([43, 47, 50, 55, 59, 67]);
    expect(shape('Am')).toEqual([45, 52, 57, 60, 64]);
    expect(shape('E')).toEqual([40, 47, 52, 56, 59, 64]); // 022100
    expect(shape('F#m')).toEqual([42, 49, 54, 57, 61, 66]); // 244222
    expect(shape('Bm')).toEqual([47, 54, 59, 62, 66]); // x24432
    expect(shape('D/F#')).toEqual([42, 45, 50, 57, 62, 66]); // 200232
    for (const symbol of symbols) expect(shape(symbol).length).toBeLessThanOrEqual(GUITAR_STRINGS.length);
  });

  it('for the guitar are the chord and nothing else, in every key', () => {
    const qualities = ['', 'm', '7', 'm7', 'maj7', 'sus2', 'sus4', '7sus4', '6', 'm6', 'm7b5', 'add9'];
    for (const root of ['C', 'Db', 'D', 'Eb', 'E', 'F', 'F#', 'G', 'Ab', 'A', 'Bb', 'B'])
      for (const quality of qualities)
        for (const bass of ['', '/C', '/E', '/F#', '/G', '/A', '/B']) {
          const chord = read(root + quality + bass);
          for (const notes of usualShapes(chord))
            expect(isShapeOf(notes, chord), `${root}${quality}${bass}: ${notes.join(' ')}`).toBe(true);
        }
  });

  it('for the guitar take the same shape every time, unless the hand would travel', () => {
    let previous: number[] = [];
    const shapes = new Map<string, string>();
    for (const symbol of ['E', 'F#m', 'A', 'B7', 'E', 'C#m', 'F#m', 'B7', 'E', 'G', 'D/F#', 'E']) {
      previous = voiceChord(read(symbol), { voicing: 'guitar' }, previous);
      const known = shapes.get(symbol) ?? previous.join();
      expect(previous.join(), symbol).toBe(known);
      shapes.set(symbol, known);
    }
    // From the ninth fret (x 9 11 11 11 9) C is not played open, but at the eighth.
    const high = [54, 61, 66, 70, 73];
    expect(voiceChord(read('C'), { voicing: 'guitar' }, high)).toEqual([48, 55, 60, 64, 67, 72]);
  });

  it('move little from chord to chord and do not cross', () => {
    let previous: number[] = [];
    let total = 0;
    for (const symbol of ['G', 'Em', 'C', 'D', 'G']) {
      const notes = voiceChord(read(symbol), { voicing: 'close' }, previous);
      if (previous.length > 0) total += movement(previous, notes);
      previous = notes;
    }
    // G–Em: D to E (2); Em–C: B to C (1); C–D: all two up or less; in root positions it would be far more.
    expect(total).toBeLessThanOrEqual(14);
  });

  it('in drop 2 lay the second voice from the top an octave down', () => {
    for (const symbol of ['Cmaj7', 'Am7', 'F#m7b5', 'G7']) {
      const notes = voiceChord(read(symbol), { voicing: 'drop2' });
      // Raised again it is the second from the top of a close chord.
      const close = [...notes.slice(1, 3), notes[0] + 12, notes[3]];
      expect(
        [...close].sort((a, b) => a - b),
        symbol,
      ).toEqual(close);
      expect(close[3] - close[0], symbol).toBeLessThan(12);
    }
  });

  it('lie octaves higher or lower when asked to', () => {
    const plain = voiceChord(read('G'), { voicing: 'close' });
    expect(voiceChord(read('G'), { voicing: 'close', octaves: 1 })).toEqual(plain.map((midi) => midi + 12));
  });
});
