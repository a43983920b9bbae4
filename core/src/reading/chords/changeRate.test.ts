import { describe, expect, it } from 'vitest';
import { changeRates, type Place } from './changeRate.ts';
import { STATES } from './chordModel.ts';

const SPANS = 64;
const flat = new Float64Array(STATES).fill(-Math.log(STATES));
/** Log probabilities in which one chord is far likelier than all others. */
const sure = (state: number) => flat.map((value, i) => value + (i === state ? 8 : 0));
const places = Array.from({ length: SPANS }, (_, i): Place =>
  i % 4 === 0 ? 'bar' : i % 4 === 2 ? 'middle' : 'beat',
);
const ratesOf = (chordAt: (span: number) => Float64Array) => {
  const rates = changeRates(
    places.map((_, i) => chordAt(i)),
    () => flat,
    places,
  );
  return { bar: rates[4], middle: rates[2], beat: rates[1] };
};

describe('how often chords change', () => {
  it('is learned from the recording: on every beat', () => {
    const { bar, middle, beat } = ratesOf((i) => sure(i % 7));
    for (const rate of [bar, middle, beat]) expect(rate).toBeGreaterThan(0.8);
  });

  it('is learned from the recording: every two bars', () => {
    const { bar, middle, beat } = ratesOf((i) => sure(Math.floor(i / 8) % 7));
    expect(bar).toBeGreaterThan(0.4);
    expect(bar).toBeLessThan(0.55);
    expect(middle).toBeLessThan(0.08);
    expect(beat).toBeLessThan(0.03);
  });

  it('stays what is usual where nothing is heard', () => {
    const { bar, middle, beat } = ratesOf(() => flat);
    expect(bar).toBeCloseTo(0.5, 5);
    expect(middle).toBeCloseTo(0.25, 5);
    expect(beat).toBeCloseTo(0.15, 5);
  });

  it('is the same for places of one kind, and never certain', () => {
    const rates = changeRates(
      places.map((_, i) => sure(i % 7)),
      () => flat,
      places,
    );
    expect(new Set(rates).size).toBe(3);
    for (const rate of rates) expect(rate).toBeLessThanOrEqual(0.95);
  });
});
