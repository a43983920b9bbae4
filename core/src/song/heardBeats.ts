/** The beats that were heard in a recording, counted otherwise and put right by hand. */
import { evenSpacing, median, type Seconds } from '../signal/index.ts';

/** Beats that were heard, and the bar lines among them. */
export interface HeardBeats {
  /** Ascending. */
  beats: readonly Seconds[];
  downbeats: readonly Seconds[];
}

/** Beats lie no closer than this: five hundred a minute, more than a song can have. */
export const CLOSEST_BEATS_SECONDS = 0.12;
/** Times this close are the same beat. */
const SAME_SECONDS = 1e-3;

export const isSameBeat = (a: Seconds, b: Seconds): boolean => Math.abs(a - b) < SAME_SECONDS;

/** Index of the first beat that begins a bar; the first beat where none is known to. */
export function firstDownbeat({ beats, downbeats }: HeardBeats): number {
  const first = downbeats.at(0);
  if (first === undefined) return 0;
  return Math.max(
    0,
    beats.findIndex((at) => isSameBeat(at, first)),
  );
}

/** The same beats counted `factor` times as fast: a power of two. */
export function countedBeats(heard: HeardBeats, factor: number): HeardBeats {
  if (factor > 1) {
    const { beats } = heard;
    const twice = beats.flatMap((at, i) => (i + 1 < beats.length ? [at, (at + beats[i + 1]) / 2] : [at]));
    return countedBeats({ ...heard, beats: twice }, factor / 2);
  }
  if (factor < 1) {
    const parity = firstDownbeat(heard) % 2;
    const beats = heard.beats.filter((_, i) => i % 2 === parity);
    const downbeats = heard.downbeats.filter((at) => beats.some((beat) => isSameBeat(beat, at)));
    return countedBeats({ beats, downbeats }, factor * 2);
  }
  return heard;
}

/**
 * The same beats in bars of `perBar`, of which one begins with a beat; those before it count backwards from it.
 * @param index of the beat that begins a bar
 */
export function barsFrom({ beats }: Pick<HeardBeats, 'beats'>, index: number, perBar: number): HeardBeats {
  const phase = ((index % perBar) + perBar) % perBar;
  return { beats, downbeats: beats.filter((_, i) => i % perBar === phase) };
}

/** Moves one beat, not past the ones beside it. */
export function movedBeat(heard: HeardBeats, index: number, seconds: Seconds, perBar: number): HeardBeats {
  const { beats } = heard;
  const least = index > 0 ? beats[index - 1] + CLOSEST_BEATS_SECONDS : 0;
  const most = index + 1 < beats.length ? beats[index + 1] - CLOSEST_BEATS_SECONDS : Infinity;
  // Between beats that are closer than that already there is nowhere to go.
  if (least > most) return heard;
  return barsFrom(
    { beats: beats.with(index, Math.min(most, Math.max(least, seconds))) },
    firstDownbeat(heard),
    perBar,
  );
}

/** One beat more: bars behind it begin a beat earlier. The same where a beat is too near already. */
export function withBeat(heard: HeardBeats, seconds: Seconds, perBar: number): HeardBeats {
  const { beats } = heard;
  if (beats.some((at) => Math.abs(at - seconds) < CLOSEST_BEATS_SECONDS)) return heard;
  const index = beatsBefore(beats, seconds);
  const bar = firstDownbeat(heard);
  return barsFrom(
    { beats: beats.toSpliced(index, 0, seconds) },
    beats.length > 0 && index <= bar ? bar + 1 : bar,
    perBar,
  );
}

/** One beat less: bars behind it begin a beat later. Where a bar began with it, it begins with the next. */
export function withoutBeat(heard: HeardBeats, index: number, perBar: number): HeardBeats {
  const bar = firstDownbeat(heard);
  return barsFrom({ beats: heard.beats.toSpliced(index, 1) }, index < bar ? bar - 1 : bar, perBar);
}

/**
 * Beats that were tapped, in place of those heard over the same time: from half a beat before the first to half a beat
 * behind the last.
 * @param taps ascending; fewer than two replace nothing
 */
export function withTaps(heard: HeardBeats, taps: readonly Seconds[], perBar: number): HeardBeats {
  if (taps.length < 2) return heard;
  const half = median(taps.slice(1).map((at, i) => at - taps[i])) / 2;
  const from = taps[0] - half;
  const until = taps[taps.length - 1] + half;
  const before = heard.beats.filter((at) => at < from);
  const beats = [...before, ...taps, ...heard.beats.filter((at) => at >= until)];
  const bar = heard.downbeats.at(0);
  if (bar === undefined) return barsFrom({ beats }, 0, perBar);
  // The bar that was first begins with the beat that now lies nearest to it.
  const nearest = beats.reduce((a, at, i) => (Math.abs(at - bar) < Math.abs(beats[a] - bar) ? i : a), 0);
  return barsFrom({ beats }, nearest, perBar);
}

/** A hand that taps along is this far from what it taps to, at most. */
const TAP_SECONDS = 0.15;
/** Of a hand's unevenness, once how late it is throughout has been taken off. */
const UNEVEN_SECONDS = 0.07;

/**
 * Taps put on what they were meant for: all of them earlier by as much as they are late throughout, then each on the onset beside it.
 * Fingers are late by as much as sound takes from the computer to the ear, and uneven by some hundredths of a second.
 * @param onsets ascending, in the same seconds
 */
export function tapsOnOnsets(taps: readonly Seconds[], onsets: readonly Seconds[]): Seconds[] {
  const late = taps.flatMap((at) => {
    const onset = nearestTo(onsets, at);
    return onset !== undefined && Math.abs(at - onset) <= TAP_SECONDS ? [at - onset] : [];
  });
  if (late.length === 0) return [...taps];
  const lateSeconds = median(late);
  const placed = taps.map((tap) => {
    const at = tap - lateSeconds;
    const onset = nearestTo(onsets, at);
    return onset !== undefined && Math.abs(at - onset) <= UNEVEN_SECONDS ? onset : Math.max(0, at);
  });
  return placed.filter((at, i) => i === 0 || at - placed[i - 1] >= CLOSEST_BEATS_SECONDS);
}

/** How many of ascending times lie before another. */
function beatsBefore(beats: readonly Seconds[], seconds: Seconds): number {
  const index = beats.findIndex((at) => at > seconds);
  return index === -1 ? beats.length : index;
}

function nearestTo(ascending: readonly Seconds[], seconds: Seconds): Seconds | undefined {
  const after = beatsBefore(ascending, seconds);
  const [a, b] = [ascending.at(after - 1), ascending.at(after)];
  if (after === 0) return b;
  if (b === undefined || a === undefined) return a;
  return seconds - a <= b - seconds ? a : b;
}

/** Beats a minute of the one tempo that lies best; 0 for fewer than two beats. */
export const evenBpm = (beats: readonly Seconds[]): number =>
  beats.length < 2 ? 0 : 60 / evenSpacing(beats);
