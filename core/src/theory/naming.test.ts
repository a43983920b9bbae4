import { describe, expect, it } from 'vitest';
import { chordSymbol, parseChord, pitchClassesOf, semitonesOf, KNOWN_DEGREES } from './chord.ts';
import { chordOfNotes } from './naming.ts';

const named = (...midis: number[]) => {
  const chord = chordOfNotes(midis, null);
  return chord && chordSymbol(chord);
};

describe('the name of played notes (common practice, as in fake books)', () => {
  it.each([
    ['C', [60, 64, 67]],
    ['C/E', [52, 60, 67]],
    ['Dm7', [50, 57, 60, 65]],
    ['C6', [48, 57, 64, 67]],
    ['Am7', [45, 60, 64, 67]],
    ['Gsus4', [55, 60, 62]],
    ['G7/F', [53, 55, 59, 62]],
    ['Cadd9/D', [50, 60, 64, 67]],
    ['C/F#', [54, 60, 64, 67]],
    ['G5', [43, 50, 55]],
    ['Bdim7', [47, 50, 53, 56]],
    ['Fm7/C', [48, 53, 56, 60, 63]],
  ])('%s', (symbol, midis) => expect(named(...midis)).toBe(symbol));

  it('knows a seventh chord without its fifth', () => {
    expect(named(48, 64, 70)).toBe('C7');
  });
  it('gives no name to one note, an octave, or a cluster', () => {
    expect(named(60)).toBeUndefined();
    expect(named(48, 60)).toBeUndefined();
    expect(named(60, 61, 62, 63)).toBeUndefined();
    expect(named()).toBeUndefined();
  });
  it('spells in the key', () => {
    expect(chordSymbol(chordOfNotes([58, 62, 65], { fifths: -1, mode: 'major' })!)).toBe('Bb');
  });
  it('names every known quality in root position with the notes that were played', () => {
    for (const degrees of KNOWN_DEGREES) {
      const midis = degrees.map((degree) => 48 + semitonesOf(degree));
      const chord = chordOfNotes(midis, null)!;
      const sounded = new Set(midis.map((midi) => midi % 12));
      expect(new Set(pitchClassesOf(chord)), degrees.join(' ')).toEqual(sounded);
      expect(parseChord(chordSymbol(chord))).toEqual({ chord });
    }
  });
});
