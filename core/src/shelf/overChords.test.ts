import { describe, expect, it } from 'vitest';
import type { ChordEntry, Note } from '../song/index.ts';
import { parseChord } from '../theory/index.ts';
import { overChords } from './overChords.ts';

const BAR = 3840;
function chordOf(symbol: string) {
  const parsed = parseChord(symbol);
  if (!('chord' in parsed)) throw new Error(parsed.error);
  return parsed.chord;
}
const change = (startTicks: number, symbol: string | null): ChordEntry => ({
  id: `c${startTicks}`,
  startTicks,
  chord: symbol === null ? null : chordOf(symbol),
});
const note = (startTicks: number, midi: number): Note => ({
  id: `n${startTicks}`,
  startTicks,
  lengthTicks: 960,
  midi,
  velocity: 80,
});
const song = { changes: [change(BAR, 'C'), change(3 * BAR, 'G7'), change(4 * BAR, null)] };

describe('a phrase over the chords of its place', () => {
  it('says of each note whether it belongs to the chord that it begins over', () => {
    const found = overChords(song, [note(0, 64), note(960, 62), note(BAR, 65), note(BAR + 960, 64)], {
      atTicks: 2 * BAR,
      lengthTicks: 2 * BAR,
      semitones: 0,
    })!;
    expect(found.chords.map(({ startTicks, endTicks }) => [startTicks, endTicks])).toEqual([
      [0, BAR],
      [BAR, 2 * BAR],
    ]);
    // E and D over C; F and E over G7.
    expect(found.notes.map(({ inChord }) => inChord)).toEqual([true, false, true, false]);
  });

  it('counts it as it is transposed, and leaves out what is not looked at', () => {
    const place = { atTicks: 2 * BAR, lengthTicks: BAR, semitones: 2 };
    const found = overChords(song, [note(0, 62), note(BAR, 62)], place)!;
    expect(found.notes).toEqual([{ startTicks: 0, endTicks: 960, midi: 64, inChord: true }]);
  });

  it('where no chord is known there is nothing to say', () => {
    expect(overChords({}, [note(0, 60)], { atTicks: 0, lengthTicks: BAR, semitones: 0 })).toBeUndefined();
    expect(overChords(song, [note(0, 60)], { atTicks: 0, lengthTicks: BAR, semitones: 0 })).toBeUndefined();
    expect(
      overChords(song, [note(0, 60)], { atTicks: 4 * BAR, lengthTicks: BAR, semitones: 0 }),
    ).toBeUndefined();
  });
});
