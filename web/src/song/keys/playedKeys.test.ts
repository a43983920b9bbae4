import { describe, expect, it } from 'vitest';
import { chordKeyOfCode, chordKeyOfMidi, letterOfCode, midiOfCode, ROW_CODES } from './playedKeys.ts';

describe('keys that play', () => {
  it('are chord keys from left to right along the middle row', () => {
    expect(ROW_CODES.map(chordKeyOfCode)).toEqual([0, 1, 2, 3, 4, 5, 6, 7, 8, 9]);
    expect(chordKeyOfCode('KeyQ')).toBeUndefined();
    expect(ROW_CODES.map(letterOfCode).join('')).toBe('ASDFGHJKL;');
  });

  it('are the keys of a piano from C4 on', () => {
    expect(ROW_CODES.map(midiOfCode)).toEqual([60, 62, 64, 65, 67, 69, 71, 72, 74, 76]);
    expect(['KeyW', 'KeyE', 'KeyT', 'KeyY', 'KeyU', 'KeyO', 'KeyP'].map(midiOfCode)).toEqual([
      61, 63, 66, 68, 70, 73, 75,
    ]);
    expect(midiOfCode('KeyR')).toBeUndefined();
  });

  it('are the white keys of a MIDI keyboard from C3 on', () => {
    expect([48, 50, 52, 53, 55, 57, 59, 60, 62, 64].map((midi) => chordKeyOfMidi(midi, 10))).toEqual([
      0, 1, 2, 3, 4, 5, 6, 7, 8, 9,
    ]);
    expect([47, 49, 65].map((midi) => chordKeyOfMidi(midi, 10))).toEqual([undefined, undefined, undefined]);
  });
});
