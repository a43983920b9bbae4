/**
 * The tempo of a loop. A loop holds a whole number of beats, and after its end comes its start again: so it is heard several times
 * over, which gives the network the music around it, and only tempi are asked for that divide it evenly.
 */
import { clamp, type Seconds } from '../../signal/index.ts';
import { beatLikelihood, tempoLogs, type BeatLikelihood } from './beatNetwork.ts';
import { decodeBeats } from './decodeBeats.ts';
import { bpmOf, readBars, type Bars } from './readRhythm.ts';
import { RHYTHM_HOP_SECONDS, rhythmFeatures } from './rhythmFeatures.ts';

/** Rate of the samples that are read. */
const RATE_HZ = 22_050;

export interface LoopReading extends Bars {
  /** Beats a minute. */
  bpm: number;
  /** Beats from its start to its end: a whole number. */
  beats: number;
  /** Share of what was possible that speaks for it, 0–1. */
  confidence: number;
  /** Its end leads into its start without a stumble: it is a loop. */
  goesRound: boolean;
}

/** It is heard over and over for so long; the network sees six seconds to each side. */
const HEARD_SECONDS = 18;
const SLOWEST_BPM = 48;
const FASTEST_BPM = 210;
const MOST_BEATS = 128;
/** People prefer to tap around this (Moelants 2002). */
const PREFERRED_BPM = 104;
/** Loops are cut where bars end: how unlikely other counts are, as log odds (common practice, from memory). */
const COUNT_COSTS: readonly (readonly [divisor: number, cost: number])[] = [
  [8, 0],
  [4, 0.1],
  [12, 0.5],
  [6, 0.7],
  [3, 1],
  [2, 1],
  [10, 1.6],
  [5, 2],
  [7, 2.2],
  [1, 3],
];
/** Chosen on loops of bench/src/rhythm that were neither trained on nor are those it is measured by. */
const WEIGHTS = { tempo: 0.5, on: 6, between: 2, count: 1.5, preference: 1, heard: 1.5, octave: 0.9 };
/** A tempo this far from that of the beats that were found, in octaves, is another. */
const OTHER_TEMPO = 0.06;

interface Candidate {
  beats: number;
  bpm: number;
  /** Log odds. */
  score: number;
}

interface LoopHeard {
  durationSeconds: Seconds;
  likelihood: BeatLikelihood;
  /** Of the loop heard over and over. */
  beats: Seconds[];
}

/** Numbers of beats that a loop may have, likeliest first; none where nothing has a pulse. */
function candidatesOf(heard: LoopHeard): Candidate[] {
  const { durationSeconds, likelihood, beats } = heard;
  if (beats.length < 2) return [];
  const logOf = tempoLogs(likelihood);
  const ownBpm = bpmOf(beats);
  const candidates: Candidate[] = [];
  for (let n = 1; n <= MOST_BEATS; n++) {
    const bpm = (60 * n) / durationSeconds;
    if (bpm < SLOWEST_BPM || bpm > FASTEST_BPM) continue;
    const { on, between } = pulseAt(heard, durationSeconds / n);
    const score =
      WEIGHTS.tempo * logOf(bpm) +
      WEIGHTS.on * on -
      WEIGHTS.between * between -
      WEIGHTS.count * countCost(n) -
      WEIGHTS.preference * Math.log2(bpm / PREFERRED_BPM) ** 2 -
      otherTempoCost(Math.abs(Math.log2(bpm / ownBpm)));
    candidates.push({ beats: n, bpm, score });
  }
  return candidates.sort((a, b) => b.score - a.score);
}

/** @param samples mono at 22,050 Hz, from the start of the loop to its end */
function hearLoop(samples: Float32Array): LoopHeard {
  const durationSeconds = samples.length / RATE_HZ;
  const times = Math.max(2, Math.ceil(HEARD_SECONDS / durationSeconds));
  const over = new Float32Array(samples.length * times);
  for (let i = 0; i < times; i++) over.set(samples, i * samples.length);
  const likelihood = beatLikelihood(rhythmFeatures(over));
  return { durationSeconds, likelihood, beats: decodeBeats(likelihood) };
}

/** How likely a beat is near a time. */
function near({ beat }: BeatLikelihood, seconds: Seconds): number {
  const t = Math.round(seconds / RHYTHM_HOP_SECONDS);
  return Math.max(beat[t - 1] ?? 0, beat[t] ?? 0, beat[t + 1] ?? 0);
}

/** How likely beats are at every period from the start on, and halfway between: means of 0–1. */
function pulseAt({ likelihood }: LoopHeard, periodSeconds: Seconds): { on: number; between: number } {
  let [on, between, count] = [0, 0, 0];
  const end = likelihood.beat.length * RHYTHM_HOP_SECONDS;
  for (let k = 0; (k + 0.5) * periodSeconds < end; k++) {
    on += near(likelihood, k * periodSeconds);
    between += near(likelihood, (k + 0.5) * periodSeconds);
    count++;
  }
  return { on: on / Math.max(1, count), between: between / Math.max(1, count) };
}

/** Mean likelihood of beats that were found, 0–1: low where nothing is struck and a pulse is only imagined. */
export function beatSupport(samples: Float32Array, beats: readonly Seconds[]): number {
  const likelihood = beatLikelihood(rhythmFeatures(samples));
  return beats.reduce((sum, each) => sum + near(likelihood, each), 0) / Math.max(1, beats.length);
}

/** Double and half are often heard for one another; other tempi are not. */
function otherTempoCost(octaves: number): number {
  if (Math.abs(octaves - 1) < OTHER_TEMPO) return WEIGHTS.octave;
  return WEIGHTS.heard * Math.min(1, octaves / OTHER_TEMPO);
}

const countCost = (n: number): number => COUNT_COSTS.find(([divisor]) => n % divisor === 0)![1];

/** Beats of what goes round lie on the grid of a whole number of them, or half-way between, within this share of a beat. */
const ROUND_BEATS = 0.05;
/** A beat that something is struck on is as likely. */
const STRUCK = 0.2;

/**
 * Whether beats go on over the joint as if there were none. Where the end does not lead into the start, the beats after each joint
 * lie elsewhere than those before.
 */
function goesRound({ beats, durationSeconds, likelihood }: LoopHeard): boolean {
  if (beats.length < 3) return false;
  // One stroke alone makes a beat of every round, and no loop.
  const struck = beats.filter((each) => each < durationSeconds && near(likelihood, each) > STRUCK);
  if (struck.length < 2) return false;
  const whole = Math.max(1, Math.round((durationSeconds * bpmOf(beats)) / 60));
  // Half beats too: which of two is the beat does not matter here.
  const half = durationSeconds / whole / 2;
  const away = beats.reduce((sum, each) => sum + Math.abs(each / half - Math.round(each / half)), 0);
  return away / beats.length / 2 < ROUND_BEATS;
}

/** @param samples mono at 22,050 Hz, from the start of the loop to its end; undefined where nothing has a pulse */
export function readLoop(samples: Float32Array): LoopReading | undefined {
  const heard = hearLoop(samples);
  const [best, ...others] = candidatesOf(heard);
  if (!best) return undefined;
  const period = heard.durationSeconds / best.beats;
  const total = Math.floor((heard.likelihood.beat.length * RHYTHM_HOP_SECONDS) / period);
  const beats = Array.from({ length: total }, (_, i) => i * period);
  const bars = readBars(beats, heard.likelihood);
  const sum = others.reduce((all, { score }) => all + Math.exp(score - best.score), 1);
  return {
    ...bars,
    bpm: best.bpm,
    beats: best.beats,
    confidence: clamp(1 / sum, 0, 1),
    goesRound: goesRound(heard),
  };
}
