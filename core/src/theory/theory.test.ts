import { describe, expect, it } from 'vitest';
import {
  centsFromNearest,
  degreeOf,
  hzToMidi,
  keyFromSignature,
  keyName,
  keySignature,
  midiToHz,
  noteName,
  parseNote,
} from './index.ts';

describe('pitch', () => {
  it('agrees with concert pitch (ISO 16:1975; MIDI Tuning Standard)', () => {
    expect(midiToHz(69)).toBe(440);
    expect(midiToHz(60)).toBeCloseTo(261.626, 3);
    expect(hzToMidi(440)).toBe(69);
  });

  it.each([
    ['E2', 82.41],
    ['A2', 110.0],
    ['D3', 146.83],
    ['G3', 196.0],
    ['B3', 246.94],
    ['E4', 329.63],
  ])('puts the open guitar string %s at %f Hz (equal temperament from ISO 16)', (name, hz) => {
    expect(midiToHz(parseNote(name)!)).toBeCloseTo(hz, 2);
  });

  it('names notes with sharps or flats', () => {
    expect(noteName(60)).toBe('C4');
    expect(noteName(61)).toBe('C♯4');
    expect(noteName(61, true)).toBe('D♭4');
    expect(noteName(0)).toBe('C-1');
    expect(centsFromNearest(60.12)).toBeCloseTo(12);
    expect(centsFromNearest(59.9)).toBeCloseTo(-10);
  });

  it('reads typed notes and refuses what is none', () => {
    expect(parseNote('F#3')).toBe(54);
    expect(parseNote('Bb4 +12')).toBeCloseTo(70.12);
    expect(parseNote('b♭2')).toBe(46);
    expect(parseNote('60.5')).toBe(60.5);
    expect(parseNote('H4')).toBeUndefined();
    expect(parseNote('200')).toBeUndefined();
    expect(parseNote('')).toBeUndefined();
  });
});

describe('keys', () => {
  const G = { tonic: 'G', mode: 'major' } as const;
  it('gives degrees (common practice: D over the key of C is the second)', () => {
    expect(degreeOf(62, { tonic: 'C', mode: 'major' })).toBe(2);
    expect(degreeOf(66, G)).toBe(7);
    expect(degreeOf(65, G)).toBeUndefined();
    expect(degreeOf(70, { tonic: 'D', mode: 'minor' })).toBe(6);
  });

  it.each([
    ['C', 'major', 0],
    ['G', 'major', 1],
    ['D', 'minor', -1],
    ['Eb', 'major', -3],
    ['F#', 'major', 6],
    ['A', 'minor', 0],
  ] as const)('writes %s %s with %i accidentals (circle of fifths)', (tonic, mode, accidentals) => {
    expect(keySignature({ tonic, mode })).toBe(accidentals);
    expect(keyFromSignature(accidentals, mode)).toEqual({ tonic, mode });
  });

  it('names keys properly', () => {
    expect(keyName({ tonic: 'Bb', mode: 'minor' })).toBe('B♭ minor');
  });
});
