/**
 * Musical time: ticks ↔ seconds by the tempo map, ticks ↔ bar, beat and tick by the metre map. The only place
 * where the two kinds of time meet.
 */
import type { Seconds, Ticks } from '../signal/index.ts';
import { TICKS_PER_QUARTER, type MetreEntry, type Song, type TempoEntry } from './schema.ts';

export interface TimeMap {
  /** Seconds from the start of the song; ticks before 0 extend the first tempo backwards. */
  secondsAt(ticks: Ticks): Seconds;
  /** Fractional ticks. */
  ticksAt(seconds: Seconds): Ticks;
  barAt(ticks: Ticks): BarPosition;
  /** Start of a bar (1 = first). Bars before the first extend its metre backwards. */
  barStartTicks(bar: number): Ticks;
  beatTicksAt(ticks: Ticks): Ticks;
  /** Inverse of {@link barAt}. */
  ticksOf(position: BarPosition): Ticks;
}

/** Bar and beat count from 1, tick from 0. */
export interface BarPosition {
  bar: number;
  beat: number;
  tick: number;
}

type Metre = Pick<MetreEntry, 'beats' | 'unit'>;

/** Whether beats are dotted: metres of eighths or shorter in threes, such as 6/8, 9/8 and 12/8. */
export function isCompound({ beats, unit }: Metre): boolean {
  return unit >= 8 && beats > 3 && beats % 3 === 0;
}

/** Length of what one counts: a dotted quarter in 6/8, a quarter in 4/4. */
export function beatTicksOf(metre: Metre): Ticks {
  return ((4 * TICKS_PER_QUARTER) / metre.unit) * (isCompound(metre) ? 3 : 1);
}

/** A song keeps its tempo in quarters a minute, as MIDI does; it is shown and typed in beats a minute. */
export function beatsPerMinute(quartersPerMinute: number, metre: Metre): number {
  return (quartersPerMinute * TICKS_PER_QUARTER) / beatTicksOf(metre);
}

export function quartersPerMinute(bpm: number, metre: Metre): number {
  return (bpm * beatTicksOf(metre)) / TICKS_PER_QUARTER;
}

const NOTE_NAMES: Record<MetreEntry['unit'], string> = {
  1: 'whole',
  2: 'half',
  4: 'quarter',
  8: 'eighth',
  16: 'sixteenth',
  32: 'thirty-second',
};

/** The note that a tempo counts: "quarter", "dotted quarter". */
export function beatNoteName(metre: Metre): string {
  if (!isCompound(metre)) return NOTE_NAMES[metre.unit];
  return `dotted ${NOTE_NAMES[(metre.unit / 2) as MetreEntry['unit']]}`;
}

/** Prepares both maps; each lookup is a binary search. */
export function createTimeMap(song: Pick<Song, 'tempoMap' | 'metreMap'>): TimeMap {
  const tempos = tempoSpans(song.tempoMap);
  const metres = metreSpans(song.metreMap);

  const metreSpanAt = (ticks: Ticks) => lastWhere(metres, (span) => span.startTicks <= ticks);

  const map: TimeMap = {
    secondsAt(ticks) {
      const span = lastWhere(tempos, (each) => each.startTicks <= ticks);
      return span.startSeconds + (ticks - span.startTicks) * span.secondsPerTick;
    },
    ticksAt(seconds) {
      const span = lastWhere(tempos, (each) => each.startSeconds <= seconds);
      return span.startTicks + (seconds - span.startSeconds) / span.secondsPerTick;
    },
    barAt(ticks) {
      const span = metreSpanAt(ticks);
      const since = ticks - span.startTicks;
      const bars = Math.floor(since / span.barTicks);
      const inBar = since - bars * span.barTicks;
      const beat = Math.floor(inBar / span.beatTicks);
      return { bar: span.startBar + bars, beat: beat + 1, tick: inBar - beat * span.beatTicks };
    },
    barStartTicks(bar) {
      const span = lastWhere(metres, (each) => each.startBar <= bar);
      return span.startTicks + (bar - span.startBar) * span.barTicks;
    },
    beatTicksAt: (ticks) => metreSpanAt(ticks).beatTicks,
    ticksOf({ bar, beat, tick }) {
      const start = map.barStartTicks(bar);
      return start + (beat - 1) * metreSpanAt(start).beatTicks + tick;
    },
  };
  return map;
}

/** "5.3.110": bar, beat and tick, the tick always with three digits. */
export function formatPosition({ bar, beat, tick }: BarPosition): string {
  return `${bar}.${beat}.${String(Math.round(tick)).padStart(3, '0')}`;
}

/** Reads "5", "5.3" or "5.3.110"; undefined for anything else. */
export function parsePosition(text: string): BarPosition | undefined {
  const match = /^\s*(\d+)(?:\.(\d+)(?:\.(\d+))?)?\s*$/.exec(text);
  if (!match) return undefined;
  const [bar, beat, tick] = [Number(match[1]), Number(match[2] ?? 1), Number(match[3] ?? 0)];
  return bar >= 1 && beat >= 1 ? { bar, beat, tick } : undefined;
}

function tempoSpans(entries: readonly TempoEntry[]) {
  let startSeconds = 0;
  return entries.map(({ startTicks, bpm }, i) => {
    if (i > 0) {
      const before = entries[i - 1];
      startSeconds += ((startTicks - before.startTicks) * 60) / before.bpm / TICKS_PER_QUARTER;
    }
    return { startTicks, startSeconds, secondsPerTick: 60 / bpm / TICKS_PER_QUARTER };
  });
}

function metreSpans(entries: readonly MetreEntry[]) {
  let startBar = 1;
  return entries.map(({ startTicks, beats, unit }, i) => {
    if (i > 0) {
      const before = entries[i - 1];
      const barTicks = (before.beats * 4 * TICKS_PER_QUARTER) / before.unit;
      // A metre that starts inside a bar cuts it short, as MIDI files allow.
      startBar += Math.ceil((startTicks - before.startTicks) / barTicks);
    }
    const barTicks = (beats * 4 * TICKS_PER_QUARTER) / unit;
    return { startTicks, startBar, beatTicks: beatTicksOf({ beats, unit }), barTicks };
  });
}

/** Last element that satisfies the monotone predicate, or the first element when none does. */
function lastWhere<T>(items: readonly T[], holds: (item: T) => boolean): T {
  let low = 0;
  let high = items.length - 1;
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (holds(items[middle])) low = middle;
    else high = middle - 1;
  }
  return items[low];
}
