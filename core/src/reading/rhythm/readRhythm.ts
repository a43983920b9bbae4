/**
 * Tempo, beats and bars from the sound alone, without harmony: features → how likely each frame holds a beat and a bar
 * line → beats → metre and first bar.
 */
import { clamp, type Seconds } from '../../signal/index.ts';
import { beatLikelihood, type BeatLikelihood } from './beatNetwork.ts';
import { barEvidence, decodeBars, decodeBeats, type BarReading } from './decodeBeats.ts';
import { RHYTHM_HOP_SECONDS, rhythmFeatures } from './rhythmFeatures.ts';

export interface Pulse {
  beats: Seconds[];
  likelihood: BeatLikelihood;
}

export interface RhythmReading {
  /** Beats a minute; 0 where nothing has a pulse. */
  bpm: number;
  beats: Seconds[];
  /** Whether a beat falls into three: then it is a dotted quarter. */
  compound: boolean;
  beatsPerBar: number;
  downbeats: Seconds[];
}

/** A beat before or behind all that sounds is none: nothing within so many frames of it is likelier than this. */
const NEAR_FRAMES = 2;
const MIN_LIKELIHOOD = 0.06;
/** 9/8 is rare beside 3/4, which cross-rhythms resemble: only log odds like these make it. */
const CLEARLY = 1.5;

/** What sounds at thirds and halves of beats beside the network's own log odds: logistic regression on 261 pieces with known patterns and with tunes of O'Neill's. */
const DIVISION_WEIGHT = 0.5;
const DIVISION_BIAS = 0.2;
/** Likelihoods this small are as good as none. */
const NEARLY_NONE = 0.02;

/** @param samples mono at 22,050 Hz */
export function readPulse(samples: Float32Array): Pulse {
  return pulseOf(rhythmFeatures(samples));
}

/** @param features as rhythmFeatures gives them */
export function pulseOf(features: Float32Array): Pulse {
  const likelihood = beatLikelihood(features);
  return { beats: withoutSilentEnds(decodeBeats(likelihood), likelihood), likelihood };
}

/** @param samples mono at 22,050 Hz */
export function readRhythm(samples: Float32Array): RhythmReading {
  const { beats, likelihood } = readPulse(samples);
  const bars = readBars(beats, likelihood);
  return {
    bpm: bpmOf(beats),
    beats,
    beatsPerBar: bars.beatsPerBar,
    compound: bars.compound,
    downbeats: beats.filter((_, i) => i >= bars.first && (i - bars.first) % bars.beatsPerBar === 0),
  };
}

export interface Bars extends BarReading {
  /** Whether a beat falls into three: then it is a dotted quarter. */
  compound: boolean;
}

/**
 * Metre and first bar line of beats that were found.
 * @param more log odds of each beat to begin a bar, from elsewhere
 */
export function readBars(beats: readonly Seconds[], likelihood: BeatLikelihood, more?: Float64Array): Bars {
  const odds = compoundOdds(beats, likelihood);
  const evidence = barEvidence(beats, likelihood).map((each, i) => each + (more?.[i] ?? 0));
  const bars = decodeBars(evidence, odds > 0);
  return { ...bars, compound: odds > (bars.beatsPerBar === 3 ? CLEARLY : 0) };
}

function withoutSilentEnds(beats: Seconds[], { beat }: BeatLikelihood): Seconds[] {
  const sounds = (seconds: Seconds) => {
    const middle = Math.round(seconds / RHYTHM_HOP_SECONDS);
    for (let t = middle - NEAR_FRAMES; t <= middle + NEAR_FRAMES; t++)
      if ((beat[t] ?? 0) > MIN_LIKELIHOOD) return true;
    return false;
  };
  const first = beats.findIndex(sounds);
  return first < 0 ? [] : beats.slice(first, beats.findLastIndex(sounds) + 1);
}

/**
 * How much speaks for beats that fall into three, as log odds: the mean of what the network says, and how much sounds at the thirds of
 * beats (at both, unlike in swing) beside their halves.
 */
function compoundOdds(beats: readonly Seconds[], { compound, beat }: BeatLikelihood): number {
  let sum = 0;
  for (const seconds of beats) {
    const p = clamp(compound[Math.round(seconds / RHYTHM_HOP_SECONDS)] ?? 0, 1e-4, 1 - 1e-4);
    sum += Math.log(p / (1 - p));
  }
  const at = (share: number) => meanWithin(beats, share, beat);
  const thirds = Math.min(at(1 / 3), at(2 / 3));
  const divided = Math.log((thirds + NEARLY_NONE) / (at(1 / 2) + NEARLY_NONE));
  return sum / Math.max(1, beats.length) + DIVISION_WEIGHT * divided + DIVISION_BIAS;
}

/** Mean likelihood of a beat this share of the way from each beat to the next. */
function meanWithin(beats: readonly Seconds[], share: number, beat: Float32Array): number {
  let sum = 0;
  for (let i = 0; i + 1 < beats.length; i++) {
    const middle = Math.round((beats[i] + share * (beats[i + 1] - beats[i])) / RHYTHM_HOP_SECONDS);
    let most = 0;
    for (let t = middle - 1; t <= middle + 1; t++) most = Math.max(most, beat[t] ?? 0);
    sum += most;
  }
  return sum / Math.max(1, beats.length - 1);
}

/**
 * Beats a minute, 0 for fewer than two beats: by a straight line through all of them, so that the first and the last do not
 * count more than the others.
 */
export function bpmOf(beats: readonly Seconds[]): number {
  const count = beats.length;
  if (count < 2) return 0;
  const middle = (count - 1) / 2;
  const mean = beats.reduce((sum, each) => sum + each, 0) / count;
  let [product, square] = [0, 0];
  beats.forEach((each, i) => {
    product += (i - middle) * (each - mean);
    square += (i - middle) ** 2;
  });
  return (60 * square) / product;
}
