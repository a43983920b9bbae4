import { describe, expect, it } from 'vitest';
import fc from 'fast-check';
import {
  applyEdit,
  createSong,
  createTimeMap,
  movedTempoPoint,
  tempoMapSchema,
  withoutTempoPoint,
  withRamp,
  withTempoPoint,
  type Song,
  type TempoEntry,
} from './index.ts';

const withMap = (tempoMap: TempoEntry[]): Song => ({ ...createSong('s', 'Song'), tempoMap });
const ritardando = withMap([
  { startTicks: 0, bpm: 120 },
  { startTicks: 3840, bpm: 120, ramp: true },
  { startTicks: 7680, bpm: 60 },
]);

/** Tempo maps with steps and ramps from 20 to 300 bpm. */
const maps = fc
  .array(
    fc.record({
      gap: fc.integer({ min: 1, max: 40_000 }),
      bpm: fc.double({ min: 20, max: 300, noNaN: true }),
      ramp: fc.boolean(),
    }),
    { minLength: 1, maxLength: 12 },
  )
  .map((entries) => {
    let startTicks = 0;
    return entries.map(({ gap, bpm, ramp }, i): TempoEntry => {
      if (i > 0) startTicks += gap;
      return { startTicks, bpm, ...(ramp && { ramp: true }) };
    });
  });

describe('a ramp', () => {
  it('takes the time that the sum of its beats takes, and the tempo is half way in its middle', () => {
    const time = createTimeMap(ritardando);
    expect(time.quartersPerMinuteAt(5760)).toBeCloseTo(90, 9);
    // ∫ 60 / (120 − 15 q) dq over four quarters q = 4 ln 2 seconds.
    expect(time.secondsAt(7680) - time.secondsAt(3840)).toBeCloseTo(4 * Math.log(2), 9);
    expect(time.secondsAt(8640) - time.secondsAt(7680)).toBeCloseTo(1, 9);
  });

  it('is found back exactly both ways, at any tempo', () => {
    fc.assert(
      fc.property(maps, fc.integer({ min: 0, max: 500_000 }), (tempoMap, ticks) => {
        const time = createTimeMap(withMap(tempoMap));
        expect(Math.abs(time.ticksAt(time.secondsAt(ticks)) - ticks)).toBeLessThan(1e-6 * (1 + ticks));
      }),
      { numRuns: 2000 },
    );
  });

  it('never goes back in time', () => {
    fc.assert(
      fc.property(maps, fc.integer({ min: 0, max: 300_000 }), (tempoMap, ticks) => {
        const time = createTimeMap(withMap(tempoMap));
        expect(time.secondsAt(ticks + 1)).toBeGreaterThan(time.secondsAt(ticks));
      }),
    );
  });

  it('does not go on backwards before the song', () => {
    const time = createTimeMap(
      withMap([
        { startTicks: 0, bpm: 60, ramp: true },
        { startTicks: 960, bpm: 240 },
      ]),
    );
    expect(time.secondsAt(-1920)).toBeCloseTo(-2, 12);
    expect(time.ticksAt(-2)).toBeCloseTo(-1920, 9);
  });

  it('after the last tempo holds it', () => {
    const time = createTimeMap(withMap([{ startTicks: 0, bpm: 120, ramp: true }]));
    expect(time.secondsAt(960 * 8)).toBeCloseTo(4, 12);
  });
});

describe('points of the tempo', () => {
  it('that are added change nothing of the time, also inside a ramp', () => {
    fc.assert(
      fc.property(maps, fc.integer({ min: 1, max: 100_000 }), (tempoMap, ticks) => {
        const song = withMap(tempoMap);
        const more = withTempoPoint(song, ticks);
        expect(tempoMapSchema.safeParse(more).success).toBe(true);
        const [before, after] = [createTimeMap(song), createTimeMap({ ...song, tempoMap: more })];
        for (const at of [ticks - 1, ticks, ticks + 777, 200_000])
          expect(Math.abs(after.secondsAt(at) - before.secondsAt(at))).toBeLessThan(1e-6);
      }),
    );
  });

  it('keep their order, and the first stays at the start', () => {
    const { tempoMap } = ritardando;
    expect(movedTempoPoint(tempoMap, 0, { startTicks: 500, bpm: 80 })[0]).toEqual({ startTicks: 0, bpm: 80 });
    expect(movedTempoPoint(tempoMap, 1, { startTicks: 99_999 })[1].startTicks).toBe(7679);
    expect(movedTempoPoint(tempoMap, 2, { startTicks: 0, bpm: 4 })[2]).toEqual({ startTicks: 3841, bpm: 10 });
  });

  it('become steps, and go; the first cannot', () => {
    const { tempoMap } = ritardando;
    expect(createTimeMap(withMap(withRamp(tempoMap, 1, false))).secondsAt(7680)).toBeCloseTo(4, 9);
    expect(withRamp(withRamp(tempoMap, 0, true), 0, false)).toEqual(tempoMap);
    expect(withoutTempoPoint(tempoMap, 1)).toHaveLength(2);
    expect(withoutTempoPoint(tempoMap, 0)).toEqual(tempoMap);
  });

  it('move with bars that are put in before them, and come back', () => {
    const edit = { type: 'time.insert', atTicks: 0, lengthTicks: 3840, cuts: true } as const;
    const { song, inverse } = applyEdit(ritardando, edit);
    expect(song.tempoMap.map(({ startTicks, ramp }) => [startTicks, ramp])).toEqual([
      [0, undefined],
      [7680, true],
      [11_520, undefined],
    ]);
    expect(applyEdit(song, inverse).song.tempoMap).toEqual(ritardando.tempoMap);
  });
});
