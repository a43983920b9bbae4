/**
 * Which of the ways to beat time is the one people tap: how much lies on the beats, between them in twos and in threes, and
 * on every second, third and fourth of them, for each kind of evidence. A log-linear model over the candidates, fitted by
 * bench/src/training/fitBeats.ts.
 */
import type { Seconds } from '../../signal/index.ts';
import { HOP_SAMPLES, READING_HZ } from '../melodySettings.ts';
import { bpmOf, tempoLogs } from '../rhythm/index.ts';
import type { KnownBeats } from './beatGrid.ts';
import { beatCandidates, between, everyOther, withBetween, type BeatEvidence, type Beats } from './beats.ts';
import weights from './beatWeights.json' with { type: 'json' };

const HOP_SECONDS = HOP_SAMPLES / READING_HZ;
/** Something within so many frames of a place counts as there: 23 ms. */
const NEAR_FRAMES = 2;
/** Log tempo is counted from here. */
const MIDDLE_BPM = 104;
/** Beats this close are the same beat: the rule of beat tracking (mir_eval). */
const SAME_BEAT_SECONDS = 0.07;
/** Fewer say nothing of a tempo. */
const FEWEST_BEATS = 6;
/** Evidence is cut off at this many standard deviations. */
const MAX_OUTSTANDING = 6;
/** By so much, in the log odds of the model, another way to beat time must be better than one that is known, above all that half a beat later. */
const MUCH_CLEARER = 2;

/** Beats of the tempo that fits best; none where nothing stands out. */
export function trackBeats(evidence: BeatEvidence): Beats {
  const candidates = beatCandidates(evidence);
  if (candidates.length === 0) return { bpm: 0, seconds: [] };
  const scores = scoresOf(evidence, candidates);
  return candidates[scores.indexOf(Math.max(...scores))];
}

/**
 * Whether a recording may have been played to these beats: nothing that is found in it speaks much more clearly, and they do not lie half a
 * beat off. Whoever taps twice as fast or half as fast taps to them too, and so does whoever hears two beats in each of their bars of three,
 * or three in two.
 * @param beats seconds in order; downbeats are indices of those that begin a bar
 */
export function mayBeHeardSo(evidence: BeatEvidence, beats: KnownBeats): boolean {
  const { seconds } = beats;
  if (seconds.length < FEWEST_BEATS) return false;
  const ways = [
    seconds,
    everyOther(seconds, 0),
    everyOther(seconds, 1),
    withBetween(seconds),
    acrossBars(beats),
  ];
  const asked = ways.filter((each) => each.length >= FEWEST_BEATS).map(beatsOf);
  const [off, ...scores] = scoresOf(evidence, [
    beatsOf(between(seconds)),
    ...asked,
    ...beatCandidates(evidence),
  ]);
  if (off > scores[0] + MUCH_CLEARER) return false;
  return Math.max(...scores.slice(0, asked.length)) > Math.max(...scores) - MUCH_CLEARER;
}

const beatsOf = (seconds: readonly Seconds[]): Beats => ({ bpm: bpmOf(seconds), seconds: [...seconds] });

/** Two even beats in each bar of three, three in each of two; none in others. */
function acrossBars({ seconds, downbeats }: KnownBeats): Seconds[] {
  return downbeats.slice(0, -1).flatMap((first, i) => {
    const next = downbeats[i + 1];
    const count = next - first === 3 ? 2 : next - first === 2 ? 3 : 0;
    const length = seconds[next] - seconds[first];
    return Array.from({ length: count }, (_, k) => seconds[first] + (k * length) / count);
  });
}

function scoresOf(evidence: BeatEvidence, candidates: readonly Beats[]): number[] {
  return candidateInputs(evidence, candidates).map((inputs) =>
    inputs.reduce((sum, input, k) => sum + weights[k] * input, 0),
  );
}

/** What the model looks at, for each candidate. */
export function candidateInputs({ parts, pulse }: BeatEvidence, candidates: readonly Beats[]): number[][] {
  const outstanding = parts.map(nearMaxima);
  const tempoLog = tempoLogs(pulse.likelihood);
  return candidates.map(({ bpm, seconds }) => {
    const x = Math.log2(Math.max(1, bpm) / MIDDLE_BPM);
    const inputs = [
      x,
      x * x,
      x * x * x,
      unevenness(seconds),
      tempoLog(bpm),
      shareNear(seconds, pulse.beats),
      shareNear(pulse.beats, seconds),
    ];
    for (const part of outstanding) {
      const at = (share: number) => placesOf(seconds, share).map((frame) => part[frame] ?? 0);
      const beats = at(0);
      const half = mean(at(1 / 2));
      const third = mean([...at(1 / 3), ...at(2 / 3)]);
      inputs.push(
        mean(beats),
        half,
        third,
        mean([...at(1 / 4), ...at(3 / 4)]),
        (third - half) * x,
        everySo(beats, 2),
        everySo(beats, 3),
        everySo(beats, 4),
        mean(beats.map((value) => (value > 0.5 ? 1 : 0))),
      );
    }
    return inputs;
  });
}

/** Share of some times that lie at one of others; both in order. */
function shareNear(times: readonly Seconds[], others: readonly Seconds[]): number {
  let near = 0;
  let next = 0;
  for (const seconds of times) {
    while (next < others.length && others[next] < seconds - SAME_BEAT_SECONDS) next++;
    if (next < others.length && others[next] <= seconds + SAME_BEAT_SECONDS) near++;
  }
  return times.length > 0 ? near / times.length : 0;
}

/** Of a curve the largest within {@link NEAR_FRAMES}, in standard deviations above its mean. */
function nearMaxima(part: Float32Array): Float32Array {
  const near = part.map((_, t) => {
    let most = 0;
    for (let i = Math.max(0, t - NEAR_FRAMES); i <= Math.min(part.length - 1, t + NEAR_FRAMES); i++)
      most = Math.max(most, part[i]);
    return most;
  });
  const middle = mean(near);
  const deviation = Math.sqrt(mean(near.map((value) => (value - middle) ** 2)));
  return near.map((value) => Math.min(MAX_OUTSTANDING, (value - middle) / Math.max(1e-6, deviation)));
}

/** Frames this share of the way from each beat to the next. */
function placesOf(seconds: readonly Seconds[], share: number): number[] {
  return seconds
    .slice(0, -1)
    .map((each, i) => Math.round((each + share * (seconds[i + 1] - each)) / HOP_SECONDS));
}

/** By how much the strongest of `count` ways to take every so-many-th beat stands out. */
function everySo(values: readonly number[], count: number): number {
  const all = mean(values);
  let most = 0;
  for (let first = 0; first < count; first++)
    most = Math.max(most, mean(values.filter((_, i) => i % count === first)) - all);
  return most;
}

/** Spread of the logarithm of the distances. */
function unevenness(seconds: readonly Seconds[]): number {
  const logs = seconds.slice(1).map((each, i) => Math.log(each - seconds[i]));
  const middle = mean(logs);
  return Math.sqrt(mean(logs.map((value) => (value - middle) ** 2)));
}

function mean(values: ArrayLike<number>): number {
  let sum = 0;
  for (let i = 0; i < values.length; i++) sum += values[i];
  return values.length > 0 ? sum / values.length : 0;
}
