import type { Ticks } from '../signal/index.ts';
import { TICKS_PER_QUARTER } from './schema.ts';
import type { TimeMap } from './timeMap.ts';

/** Grid steps a user can fix, as note values. */
export const GRID_VALUES = [
  '1/1',
  '1/2',
  '1/4',
  '1/4.',
  '1/4t',
  '1/8.',
  '1/8',
  '1/8t',
  '1/16.',
  '1/16',
  '1/16t',
  '1/32',
  '1/32t',
  '1/64',
] as const;
export type GridValue = (typeof GRID_VALUES)[number];
/** `adaptive` follows the zoom; `off` lets everything move freely. */
export type Grid = GridValue | 'adaptive' | 'off';

/** Length of a grid step: triplets ("t") are two thirds of the plain value, dotted values half as long again. */
export function gridTicks(value: GridValue): Ticks {
  const [, denominator, mark] = /^1\/(\d+)([t.]?)$/.exec(value)!;
  const factor = mark === 't' ? 2 / 3 : mark === '.' ? 3 / 2 : 1;
  return ((4 * TICKS_PER_QUARTER) / Number(denominator)) * factor;
}

/** Steps closer together on the screen than this cannot be aimed at. */
const MIN_PIXELS = 14;

const STRAIGHT_TICKS = GRID_VALUES.filter((value) => /\d$/.test(value))
  .map(gridTicks)
  .reverse();

/**
 * The step in force at a place and a zoom: the fixed one, or the finest whose lines stay apart, of those that go with the
 * beats and bars there: in 6/8 eighths, dotted quarters and bars, but no quarters. 0: no grid.
 */
export function gridStepTicks(grid: Grid, atTicks: Ticks, time: TimeMap, pixelsPerSecond: number): Ticks {
  if (grid === 'off') return 0;
  if (grid !== 'adaptive') return gridTicks(grid);
  const at = Math.max(0, atTicks);
  const { bar } = time.barAt(at);
  const barTicks = time.barStartTicks(bar + 1) - time.barStartTicks(bar);
  const pixelsPerTick = (pixelsPerSecond * 60) / (TICKS_PER_QUARTER * time.quartersPerMinuteAt(at));
  const steps = stepsOfBar(time.beatTicksAt(at), barTicks);
  return steps.find((ticks) => ticks * pixelsPerTick >= MIN_PIXELS) ?? barTicks;
}

function stepsOfBar(beatTicks: Ticks, barTicks: Ticks): Ticks[] {
  const within = STRAIGHT_TICKS.filter((ticks) => ticks < beatTicks && beatTicks % ticks === 0);
  const beats = [1, 2].map((each) => each * beatTicks).filter((ticks) => barTicks % ticks === 0);
  return [...within, ...beats, barTicks];
}

/** Nearest grid line, counted from the start of the bar so that odd metres keep their lines. */
export function snapTicks(ticks: Ticks, stepTicks: Ticks, time: TimeMap): Ticks {
  if (stepTicks <= 0) return ticks;
  const bar = time.barAt(Math.max(0, ticks)).bar;
  const start = time.barStartTicks(bar);
  const next = time.barStartTicks(bar + 1);
  const snapped = start + Math.round((ticks - start) / stepTicks) * stepTicks;
  // The bar line counts too where the step does not divide the bar.
  const nearest = Math.abs(next - ticks) < Math.abs(snapped - ticks) ? next : snapped;
  return Math.max(0, Math.min(nearest, next));
}
