/** The spans that chords are read in: beats over the whole recording, and what each begins: a bar, its middle, a beat, or nothing. */
import type { Seconds } from '../../signal/index.ts';
import type { Place } from './changeRate.ts';

export interface Grid {
  boundaries: Seconds[];
  /** For each span the beat it starts at, a half for the second part of one; beats outside have negative numbers. */
  beatOf: number[];
}

/** Bar lines among beats. */
export interface BarLines {
  /** Indices of the beats that begin a bar, in order; bars may differ in length. */
  downbeats: readonly number[];
  /** Of a bar before the first of them and of the last. */
  beatsPerBar: number;
}

/** Beats and bars that need not be found: a song's, or those of a loop. */
export interface KnownBeats extends BarLines {
  /** In order. */
  seconds: readonly Seconds[];
}

/** Spans of a beat that lasts longer are halved. */
const LONGEST_SPAN_SECONDS = 0.9;
/** Where no beat is found: spans of so many seconds. */
const BLIND_SPAN_SECONDS = 0.5;

/** Spans over the whole recording: beats, continued to both ends, long ones halved. */
export function gridOf(beats: readonly Seconds[], durationSeconds: Seconds): Grid {
  const boundaries: Seconds[] = [];
  const beatOf: number[] = [];
  if (beats.length < 3) {
    for (let at = 0; at < durationSeconds; at += BLIND_SPAN_SECONDS) {
      boundaries.push(at);
      beatOf.push(0.5);
    }
    return { boundaries: [...boundaries, Math.max(durationSeconds, BLIND_SPAN_SECONDS)], beatOf };
  }
  const first = beats[1] - beats[0];
  const last = beats[beats.length - 1] - beats[beats.length - 2];
  const all: [Seconds, number][] = beats.map((at, i) => [at, i]);
  while (all[0][0] > 0.05) all.unshift([Math.max(0, all[0][0] - first), all[0][1] - 1]);
  while (all[all.length - 1][0] < durationSeconds - 0.05)
    all.push([Math.min(durationSeconds, all[all.length - 1][0] + last), all[all.length - 1][1] + 1]);
  for (let i = 0; i + 1 < all.length; i++) {
    const [at, beat] = all[i];
    const length = all[i + 1][0] - at;
    boundaries.push(at);
    beatOf.push(beat);
    if (length > LONGEST_SPAN_SECONDS) {
      boundaries.push(at + length / 2);
      beatOf.push(beat + 0.5);
    }
  }
  return { boundaries: [...boundaries, all[all.length - 1][0]], beatOf };
}

/** Bars of one length, the first beginning at a beat. */
export function evenBars(first: number, beatsPerBar: number, beats: number): BarLines {
  const downbeats: number[] = [];
  for (let beat = first; beat < beats; beat += beatsPerBar) downbeats.push(beat);
  return { downbeats, beatsPerBar };
}

/** What the start of each span is. */
export function placesOf({ beatOf }: Grid, bars: BarLines): Place[] {
  const { downbeats, beatsPerBar } = bars;
  return beatOf.map((beat) => {
    if (!Number.isInteger(beat) || downbeats.length === 0) return 'within';
    const bar = downbeats.findLastIndex((each) => each <= beat);
    const length =
      bar < 0 || bar + 1 === downbeats.length ? beatsPerBar : downbeats[bar + 1] - downbeats[bar];
    const inBar = beat - downbeats[Math.max(0, bar)];
    const place = ((inBar % length) + length) % length;
    if (place === 0) return 'bar';
    return length % 2 === 0 && place === length / 2 ? 'middle' : 'beat';
  });
}
