/** The changes as bars of a sheet: what stands where. Pure. */
import { changeAt, type Change, type ChordSpanOfSong, type Section, type TimeMap } from '@plundra/core/song';

export interface SheetBar {
  /** 1 is the first. */
  bar: number;
  startTicks: number;
  endTicks: number;
  beats: number;
  /** Chords that start in the bar, and where in it they stand, 0–1. */
  chords: { span: ChordSpanOfSong; from: number; to: number }[];
  /** The chord that still holds at the bar line, when none starts there. */
  held: Change | undefined;
}

export function layOutBars(
  spans: readonly ChordSpanOfSong[],
  endTicks: number,
  time: TimeMap,
  leastBars: number,
): SheetBar[] {
  const changes = spans.map(({ change }) => change);
  const bars: SheetBar[] = [];
  let next = 0;
  for (let bar = 1; ; bar++) {
    const startTicks = time.barStartTicks(bar);
    if (startTicks >= endTicks && bar > leastBars) return bars;
    const barEnd = time.barStartTicks(bar + 1);
    const length = barEnd - startTicks;
    const chords: SheetBar['chords'] = [];
    for (; next < spans.length && spans[next].startTicks < barEnd; next++) {
      const span = spans[next];
      chords.push({
        span,
        from: (span.startTicks - startTicks) / length,
        to: Math.min(1, (span.endTicks - startTicks) / length),
      });
    }
    const starts = chords.at(0)?.span.startTicks === startTicks;
    bars.push({
      bar,
      startTicks,
      endTicks: barEnd,
      beats: Math.round(length / time.beatTicksAt(startTicks)),
      chords,
      held: starts ? undefined : changeAt(changes, startTicks),
    });
  }
}

/** Rows of bars; a section begins one of its own. */
export interface SheetRow {
  section: string | undefined;
  bars: SheetBar[];
}

export function rowsOf(
  bars: readonly SheetBar[],
  barsPerRow: number,
  sections: readonly Pick<Section, 'startTicks' | 'name'>[],
): SheetRow[] {
  const rows: SheetRow[] = [];
  for (const bar of bars) {
    const section = sections.find(
      ({ startTicks }) => startTicks >= bar.startTicks && startTicks < bar.endTicks,
    )?.name;
    const row = rows.at(-1);
    if (!row || section !== undefined || row.bars.length === barsPerRow) rows.push({ section, bars: [bar] });
    else row.bars.push(bar);
  }
  return rows;
}

/** The beat nearest to a place in a bar, 0–1. */
export function beatAt({ startTicks, endTicks, beats }: SheetBar, share: number): number {
  const beat = Math.min(beats - 1, Math.max(0, Math.floor(share * beats)));
  return Math.round(startTicks + (beat * (endTicks - startTicks)) / beats);
}

/** Size of a chord name so that it fits its place: shorter places and longer names are set smaller. */
export function nameSize(text: string, widthPixels: number): number {
  return Math.max(LEAST_SIZE, Math.min(MOST_SIZE, widthPixels / neededEms(text)));
}

/** Whether the name can be read in one line; else it is broken into two. */
export function fitsOneLine(text: string, widthPixels: number): boolean {
  return widthPixels >= LEAST_SIZE * neededEms(text);
}

const LEAST_SIZE = 11;
const MOST_SIZE = 23;
/** Widths in ems of the bold typeface, a little generous; what follows root and minor is raised and smaller. */
const RAISED = 0.68;
const neededEms = (text: string) =>
  Math.max(
    0.6,
    [...text].reduce((sum, letter, i) => {
      const ems = /[mM]/.test(letter) ? 0.88 : /[A-G]/.test(letter) ? 0.64 : letter === '/' ? 0.4 : 0.56;
      return sum + (/[0-9()+°ø]/.test(letter) && i > 0 ? RAISED * ems : ems);
    }, 0),
  );
