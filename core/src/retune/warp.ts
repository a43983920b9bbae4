/**
 * A passage at another speed than it was recorded, for its own sake or because it follows the song's tempo: made anew from
 * its take as it is corrected. Attacks stay as they were recorded, what lies between them gives way.
 */
import { createOnsetReader, keptOnsets } from '../reading/index.ts';
import type { Seconds } from '../signal/index.ts';
import { createPassageTime, type TimeMap, type WarpedWindow } from '../song/index.ts';
import { renderSpans, type Span, type StretchSpec } from './stretchSound.ts';

/** An instant of the recording, and when it is heard after the start of the passage. */
export interface WarpPoint {
  fromSeconds: Seconds;
  toSeconds: Seconds;
}

export interface WarpSpec {
  /** Ascending in both, from the first moment of the passage to its last; between two, time runs evenly. */
  points: readonly WarpPoint[];
  how: StretchSpec['how'];
}

/** Times are looked at this often, and where the speed changes until it is known to a millisecond when. */
const LOOK_SECONDS = 0.125;
const FINEST_SECONDS = 0.001;
/** What lies nearer to a straight line than this is on it. */
const STRAIGHT_SECONDS = 1e-4;
/** So much more is made behind the end, for the sound to fade into what follows. */
const MORE_SECONDS = 0.05;
/** A span begins this long before its attack, as in stretchSound.ts. */
const LEAD_SECONDS = 0.006;
const SHORTEST_SPAN_SECONDS = 0.03;
/** Of an onset that counts, 0–1: only clear attacks are kept whole. */
const SENSITIVITY = 0.5;

export function warpOf(window: WarpedWindow, time: TimeMap, how: StretchSpec['how']): WarpSpec {
  const { offsetSeconds, durationSeconds, startTicks } = window;
  const { toSong } = createPassageTime(window, time);
  const start = time.secondsAt(startTicks);
  const pointAt = (fromSeconds: Seconds): WarpPoint => ({
    fromSeconds,
    toSeconds: toSong(fromSeconds) - start,
  });
  const count = Math.max(1, Math.ceil(durationSeconds / LOOK_SECONDS));
  const all = [pointAt(offsetSeconds)];
  for (let i = 1; i <= count; i++)
    lookCloser(all, pointAt(offsetSeconds + (durationSeconds * i) / count), pointAt);
  return { points: straightened(all), how };
}

/** Adds what lies between the last point and another, as finely as it bends. */
function lookCloser(points: WarpPoint[], to: WarpPoint, pointAt: (fromSeconds: Seconds) => WarpPoint): void {
  const from = points[points.length - 1];
  const middle = pointAt((from.fromSeconds + to.fromSeconds) / 2);
  const bend = Math.abs((from.toSeconds + to.toSeconds) / 2 - middle.toSeconds);
  if (bend > STRAIGHT_SECONDS / 4 && to.fromSeconds - from.fromSeconds > FINEST_SECONDS) {
    lookCloser(points, middle, pointAt);
    lookCloser(points, to, pointAt);
  } else points.push(to);
}

/** Without the points between which nothing bends: each line goes on as long as all on it lie near enough. */
function straightened(all: readonly WarpPoint[]): WarpPoint[] {
  const kept = [all[0]];
  let [least, most] = [-Infinity, Infinity];
  for (let i = 1; i < all.length; i++) {
    const from = kept[kept.length - 1];
    const slope = (to: WarpPoint, more: Seconds) =>
      (to.toSeconds + more - from.toSeconds) / (to.fromSeconds - from.fromSeconds);
    const straight = slope(all[i], 0);
    if (straight < least || straight > most) {
      kept.push(all[i - 1]);
      [least, most] = [-Infinity, Infinity];
      i--;
      continue;
    }
    least = Math.max(least, slope(all[i], -STRAIGHT_SECONDS));
    most = Math.min(most, slope(all[i], STRAIGHT_SECONDS));
  }
  return [...kept, all[all.length - 1]];
}

/**
 * The sound of a passage from its start on, a little longer than it lasts.
 * @param channels the whole take as it is corrected
 */
export function renderWarp(
  channels: readonly Float32Array[],
  sampleRateHz: number,
  { points, how }: WarpSpec,
): Float32Array[] {
  const first = Math.round(points[0].fromSeconds * sampleRateHz);
  const end = points[points.length - 1];
  const before = points[points.length - 2];
  const slope = (end.toSeconds - before.toSeconds) / (end.fromSeconds - before.fromSeconds);
  const last = {
    fromSeconds: end.fromSeconds + MORE_SECONDS / slope,
    toSeconds: end.toSeconds + MORE_SECONDS,
  };
  const outLength = Math.round(last.toSeconds * sampleRateHz);
  const taken = Math.round(last.fromSeconds * sampleRateHz) - first;
  const local = channels.map((channel) => {
    const own = new Float32Array(Math.max(taken, outLength));
    own.set(channel.subarray(first, Math.min(channel.length, first + own.length)));
    return own;
  });
  const along = [...points, last];
  const spans = spansOf(onsetsOf(local, taken, sampleRateHz), along, first, sampleRateHz);
  const out = local.map((channel) => channel.slice(0, outLength));
  for (const patch of renderSpans(local, sampleRateHz, spans, { semitones: 0, how }))
    patch.channels.forEach((channel, c) =>
      out[c].set(channel.subarray(0, outLength - patch.start), patch.start),
    );
  return out;
}

/** In seconds from the first sample. */
function onsetsOf(channels: readonly Float32Array[], length: number, rate: number): Seconds[] {
  const reader = createOnsetReader(rate);
  const mono = new Float32Array(length);
  for (const channel of channels) for (let i = 0; i < length; i++) mono[i] += channel[i] / channels.length;
  reader.push(mono);
  return keptOnsets(reader.finish(), SENSITIVITY).map(({ seconds }) => seconds);
}

/** From attack to attack, and from one change of speed to the next, in samples from the first. */
function spansOf(
  onsets: readonly Seconds[],
  points: readonly WarpPoint[],
  first: number,
  rate: number,
): Span[] {
  const firstSeconds = first / rate;
  const edges = points.map(({ fromSeconds }) => fromSeconds);
  const [start, end] = [edges[0], edges[edges.length - 1]];
  // The attack itself goes where its time goes; what leads up to it keeps its speed.
  const attacks = onsets.map((onset) => {
    const seconds = onset + firstSeconds;
    return { in: seconds - LEAD_SECONDS, out: heardAt(points, seconds) - LEAD_SECONDS };
  });
  // A change of speed near an attack happens with it.
  const free = edges.filter(
    (edge) =>
      edge === start ||
      edge === end ||
      attacks.every((attack) => Math.abs(attack.in - edge) >= SHORTEST_SPAN_SECONDS),
  );
  const cuts = [...free.map((edge) => ({ in: edge, out: heardAt(points, edge) })), ...attacks]
    .filter((cut) => cut.in >= start && cut.in <= end)
    .sort((a, b) => a.in - b.in);
  const samples = cuts
    .filter(
      (cut, i) => i === 0 || i === cuts.length - 1 || cut.in - cuts[i - 1].in >= SHORTEST_SPAN_SECONDS / 2,
    )
    .map((cut) => ({ in: Math.round((cut.in - firstSeconds) * rate), out: Math.round(cut.out * rate) }));
  return samples
    .slice(1)
    .map((to, i) => ({ from: samples[i].in, to: to.in, outFrom: samples[i].out, outTo: to.out }))
    .filter((span) => span.outTo > span.outFrom && span.to > span.from);
}

/** When an instant of the recording is heard after the start of the passage. */
export function heardAt(points: readonly WarpPoint[], recordedSeconds: Seconds): Seconds {
  const found = points.findIndex(({ fromSeconds }) => fromSeconds > recordedSeconds);
  const after = found < 0 ? points.length - 1 : Math.max(1, found);
  const [a, b] = [points[after - 1], points[after]];
  const share = (recordedSeconds - a.fromSeconds) / (b.fromSeconds - a.fromSeconds);
  return a.toSeconds + share * (b.toSeconds - a.toSeconds);
}
