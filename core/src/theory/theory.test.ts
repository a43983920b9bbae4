import { describe, expect, it } from 'vitest';
import {
  centsFromNearest,
  degreeOf,
  hzToMidi,
  keyNamed,
  keyOn,
  keysOf,
  matchesKey,
  noteNameIn,
  parallelKey,
  keyName,
  midiToHz,
  noteName,
  parseNote,
  scaleSteps,
  tonicName,
  tonicPitchClass,
  voiceInterval,
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
  const G = keyNamed('G', 'major')!;
  it('gives degrees (common practice: D over the key of C is the second)', () => {
    expect(degreeOf(62, { fifths: 0, mode: 'major' })).toBe(2);
    expect(degreeOf(66, G)).toBe(7);
    expect(degreeOf(65, G)).toBeUndefined();
    expect(degreeOf(70, { fifths: -1, mode: 'minor' })).toBe(6);
  });

  it.each([
    ['C', 'major', 0],
    ['G', 'major', 1],
    ['D', 'minor', -1],
    ['Eb', 'major', -3],
    ['F#', 'major', 6],
    ['A', 'minor', 0],
    ['C#', 'major', 7],
    ['Cb', 'major', -7],
    ['C#', 'minor', 4],
    ['G#', 'minor', 5],
    ['D#', 'minor', 6],
    ['Eb', 'minor', -6],
    ['A#', 'minor', 7],
    ['Ab', 'minor', -7],
    ['Gb', 'major', -6],
  ] as const)('writes %s %s with %i accidentals (circle of fifths)', (tonic, mode, accidentals) => {
    expect(keyNamed(tonic, mode)).toEqual({ fifths: accidentals, mode });
    expect(tonicName({ fifths: accidentals, mode })).toBe(tonic);
  });

  it('knows fifteen keys of each mode, all by name, and none that no signature writes', () => {
    for (const mode of ['major', 'minor'] as const) {
      expect(keysOf(mode)).toHaveLength(15);
      for (const key of keysOf(mode)) expect(keyNamed(tonicName(key), mode)).toEqual(key);
    }
    expect(keyNamed('G#', 'major')).toBeUndefined();
  });

  it('takes the usual key on a pitch class, and the parallel one', () => {
    expect(keyName(keyOn(6, 'major'))).toBe('F♯ major');
    expect(keyName(keyOn(3, 'minor'))).toBe('E♭ minor');
    expect(keyName(keyOn(1, 'minor'))).toBe('C♯ minor');
    expect(keyName(parallelKey(keyNamed('Db', 'major')!))).toBe('C♯ minor');
    expect(keyName(parallelKey(keyNamed('A', 'minor')!))).toBe('A major');
  });

  it.each([
    ['Db', 'D♭ major'],
    ['C#', 'C♯ major'],
    ['c# min', 'C♯ minor'],
    ['e♭m', 'E♭ minor'],
    ['Bb', 'B♭ major'],
  ])('is found by typing %s', (typed, name) => {
    const found = [...keysOf('major'), ...keysOf('minor')]
      .filter((key) => matchesKey(key, typed))
      .map(keyName);
    expect(found[0]).toBe(name);
    expect(new Set(found.map((each) => each.split(' ')[0])).size).toBe(1);
  });

  it('gives the interval of a second voice: a third above is major or minor by the key', () => {
    const C = keyNamed('C', 'major')!;
    expect([60, 62, 64.2].map((midi) => voiceInterval(midi, 2, C))).toEqual([4, 3, 3]);
    expect(voiceInterval(60, -7, C)).toBe(-12);
    // F♯ counts as F, the lower of two as near.
    expect(voiceInterval(66, 2, C)).toBe(4);
  });

  it('spells every note of a scale with a letter of its own', () => {
    for (const key of [...keysOf('major'), ...keysOf('minor')]) {
      const tonic = 60 + tonicPitchClass(key);
      const names = scaleSteps(key).map((step) => noteNameIn(tonic + step, key));
      expect(new Set(names.map((name) => name[0])).size).toBe(7);
      names.forEach((name, i) => expect(parseNote(name), name).toBe(tonic + scaleSteps(key)[i]));
    }
    expect(noteNameIn(60, keyNamed('C#', 'major')!)).toBe('B♯3');
  });

  it('names keys properly', () => {
    expect(keyName({ fifths: -5, mode: 'minor' })).toBe('B♭ minor');
  });
});
