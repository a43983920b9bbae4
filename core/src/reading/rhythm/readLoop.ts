/**
 * The tempo of a loop. A loop holds a whole number of beats, and after its end comes its start again: so it is heard several times
 * over, which gives the network the music around it, and only tempi are asked for that divide it evenly.
 */
import type { Seconds } from '../../signal/index.ts';
import { beatLikelihood, near } from './beatNetwork.ts';
import { decodeBeats } from './decodeBeats.ts';
import { rankLoopCounts, type LoopHeard } from './loopChoice.ts';
import type { Bars } from './barChoice.ts';
import { bpmOf } from './readRhythm.ts';
import { rhythmFeatures } from './rhythmFeatures.ts';

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

/** @param samples mono at 22,050 Hz, from the start of the loop to its end */
export function hearLoop(samples: Float32Array): LoopHeard {
  const durationSeconds = samples.length / RATE_HZ;
  const times = Math.max(2, Math.ceil(HEARD_SECONDS / durationSeconds));
  const over = new Float32Array(samples.length * times);
  for (let i = 0; i < times; i++) over.set(samples, i * samples.length);
  const likelihood = beatLikelihood(rhythmFeatures(over));
  return { durationSeconds, likelihood, beats: decodeBeats(likelihood) };
}

/** Mean likelihood of beats that were found, 0–1: low where nothing is struck and a pulse is only imagined. */
export function beatSupport(samples: Float32Array, beats: readonly Seconds[]): number {
  const likelihood = beatLikelihood(rhythmFeatures(samples));
  return beats.reduce((sum, each) => sum + near(likelihood.beat, each), 0) / Math.max(1, beats.length);
}

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
  const struck = beats.filter((each) => each < durationSeconds && near(likelihood.beat, each) > STRUCK);
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
  if (heard.beats.length < 2) return undefined;
  const ranked = rankLoopCounts(heard);
  const [best] = ranked;
  if (!best) return undefined;
  return {
    bpm: (60 * best.beats) / heard.durationSeconds,
    beats: best.beats,
    beatsPerBar: best.beatsPerBar,
    compound: best.compound,
    // A loop begins with a bar.
    first: 0,
    // The same beats in another metre are the same tempo.
    confidence: ranked.filter(({ beats }) => beats === best.beats).reduce((sum, { share }) => sum + share, 0),
    goesRound: goesRound(heard),
  };
}
