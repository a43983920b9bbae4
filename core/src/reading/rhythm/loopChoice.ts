/**
 * How many beats a loop has, in which metre: a loop is a whole number of beats, most often of bars, and begins with one. A log-linear
 * model over all counts and metres that it could have, fitted by bench/src/training/fitLoops.ts.
 */
import type { Seconds } from '../../signal/index.ts';
import { logOdds, near, tempoLogs, type BeatLikelihood } from './beatNetwork.ts';
import weights from './loopWeights.json' with { type: 'json' };
import { bpmOf } from './readRhythm.ts';
import { RHYTHM_HOP_SECONDS } from './rhythmFeatures.ts';

const SLOWEST_BPM = 44;
const FASTEST_BPM = 212;
const MOST_BEATS = 128;
/** Likelihoods are not taken for surer than this. */
const LEAST_LIKELY = 0.01;
/** Log tempo is counted from here. */
const MIDDLE_BPM = 104;
/** A tempo this far from that of the beats that were found, in octaves, is another. */
const OTHER_TEMPO = 0.06;

/** Metres that are looked for, and how common each is (common practice, from memory). */
const METRES: readonly (readonly [beatsPerBar: number, compound: boolean, share: number])[] = [
  [4, false, 0.62],
  [3, false, 0.13],
  [2, false, 0.05],
  [5, false, 0.03],
  [7, false, 0.02],
  [2, true, 0.09],
  [4, true, 0.05],
  [3, true, 0.01],
];
/** Lengths of loops in bars, and how common each is (common practice, from memory). */
const BARS: readonly (readonly [bars: number, share: number])[] = [
  [4, 0.3],
  [2, 0.28],
  [1, 0.18],
  [8, 0.16],
  [16, 0.03],
  [3, 0.012],
  [6, 0.012],
  [12, 0.012],
];
const ODD_COUNT_SHARE = 0.001;
/** Half a bar of four, or a quarter. */
const PART_OF_BAR_SHARE = 0.002;

export interface LoopHeard {
  durationSeconds: Seconds;
  /** Of the loop heard over and over. */
  likelihood: BeatLikelihood;
  beats: Seconds[];
}

export interface LoopCount {
  /** Beats from the start of the loop to its end. */
  beats: number;
  beatsPerBar: number;
  /** A beat is a dotted quarter. */
  compound: boolean;
}

interface Sums {
  /** Mean likelihood of a beat on beats, half-way between, and at the thirds. */
  on: number;
  half: number;
  third: number;
}

/** Every count of beats with every metre that it fills; in no order. */
export function loopCounts(durationSeconds: Seconds): LoopCount[] {
  const counts: LoopCount[] = [];
  for (let beats = 1; beats <= MOST_BEATS; beats++) {
    const bpm = (60 * beats) / durationSeconds;
    if (bpm < SLOWEST_BPM || bpm > FASTEST_BPM) continue;
    for (const [beatsPerBar, compound] of METRES)
      if (beats % beatsPerBar === 0 || (beats < beatsPerBar && beatsPerBar === 4 && 4 % beats === 0))
        counts.push({ beats, beatsPerBar, compound });
  }
  return counts;
}

/** What the model looks at, for each count. */
export function loopInputs(heard: LoopHeard, counts: readonly LoopCount[]): number[][] {
  const { durationSeconds, likelihood } = heard;
  const tempoLog = tempoLogs(likelihood);
  const ownBpm = Math.max(1, bpmOf(heard.beats));
  const threes = mean(Array.from(likelihood.compound, (each) => logOdds(each, LEAST_LIKELY)));
  const sums = new Map<number, Sums>();
  return counts.map(({ beats, beatsPerBar, compound }) => {
    const period = durationSeconds / beats;
    if (!sums.has(beats)) sums.set(beats, pulseAt(heard, period));
    const { on, half, third } = sums.get(beats)!;
    const bpm = 60 / period;
    const x = Math.log2(bpm / MIDDLE_BPM);
    const away = Math.abs(Math.log2(bpm / ownBpm));
    const octave = Math.abs(away - 1) < OTHER_TEMPO;
    const bars = barsAt(heard, period, beatsPerBar);
    return [
      tempoLog(bpm),
      on,
      half,
      third,
      compound ? third - half : 0,
      x,
      x * x,
      x * x * x,
      octave ? 0 : Math.min(1, away / OTHER_TEMPO),
      octave ? 1 : 0,
      Math.log(METRES.find(([each, threesIn]) => each === beatsPerBar && threesIn === compound)![2]),
      Math.log(shareOfBars(beats / beatsPerBar)),
      bars.first - bars.others,
      bars.fit,
      compound ? threes : -threes,
      ...tempoOfMetre(x, beatsPerBar, compound),
    ];
  });
}

/** Quick waltzes are counted in quarters, quick jigs in dotted ones: how fast a beat may be depends on the metre. */
function tempoOfMetre(x: number, beatsPerBar: number, compound: boolean): number[] {
  const three = beatsPerBar === 3 && !compound ? 1 : 0;
  const threes = compound ? 1 : 0;
  const odd = beatsPerBar >= 5 ? 1 : 0;
  return [three * x, three * x * x, threes * x, threes * x * x, odd * x];
}

/** All counts, the likeliest first, with their shares of what is possible. */
export function rankLoopCounts(heard: LoopHeard): (LoopCount & { share: number })[] {
  const counts = loopCounts(heard.durationSeconds);
  const scores = loopInputs(heard, counts).map((inputs) =>
    inputs.reduce((sum, input, i) => sum + weights[i] * input, 0),
  );
  const most = Math.max(...scores);
  const total = scores.reduce((sum, score) => sum + Math.exp(score - most), 0);
  return counts
    .map((count, i) => ({ ...count, share: Math.exp(scores[i] - most) / total }))
    .sort((a, b) => b.share - a.share);
}

const shareOfBars = (bars: number): number =>
  bars < 1 ? PART_OF_BAR_SHARE : (BARS.find(([count]) => count === bars)?.[1] ?? ODD_COUNT_SHARE);

function pulseAt({ likelihood: { beat } }: LoopHeard, period: Seconds): Sums {
  const count = Math.max(1, Math.floor((beat.length * RHYTHM_HOP_SECONDS) / period - 0.7));
  const at = (share: number) => {
    let sum = 0;
    for (let k = 0; k < count; k++) sum += near(beat, (k + share) * period);
    return sum / count;
  };
  return { on: at(0), half: at(1 / 2), third: (at(1 / 3) + at(2 / 3)) / 2 };
}

/** Mean log odds of a bar line on the first beats of bars and on the others, and how well both agree with there being one. */
function barsAt({ likelihood: { downbeat } }: LoopHeard, period: Seconds, beatsPerBar: number) {
  const count = Math.max(1, Math.floor((downbeat.length * RHYTHM_HOP_SECONDS) / period));
  let [first, firsts, others, rest, fit] = [0, 0, 0, 0, 0];
  for (let k = 0; k < count; k++) {
    const odds = logOdds(near(downbeat, k * period), LEAST_LIKELY);
    if (k % beatsPerBar === 0) {
      first += odds;
      firsts++;
      fit -= Math.log1p(Math.exp(-odds));
    } else {
      others += odds;
      rest++;
      fit -= Math.log1p(Math.exp(odds));
    }
  }
  return { first: first / Math.max(1, firsts), others: rest > 0 ? others / rest : -4, fit: fit / count };
}

const mean = (values: readonly number[]): number =>
  values.reduce((sum, value) => sum + value, 0) / Math.max(1, values.length);
