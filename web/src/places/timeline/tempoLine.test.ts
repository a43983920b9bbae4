import { describe, expect, it } from 'vitest';
import { createTimeMap, type TempoEntry } from '@plundra/core/song';
import { lineOf, roomForPoints, scaleOf } from './tempoLine.ts';

const tempoMap: TempoEntry[] = [
  { startTicks: 0, bpm: 120 },
  { startTicks: 960, bpm: 100, ramp: true },
  { startTicks: 1920, bpm: 60 },
];
const bpmAt = createTimeMap({
  tempoMap,
  metreMap: [{ startTicks: 0, beats: 4, unit: 4 }],
}).quartersPerMinuteAt;
/** A tenth of a pixel a tick, and a pixel a beat a minute. */
const line = (map: TempoEntry[], width = 400, leftTicks = 0) =>
  lineOf(
    map,
    bpmAt,
    (ticks) => (ticks - leftTicks) / 10,
    (bpm) => bpm,
    width,
  );

describe('the line of the tempo', () => {
  it('goes level, steps, slopes and holds to the right edge', () => {
    const corners = line(tempoMap).split(' ');
    expect(corners.slice(0, 3)).toEqual(['0.0,120.0', '96.0,120.0', '96.0,100.0']);
    expect(corners).toContain('144.0,80.0');
    expect(corners.slice(-3)).toEqual(['192.0,60.0', '192.0,60.0', '400.0,60.0']);
  });

  it('leaves out what is not in sight', () => {
    expect(line(tempoMap, 400, 3000)).toBe('-108.0,60.0 400.0,60.0');
  });

  it('makes no cliff of a small change, and leaves room above and below', () => {
    const { least, most } = scaleOf([
      { startTicks: 0, bpm: 100 },
      { startTicks: 960, bpm: 101 },
    ]);
    expect(most - least).toBeGreaterThan(30);
    expect(least).toBeLessThan(100);
    expect(most).toBeGreaterThan(101);
  });
});

describe('points of a tempo that changes often', () => {
  it('are left out where they would lie on each other, and numbers before points', () => {
    expect(roomForPoints([0, 5, 12, 30, 47, 100])).toEqual([
      { shown: true, numbered: true },
      { shown: false, numbered: false },
      { shown: true, numbered: false },
      { shown: true, numbered: false },
      { shown: true, numbered: true },
      { shown: true, numbered: true },
    ]);
  });
});
