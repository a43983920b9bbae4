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
  /** Tempo in quarter notes a minute. */
  quartersPerMinuteAt(ticks: Ticks): number;
  /** Inverse of {@link barAt}. */
  ticksOf(position: BarPosition): Ticks;
}

/** Bar and beat count from 1, tick from 0. */
export interface BarPosition {
  bar: number;
  beat: number;
  tick: number;
}

export type Metre = Pick<MetreEntry, 'beats' | 'unit'>;

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
      return span.startSeconds + secondsWithin(span, ticks - span.startTicks);
    },
    ticksAt(seconds) {
      const span = lastWhere(tempos, (each) => each.startSeconds <= seconds);
      return span.startTicks + ticksWithin(span, seconds - span.startSeconds);
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
    quartersPerMinuteAt(ticks) {
      const span = lastWhere(tempos, (each) => each.startTicks <= ticks);
      // Before the song the first tempo holds.
      return span.bpm + span.bpmPerTick * Math.max(0, ticks - span.startTicks);
    },
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

/** A stretch of one tempo, or of one that changes evenly. */
interface TempoSpan {
  startTicks: Ticks;
  startSeconds: Seconds;
  bpm: number;
  bpmPerTick: number;
}

function tempoSpans(entries: readonly TempoEntry[]): TempoSpan[] {
  let before: TempoSpan | undefined;
  return entries.map(({ startTicks, bpm, ramp }, i) => {
    const next = ramp && entries.at(i + 1);
    const bpmPerTick = next ? (next.bpm - bpm) / (next.startTicks - startTicks) : 0;
    const startSeconds = before
      ? before.startSeconds + secondsWithin(before, startTicks - before.startTicks)
      : 0;
    return (before = { startTicks, startSeconds, bpm, bpmPerTick });
  });
}

/** Seconds that a quarter note would last at one a minute, for each tick. */
const TICK_MINUTE_SECONDS = 60 / TICKS_PER_QUARTER;

/**
 * Seconds that ticks from the start of a span take. The tempo is bpm + slope · ticks, so its integral is a logarithm; and
 * the way back an exponential.
 */
function secondsWithin({ bpm, bpmPerTick }: TempoSpan, ticks: Ticks): Seconds {
  // Before the first entry its tempo holds; a ramp does not go on backwards.
  if (bpmPerTick === 0 || ticks <= 0) return (ticks * TICK_MINUTE_SECONDS) / bpm;
  return (TICK_MINUTE_SECONDS / bpmPerTick) * Math.log1p((bpmPerTick * ticks) / bpm);
}

function ticksWithin({ bpm, bpmPerTick }: TempoSpan, seconds: Seconds): Ticks {
  if (bpmPerTick === 0 || seconds <= 0) return (seconds * bpm) / TICK_MINUTE_SECONDS;
  return (bpm / bpmPerTick) * Math.expm1((seconds * bpmPerTick) / TICK_MINUTE_SECONDS);
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
