/** Pulling instants to a grid, and saying beforehand what that will do. */
import { median, type Seconds, type Ticks } from '../signal/index.ts';
import { gridTicks, type GridValue } from './grid.ts';
import { formatPosition, type TimeMap } from './timeMap.ts';

export interface GridPull {
  grid: GridValue;
  /** Share of the way to the grid line that is gone, 0–1. */
  pull: number;
  /** 0 straight … 1 every second line a third of a step later (triplet feel). */
  swing: number;
  /** Further from a line than this an instant is left alone; null: none is. */
  leaveAloneBeyondSeconds: Seconds | null;
}

export interface Pulled {
  fromSeconds: Seconds;
  toSeconds: Seconds;
}

export interface PullReport {
  moving: number;
  total: number;
  /** Of the moving ones, in milliseconds; 0 when none moves. */
  medianMs: number;
  furthestMs: number;
  /** Bar and beat to which the furthest goes; undefined when none moves. */
  furthestTo: { bar: number; beat: number; text: string } | undefined;
}

/** A move below this is none. */
const MIN_SECONDS = 0.0005;

/** Song seconds → where they are pulled, and the report. Order is kept: none is pulled past its neighbour's place. */
export function pullToGrid(
  songSeconds: readonly Seconds[],
  settings: GridPull,
  time: TimeMap,
): { pulled: Pulled[]; report: PullReport } {
  const step = gridTicks(settings.grid);
  const pulled = songSeconds.map((fromSeconds) => {
    const ticks = time.ticksAt(fromSeconds);
    const line = time.secondsAt(nearestLine(ticks, step, settings.swing, time));
    const limit = settings.leaveAloneBeyondSeconds;
    if (limit !== null && Math.abs(line - fromSeconds) > limit)
      return { fromSeconds, toSeconds: fromSeconds };
    return { fromSeconds, toSeconds: fromSeconds + (line - fromSeconds) * settings.pull };
  });
  return { pulled, report: report(pulled, time) };
}

/** Nearest line, counted from the bar, with every second line late by the swing. */
function nearestLine(ticks: Ticks, step: Ticks, swing: number, time: TimeMap): Ticks {
  const { bar } = time.barAt(Math.max(0, ticks));
  const start = time.barStartTicks(bar);
  const next = time.barStartTicks(bar + 1);
  const lineAt = (index: number) =>
    Math.min(next, start + index * step + (index % 2 === 1 ? (swing * step) / 3 : 0));
  const around = Math.floor((ticks - start) / step);
  let best = next;
  for (let index = Math.max(0, around - 1); index <= around + 2; index++) {
    const line = lineAt(index);
    if (Math.abs(line - ticks) < Math.abs(best - ticks)) best = line;
  }
  return best;
}

function report(pulled: readonly Pulled[], time: TimeMap): PullReport {
  const moves = pulled.filter(
    ({ fromSeconds, toSeconds }) => Math.abs(toSeconds - fromSeconds) > MIN_SECONDS,
  );
  const distance = ({ fromSeconds, toSeconds }: Pulled) => Math.abs(toSeconds - fromSeconds) * 1000;
  const furthest = moves.reduce<Pulled | undefined>(
    (most, each) => (!most || distance(each) > distance(most) ? each : most),
    undefined,
  );
  const position = furthest && time.barAt(Math.round(time.ticksAt(furthest.toSeconds)));
  return {
    moving: moves.length,
    total: pulled.length,
    medianMs: moves.length > 0 ? median(moves.map(distance)) : 0,
    furthestMs: furthest ? distance(furthest) : 0,
    furthestTo: position && { bar: position.bar, beat: position.beat, text: formatPosition(position) },
  };
}
