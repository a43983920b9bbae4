import { describe, expect, it } from 'vitest';
import { keyNamed } from '../theory/index.ts';
import { bpmInName, keySaid, tempoSaid } from './saidByName.ts';

const four = { beats: 4, unit: 4 } as const;
const six = { beats: 6, unit: 8 } as const;

describe('a tempo in a name', () => {
  it('is a number with its unit', () => {
    expect(bpmInName('Shaker 96bpm')).toBe(96);
    expect(bpmInName('shaker_92.5_BPM')).toBe(92.5);
    expect(bpmInName('Shaker 96')).toBeUndefined();
    expect(bpmInName('Shaker 996 bpm')).toBeUndefined();
  });

  it('is believed where it makes whole beats, whatever was heard', () => {
    expect(tempoSaid('Bell 60 bpm', 8, undefined)).toEqual({ bpm: 60, inWords: true });
    expect(tempoSaid('Bell 60 bpm', 8, { bpm: 97, metre: four })).toEqual({ bpm: 60, inWords: true });
    expect(tempoSaid('Bell 97 bpm', 8, { bpm: 60, metre: four })).toBeUndefined();
    // One beat is no pulse.
    expect(tempoSaid('Bell 60 bpm', 1, undefined)).toBeUndefined();
  });

  it('without its unit says which of the tempi that may have been heard is meant', () => {
    expect(tempoSaid('Deck 97 Am', 480 / 97, { bpm: 194, metre: four })).toEqual({ bpm: 97, inWords: false });
    expect(tempoSaid('97 deck', 480 / 97, { bpm: 48.5, metre: four })?.bpm).toBe(97);
    expect(tempoSaid('Deck 97', 480 / 97, { bpm: 97.2, metre: four })?.bpm).toBe(97);
    // Two thirds is another tempo; where nothing was heard, the number may mean anything.
    expect(tempoSaid('Deck 97', 480 / 97, { bpm: 145.5, metre: four })).toBeUndefined();
    expect(tempoSaid('Deck 97', 480 / 97, undefined)).toBeUndefined();
    expect(tempoSaid('Deck 97', 5.4, { bpm: 97, metre: four })).toBeUndefined();
  });

  it.each([
    'Deck 96k',
    'Deck 60 Hz',
    'Deck 60.5',
    'Deck 60 ms',
    'Deck 60th',
    'Deck #60',
    'Deck 600',
    'Deck 60s',
  ])('is none in %s', (name) => expect(tempoSaid(name, 8, { bpm: 60, metre: four })).toBeUndefined());

  it('counts the beats of 6/8, where these are what was heard, and the item counts quarters', () => {
    expect(tempoSaid('Jig 80 bpm', 6, { bpm: 120, metre: six })?.bpm).toBe(120);
    expect(tempoSaid('Jig 80', 6, { bpm: 240, metre: six })?.bpm).toBe(120);
    expect(tempoSaid('Jig 120 bpm', 6, { bpm: 120, metre: six })?.bpm).toBe(120);
    expect(tempoSaid('Jig 80 bpm', 6, { bpm: 100, metre: six })?.bpm).toBe(80);
  });
});

describe('a key in a name', () => {
  it.each([
    ['Keys Am', 'A', 'minor'],
    ['Keys F#m 90', 'F#', 'minor'],
    ['Bb minor keys', 'Bb', 'minor'],
    ['Keys-E♭ maj', 'Eb', 'major'],
    ['Keys C-Major', 'C', 'major'],
    ['Dmin (2)', 'D', 'minor'],
  ] as const)('is read: %s', (name, tonic, mode) => {
    expect(keySaid(name, undefined)).toEqual(keyNamed(tonic, mode));
  });

  it.each(['Keys', 'A minute', 'Cmaj7 stab', 'Dm7', 'Gmt', 'Ham', 'keys am', 'B', 'Major C', 'G#maj'])(
    'is none in %s',
    (name) => expect(keySaid(name, undefined)).toBeUndefined(),
  );

  it('is believed where the key that was heard is a relative, one fifth away, or on the same tonic', () => {
    const said = (tonic: string, mode: 'major' | 'minor') => keySaid('Keys Am', keyNamed(tonic, mode));
    const am = keyNamed('A', 'minor');
    for (const [tonic, mode] of [
      ['A', 'minor'],
      ['C', 'major'],
      ['F', 'major'],
      ['G', 'major'],
      ['E', 'minor'],
      ['A', 'major'],
    ] as const)
      expect(said(tonic, mode)).toEqual(am);
    expect(said('Bb', 'major')).toBeUndefined();
    expect(said('E', 'major')).toBeUndefined();
    // Seven sharps and five flats are the same notes.
    expect(keySaid('Keys C# major', keyNamed('Db', 'major'))).toEqual(keyNamed('C#', 'major'));
  });
});
