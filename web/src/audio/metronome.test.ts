import { describe, expect, it } from 'vitest';
import { createTimeMap, type MetreEntry, type TempoEntry } from '@plundra/core/song';
import { beatClicks, countInBeats } from './metronome.ts';

const timeOf = (
  metre: Omit<MetreEntry, 'startTicks'>,
  tempoMap: TempoEntry[] = [{ startTicks: 0, bpm: 120 }],
) => createTimeMap({ tempoMap, metreMap: [{ startTicks: 0, ...metre }] });
const rounded = (seconds: readonly number[]) => seconds.map((each) => Math.round(each * 1000) / 1000);

describe('the metronome', () => {
  it('clicks every beat from one time up to another, the first of each bar otherwise', () => {
    const clicks = beatClicks(timeOf({ beats: 3, unit: 4 }), 0.5, 2.5);
    expect(rounded(clicks.map(({ timeSeconds }) => timeSeconds))).toEqual([0.5, 1, 1.5, 2]);
    expect(clicks.map(({ downbeat }) => downbeat)).toEqual([false, false, true, false]);
  });

  it('clicks dotted quarters in 6/8', () => {
    const clicks = beatClicks(timeOf({ beats: 6, unit: 8 }), 0, 3);
    expect(rounded(clicks.map(({ timeSeconds }) => timeSeconds))).toEqual([0, 0.75, 1.5, 2.25]);
    expect(clicks.map(({ downbeat }) => downbeat)).toEqual([true, false, true, false]);
  });

  it('counts in one bar that ends where playing begins, at the tempo that is found there', () => {
    expect(rounded(countInBeats(timeOf({ beats: 4, unit: 4 }), 0))).toEqual([2, 1.5, 1, 0.5]);
    expect(rounded(countInBeats(timeOf({ beats: 3, unit: 4 }), 1.5))).toEqual([1.5, 1, 0.5]);
    expect(rounded(countInBeats(timeOf({ beats: 3, unit: 4 }), 1.5, 2))).toEqual([3, 2.5, 2, 1.5, 1, 0.5]);
    expect(rounded(countInBeats(timeOf({ beats: 6, unit: 8 }), 0))).toEqual([1.5, 0.75]);
    const slower = timeOf({ beats: 4, unit: 4 }, [
      { startTicks: 0, bpm: 120 },
      { startTicks: 3840, bpm: 60 },
    ]);
    expect(rounded(countInBeats(slower, 2))).toEqual([4, 3, 2, 1]);
  });
});
