import { describe, expect, it } from 'vitest';
import { createSong, createTimeMap, gridTicks, pullToGrid, type GridPull } from './index.ts';

const song = createSong('s', 'Song');
/** 120 bpm, 4/4: a sixteenth is 125 ms. */
const time = createTimeMap(song);
const settings: GridPull = { grid: '1/16', pull: 1, swing: 0, leaveAloneBeyondSeconds: null };
const to = (seconds: number[], change: Partial<GridPull> = {}, map = time) =>
  pullToGrid(seconds, { ...settings, ...change }, map).pulled.map((each) => each.toSeconds);

describe('pulling to the grid', () => {
  it('goes to the nearest line, all the way or a share of it', () => {
    expect(to([0.12, 0.27, 1.06])).toEqual([0.125, 0.25, 1]);
    expect(to([0.12], { pull: 0.5 })[0]).toBeCloseTo(0.1225);
    expect(to([0.12], { pull: 0 })).toEqual([0.12]);
  });

  it.each([
    ['1/1', 3840],
    ['1/4', 960],
    ['1/4t', 640],
    ['1/4.', 1440],
    ['1/8.', 720],
    ['1/16t', 160],
    ['1/64', 60],
  ] as const)('%s is %i ticks at 960 a quarter', (grid, ticks) => {
    expect(gridTicks(grid)).toBe(ticks);
  });

  it('moves every second line late with swing: to the triplet at its full amount (common practice)', () => {
    expect(to([0.25, 0.5], { grid: '1/8', swing: 1 })[0]).toBeCloseTo(1 / 3);
    expect(to([0.25, 0.5], { grid: '1/8', swing: 1 })[1]).toBeCloseTo(0.5);
    expect(to([0.3], { grid: '1/8', swing: 0.5 })[0]).toBeCloseTo(0.25 + 0.25 / 6);
  });

  it('leaves alone what is too far from a line', () => {
    expect(to([0.04, 0.45], { grid: '1/4', leaveAloneBeyondSeconds: 0.045 })).toEqual([0, 0.45]);
  });

  it('counts from the bar in odd metres, and follows a change of tempo', () => {
    const odd = createTimeMap({
      tempoMap: [
        { startTicks: 0, bpm: 120 },
        { startTicks: 3360, bpm: 60 },
      ],
      metreMap: [{ startTicks: 0, beats: 7, unit: 8 }],
    });
    // The second bar starts after seven eighths (1.75 s), not on a quarter; from there beats last a second.
    expect(to([1.7, 2.7], { grid: '1/4' }, odd)).toEqual([1.75, 2.75]);
  });

  it('says beforehand how many move and how far', () => {
    const { report } = pullToGrid([0, 0.13, 0.26, 0.41], settings, time);
    expect(report).toMatchObject({ moving: 3, total: 4, furthestTo: { bar: 1, beat: 1 } });
    expect(report.medianMs).toBeCloseTo(10);
    expect(report.furthestMs).toBeCloseTo(35);
    expect(pullToGrid([0.5], settings, time).report).toMatchObject({ moving: 0, furthestTo: undefined });
  });
});
