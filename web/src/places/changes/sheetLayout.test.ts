import { describe, expect, it } from 'vitest';
import { chordSpans, createSong, createTimeMap, type Change } from '@plundra/core/song';
import { beatAt, fitsOneLine, layOutBars, nameSize, rowsOf } from './sheetLayout.ts';

const song = createSong('s', 'Song');
const time = createTimeMap(song);
const change = (id: string, startTicks: number): Change => ({
  id,
  startTicks,
  chord: { root: 'C', degrees: ['1', '3', '5'] },
});

describe('the chord sheet', () => {
  const changes = [change('a', 0), change('b', 1920), change('c', 3840 * 2 + 960)];
  const bars = layOutBars(chordSpans(changes, 3840 * 5), 3840 * 5, time, 4);

  it('has a bar for each bar of the song', () => {
    expect(bars).toHaveLength(5);
    expect(layOutBars([], 0, time, 8)).toHaveLength(8);
  });

  it('puts chords where they start, and says what holds on', () => {
    expect(bars[0].chords.map(({ from, to }) => [from, to])).toEqual([
      [0, 0.5],
      [0.5, 1],
    ]);
    expect(bars[0].held).toBeUndefined();
    expect(bars[1].chords).toEqual([]);
    expect(bars[1].held?.id).toBe('b');
    expect(bars[2].chords[0].from).toBe(0.25);
    expect(bars[2].held?.id).toBe('b');
    expect(bars[4].held?.id).toBe('c');
  });

  it('begins a row for each section, named or not', () => {
    const rows = rowsOf(bars, 4, [{ startTicks: 3840 * 2, name: 'Chorus' }]);
    expect(rows.map(({ section, bars }) => [section, bars.map(({ bar }) => bar)])).toEqual([
      [undefined, [1, 2]],
      ['Chorus', [3, 4, 5]],
    ]);
    expect(rowsOf(bars, 4, []).map(({ bars }) => bars.length)).toEqual([4, 1]);
  });

  it('lays out four hundred bars with a chord on every beat', () => {
    const many = Array.from({ length: 1600 }, (_, i) => change(`m${i}`, 960 * i));
    const long = layOutBars(chordSpans(many, 3840 * 400), 3840 * 400, time, 8);
    expect(long).toHaveLength(400);
    expect(long.every(({ chords }) => chords.length === 4)).toBe(true);
  });

  it('knows the beat under the pointer', () => {
    expect(beatAt(bars[1], 0.6)).toBe(3840 + 1920);
    expect(beatAt(bars[1], 1)).toBe(3840 + 2880);
  });

  it('sets long names smaller, never too small to read', () => {
    expect(nameSize('G', 200)).toBe(23);
    expect(nameSize('F♯m7♭5/C', 55)).toBeLessThan(14);
    expect(nameSize('B♭m', 40)).toBeLessThan(nameSize('B♭7', 40));
    expect(nameSize('C7(♯9)(♯11)(♭13)/G♯', 20)).toBe(11);
    expect([fitsOneLine('Am7', 55), fitsOneLine('C7(♯9)(♯11)/G♯', 55)]).toEqual([true, false]);
  });
});
