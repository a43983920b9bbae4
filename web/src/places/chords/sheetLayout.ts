/** The chords as bars of a sheet: what stands where. Pure. */
import type { ChordEntry, ChordSpanOfSong, KeyChange, Section, TimeMap } from '@plundra/core/song';
import type { Key } from '@plundra/core/theory';

export interface SheetBar {
  /** 1 is the first. */
  bar: number;
  startTicks: number;
  endTicks: number;
  beats: number;
  /** Chords that start in the bar, and where in it they stand, 0–1. */
  chords: { span: ChordSpanOfSong; from: number; to: number }[];
  /** The chord that holds over the bar line, when none starts there. */
  held: ChordEntry | undefined;
}

/** Bars of the sheet from one to another; only what is in sight is laid out. */
export function layOutBars(
  spans: readonly ChordSpanOfSong[],
  time: TimeMap,
  firstBar: number,
  lastBar: number,
): SheetBar[] {
  const bars: SheetBar[] = [];
  let next = firstFrom(spans, time.barStartTicks(firstBar));
  for (let bar = firstBar; bar <= lastBar; bar++) {
    const startTicks = time.barStartTicks(bar);
    const barEnd = time.barStartTicks(bar + 1);
    const length = barEnd - startTicks;
    const held = spans.at(next - 1);
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
      held: starts || !held || held.startTicks >= startTicks ? undefined : held.change,
    });
  }
  return bars;
}

/** Index of the first span that starts at a tick or later. */
function firstFrom(spans: readonly ChordSpanOfSong[], ticks: number): number {
  let low = 0;
  let high = spans.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (spans[middle].startTicks < ticks) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** A row of bars; a section and a change of key begin one of their own. */
export interface SheetRow {
  section: string | undefined;
  /** The key that the song goes to with it. */
  key: Key | undefined;
  firstBar: number;
  lastBar: number;
}

/** All rows of a sheet, each worked out when it is asked for. */
export interface SheetRows {
  count: number;
  lastBar: number;
  row(index: number): SheetRow;
  rowOf(bar: number): number;
}

export function planRows(
  time: TimeMap,
  endTicks: number,
  leastBars: number,
  barsPerRow: number,
  sections: readonly Pick<Section, 'startTicks' | 'name'>[],
  keyChanges: readonly KeyChange[] = [],
): SheetRows {
  const lastBar = Math.max(leastBars, endTicks > 0 ? time.barAt(Math.ceil(endTicks) - 1).bar : 0);
  // Stretches of bars of which each begins a row; the last section of a bar gives its name.
  const names = new Map<number, string | undefined>([[1, undefined]]);
  for (const { startTicks, name } of sections) {
    const { bar } = time.barAt(startTicks);
    if (bar <= lastBar) names.set(bar, name);
  }
  const keys = new Map(keyChanges.map(({ startTicks, key }) => [time.barAt(startTicks).bar, key]));
  for (const bar of keys.keys()) if (bar <= lastBar && !names.has(bar)) names.set(bar, undefined);
  const firsts = [...names.keys()].sort((a, b) => a - b);
  let count = 0;
  const stretches = firsts.map((firstBar, i) => {
    const last = (firsts[i + 1] ?? lastBar + 1) - 1;
    const stretch = { firstBar, lastBar: last, firstRow: count, name: names.get(firstBar) };
    count += Math.ceil((last - firstBar + 1) / barsPerRow);
    return stretch;
  });
  const lastWhere = (holds: (stretch: (typeof stretches)[number]) => boolean) =>
    stretches.findLast(holds) ?? stretches[0];
  return {
    count,
    lastBar,
    row(index) {
      const stretch = lastWhere(({ firstRow }) => firstRow <= index);
      const firstBar = stretch.firstBar + (index - stretch.firstRow) * barsPerRow;
      return {
        section: index === stretch.firstRow ? stretch.name : undefined,
        key: index === stretch.firstRow ? keys.get(stretch.firstBar) : undefined,
        firstBar,
        lastBar: Math.min(stretch.lastBar, firstBar + barsPerRow - 1),
      };
    },
    rowOf(bar) {
      const stretch = lastWhere(({ firstBar }) => firstBar <= bar);
      return stretch.firstRow + Math.floor((Math.min(bar, lastBar) - stretch.firstBar) / barsPerRow);
    },
  };
}

/** The next place on a sheet in a direction: a beat or a chord, or the start of a bar; from nowhere the first or the last. */
export function stepFrom(
  time: TimeMap,
  spans: readonly ChordSpanOfSong[],
  place: number | null,
  step: 1 | -1,
  byBars: boolean,
  lastBar: number,
): number | undefined {
  const end = time.barStartTicks(lastBar + 1);
  if (place === null && step === 1) return 0;
  const from = place ?? end;
  const { bar, beat } = time.barAt(step === 1 ? from : from - 1);
  if (step === -1 && from <= 0) return undefined;
  const barStart = time.barStartTicks(bar);
  if (byBars) {
    const next = step === 1 ? time.barStartTicks(bar + 1) : barStart;
    return next < end ? next : undefined;
  }
  const beatTicks = time.beatTicksAt(barStart);
  const chord =
    step === 1 ? spans.at(firstFrom(spans, from + 1)) : spans.slice(0, firstFrom(spans, from)).at(-1);
  const beatStart = barStart + (beat - 1) * beatTicks;
  const next =
    step === 1
      ? Math.min(time.barStartTicks(bar + 1), beatStart + beatTicks, chord?.startTicks ?? Infinity)
      : Math.max(beatStart, chord?.startTicks ?? -Infinity);
  return next < end ? Math.round(next) : undefined;
}

/** Where Enter goes on: from the start of a bar to the next bar, from another beat to the next beat. */
export function enterFrom(time: TimeMap, place: number): number {
  const { bar, beat } = time.barAt(place);
  const barStart = time.barStartTicks(bar);
  const nextBar = time.barStartTicks(bar + 1);
  return Math.round(
    place === barStart ? nextBar : Math.min(nextBar, barStart + beat * time.beatTicksAt(barStart)),
  );
}

/** So many bars a sheet shows: some empty ones follow what is there, and the chosen one is always among them. */
export function barsToShow(time: TimeMap, endTicks: number, place: number | null): number {
  const used = Math.max(
    endTicks > 0 ? time.barAt(Math.ceil(endTicks) - 1).bar : 0,
    place === null ? 0 : time.barAt(place).bar,
  );
  return 4 * Math.ceil(used / 4) + EMPTY_BARS;
}
const EMPTY_BARS = 8;

/** The beat nearest to a place in a bar, 0–1. */
export function beatAt(
  { startTicks, endTicks, beats }: Pick<SheetBar, 'startTicks' | 'endTicks' | 'beats'>,
  share: number,
): number {
  const beat = Math.min(beats - 1, Math.max(0, Math.floor(share * beats)));
  return Math.round(startTicks + (beat * (endTicks - startTicks)) / beats);
}

/** Size of a chord name so that it fits its place: shorter places and longer names are set smaller. */
export function nameSize(text: string, widthPixels: number): number {
  return Math.max(MIN_SIZE, Math.min(MAX_SIZE, widthPixels / neededEms(text)));
}

/** Whether the name can be read in one line; else it is broken into two. */
export function fitsOneLine(text: string, widthPixels: number): boolean {
  return widthPixels >= MIN_SIZE * neededEms(text);
}

const MIN_SIZE = 11;
const MAX_SIZE = 23;
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
