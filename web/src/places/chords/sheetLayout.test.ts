import { describe, expect, it } from 'vitest';
import { chordSpans, createSong, createTimeMap, type ChordEntry } from '@plundra/core/song';
import {
  barsToShow,
  enterFrom,
  beatAt,
  fitsOneLine,
  layOutBars,
  nameSize,
  planRows,
  stepFrom,
} from './sheetLayout.ts';

const song = createSong('s', 'Song');
const time = createTimeMap(song);
const change = (id: string, startTicks: number): ChordEntry => ({
  id,
  startTicks,
  chord: { root: 'C', degrees: ['1', '3', '5'] },
});

describe('the chord sheet', () => {
  const changes = [change('a', 0), change('b', 1920), change('c', 3840 * 2 + 960)];
  const spans = chordSpans(changes, 3840 * 5);
  const bars = layOutBars(spans, time, 1, 5);

  it('has a bar for each bar of the song', () => {
    expect(planRows(time, 3840 * 5, 4, 4, []).lastBar).toBe(5);
    expect(planRows(time, 3840 * 5 + 1, 4, 4, []).lastBar).toBe(6);
    expect(planRows(time, 0, 8, 4, []).lastBar).toBe(8);
  });

  it('lays out any bars as they are in all', () => {
    expect(layOutBars(spans, time, 3, 4)).toEqual(bars.slice(2, 4));
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
    const rows = planRows(time, 3840 * 5, 4, 4, [{ startTicks: 3840 * 2, name: 'Chorus' }]);
    expect([rows.row(0), rows.row(1)]).toEqual([
      { section: undefined, firstBar: 1, lastBar: 2 },
      { section: 'Chorus', firstBar: 3, lastBar: 5 },
    ]);
    expect(rows.count).toBe(2);
    expect([1, 2, 3, 5, 99].map(rows.rowOf)).toEqual([0, 0, 1, 1, 1]);
    const A = { fifths: 3, mode: 'major' as const };
    const changing = planRows(time, 3840 * 5, 4, 4, [], [{ startTicks: 3840 * 3, key: A }]);
    expect([0, 1].map((row) => changing.row(row))).toEqual([
      { section: undefined, key: undefined, firstBar: 1, lastBar: 3 },
      { section: undefined, key: A, firstBar: 4, lastBar: 5 },
    ]);
    const plain = planRows(time, 3840 * 5, 4, 4, []);
    expect([plain.row(0), plain.row(1)]).toEqual([
      { section: undefined, firstBar: 1, lastBar: 4 },
      { section: undefined, firstBar: 5, lastBar: 5 },
    ]);
  });

  it('plans a song of a thousand million ticks without laying it out', () => {
    const rows = planRows(time, 1e9, 8, 4, [{ startTicks: 5e8, name: 'Middle' }]);
    expect(rows.lastBar).toBe(Math.ceil(1e9 / 3840));
    const middle = rows.rowOf(time.barAt(5e8).bar);
    expect(rows.row(middle)).toMatchObject({ section: 'Middle', firstBar: time.barAt(5e8).bar });
    expect(rows.row(rows.count - 1).lastBar).toBe(rows.lastBar);
  });

  it('goes from beat to beat and chord to chord, and from bar to bar', () => {
    const off = chordSpans([change('o', 1500)], 3840 * 5);
    const walk = (from: number | null, step: 1 | -1, byBars = false, times = 4) => {
      const places: (number | undefined)[] = [];
      for (let place: number | null | undefined = from, i = 0; i < times && place !== undefined; i++)
        places.push((place = stepFrom(time, off, place, step, byBars, 5)));
      return places;
    };
    expect(walk(null, 1, false, 6)).toEqual([0, 960, 1500, 1920, 2880, 3840]);
    expect(walk(3840, -1, false, 6)).toEqual([2880, 1920, 1500, 960, 0, undefined]);
    expect(walk(100, 1, true, 3)).toEqual([3840, 7680, 11520]);
    expect(walk(null, -1, true, 2)).toEqual([3840 * 4, 3840 * 3]);
    expect(walk(3840 * 5 - 960, 1)).toEqual([undefined]);
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

describe('going on along the sheet', () => {
  const time = createTimeMap(createSong('s', 'Song'));

  it('Enter goes from the start of a bar to the next bar, from another beat to the next beat', () => {
    expect(enterFrom(time, 0)).toBe(3840);
    expect(enterFrom(time, 960)).toBe(1920);
    expect(enterFrom(time, 2880)).toBe(3840);
    expect(enterFrom(time, 1000)).toBe(1920);
  });

  it('the sheet grows with what is typed, and always shows empty bars to type into', () => {
    expect(barsToShow(time, 0, null)).toBe(8);
    expect(barsToShow(time, 3840 * 8, null)).toBe(16);
    expect(barsToShow(time, 3840 * 8, 3840 * 12)).toBe(24);
  });
});
