import { describe, expect, it } from 'vitest';
import {
  beatNoteName,
  beatsPerMinute,
  quartersPerMinute,
  createTimeMap,
  gridStepTicks,
  formatPosition,
  gridTicks,
  parsePosition,
  snapTicks,
  TICKS_PER_QUARTER,
} from './index.ts';

const map = (bpm: number, beats = 4, unit: 4 | 8 = 4) =>
  createTimeMap({ tempoMap: [{ startTicks: 0, bpm }], metreMap: [{ startTicks: 0, beats, unit }] });

describe('tempo map', () => {
  it('120 bpm is half a second a quarter (Standard MIDI Files 1.0: 500 000 µs)', () => {
    expect(map(120).secondsAt(TICKS_PER_QUARTER)).toBeCloseTo(0.5, 12);
    expect(map(120).ticksAt(0.5)).toBeCloseTo(TICKS_PER_QUARTER, 9);
  });

  it('goes through several tempi and back', () => {
    const time = createTimeMap({
      tempoMap: [
        { startTicks: 0, bpm: 60 },
        { startTicks: 3840, bpm: 120 },
        { startTicks: 7680, bpm: 30 },
      ],
      metreMap: [{ startTicks: 0, beats: 4, unit: 4 }],
    });
    expect(time.secondsAt(3840)).toBeCloseTo(4);
    expect(time.secondsAt(7680)).toBeCloseTo(6);
    expect(time.secondsAt(8640)).toBeCloseTo(8);
    for (const ticks of [0, 1, 960, 3840, 5000, 7680, 12345])
      expect(time.ticksAt(time.secondsAt(ticks))).toBeCloseTo(ticks, 6);
  });
});

describe('metre map', () => {
  it('counts bars and beats in 6/8 and after a change', () => {
    const time = createTimeMap({
      tempoMap: [{ startTicks: 0, bpm: 100 }],
      metreMap: [
        { startTicks: 0, beats: 4, unit: 4 },
        { startTicks: 7680, beats: 6, unit: 8 },
      ],
    });
    expect(formatPosition(time.barAt(0))).toBe('1.1.000');
    expect(formatPosition(time.barAt(7680))).toBe('3.1.000');
    expect(formatPosition(time.barAt(7680 + 2880))).toBe('4.1.000');
    // Two dotted beats (common practice).
    expect(formatPosition(time.barAt(7680 + 480 * 5 + 7))).toBe('3.2.967');
    expect(time.ticksOf({ bar: 4, beat: 2, tick: 10 })).toBe(7680 + 2880 + 1450);
    expect(time.beatTicksAt(8000)).toBe(1440);
    // A change holds from its first tick on.
    expect([time.beatTicksAt(7679), time.beatTicksAt(7680)]).toEqual([960, 1440]);
  });

  it.each([
    [4, 4, 'quarter', 92],
    [6, 8, 'dotted quarter', 61 + 1 / 3],
    [12, 8, 'dotted quarter', 61 + 1 / 3],
    [7, 8, 'eighth', 184],
    [3, 8, 'eighth', 184],
    [2, 2, 'half', 46],
  ] as const)(
    'says in %i/%i that a tempo counts the %s: 92 quarters a minute are %d',
    (beats, unit, name, bpm) => {
      const metre = { beats, unit };
      expect(beatNoteName(metre)).toBe(name);
      expect(beatsPerMinute(92, metre)).toBeCloseTo(bpm);
      expect(quartersPerMinute(beatsPerMinute(92, metre), metre)).toBeCloseTo(92);
    },
  );

  it('reads typed positions', () => {
    expect(parsePosition('5.3.110')).toEqual({ bar: 5, beat: 3, tick: 110 });
    expect(parsePosition('7')).toEqual({ bar: 7, beat: 1, tick: 0 });
    expect(parsePosition('0.1')).toBeUndefined();
    expect(parsePosition('five')).toBeUndefined();
  });
});

describe('grid', () => {
  it('knows plain and triplet values (common practice)', () => {
    expect(gridTicks('1/4')).toBe(960);
    expect(gridTicks('1/16')).toBe(240);
    expect(gridTicks('1/8t')).toBe(320);
  });

  it('adapts to the zoom', () => {
    // At 120 bpm a second is 1920 ticks.
    const time = map(120, 4);
    expect(gridStepTicks('adaptive', 0, time, 192)).toBe(240);
    expect(gridStepTicks('adaptive', 0, time, 19.2)).toBe(1920);
    expect(gridStepTicks('adaptive', 0, time, 0.2)).toBe(3840);
    expect(gridStepTicks('off', 0, time, 1920)).toBe(0);
    expect(gridStepTicks('1/2', 0, time, 1920)).toBe(1920);
  });

  it('adapts to beats, bars and tempo of the place: every step of a metre is one of its own', () => {
    const steps = (beats: number, unit: 4 | 8, bpm = 120) => {
      const time = createTimeMap({
        tempoMap: [{ startTicks: 0, bpm }],
        metreMap: [{ startTicks: 0, beats, unit }],
      });
      const found = [400, 192, 96, 48, 24, 12, 6, 3, 1].map((zoom) =>
        gridStepTicks('adaptive', 0, time, zoom),
      );
      return [...new Set(found)];
    };
    expect(steps(4, 4)).toEqual([120, 240, 480, 960, 1920, 3840]);
    expect(steps(3, 4)).toEqual([120, 240, 480, 960, 2880]);
    expect(steps(5, 4)).toEqual([120, 240, 480, 960, 4800]);
    expect(steps(6, 8)).toEqual([120, 240, 480, 1440, 2880]);
    expect(steps(12, 8)).toEqual([120, 240, 480, 1440, 2880, 5760]);
    expect(steps(7, 8)).toEqual([120, 240, 480, 3360]);
    const slowing = createTimeMap({
      tempoMap: [
        { startTicks: 0, bpm: 120 },
        { startTicks: 3840, bpm: 60 },
      ],
      metreMap: [
        { startTicks: 0, beats: 4, unit: 4 },
        { startTicks: 7680, beats: 6, unit: 8 },
      ],
    });
    expect([0, 3840, 7680].map((at) => gridStepTicks('adaptive', at, slowing, 20))).toEqual([
      1920, 960, 1440,
    ]);
  });

  it('snaps within the bar, so that 3/4 keeps its bar lines', () => {
    const waltz = map(126, 3);
    expect(snapTicks(2800, 1920, waltz)).toBe(2880);
    expect(snapTicks(1000, 240, waltz)).toBe(960);
    expect(snapTicks(-50, 240, waltz)).toBe(0);
    expect(snapTicks(123.4, 0, waltz)).toBe(123.4);
  });
});
