/**
 * Tempo, beats and bars from the sound alone, without harmony: features → how likely each frame holds a beat and a bar
 * line → beats → metre and first bar.
 */
import type { Seconds } from '../../signal/index.ts';
import { beatLikelihood, type BeatLikelihood } from './beatNetwork.ts';
import { barEvidence, decodeBars, decodeBeats } from './decodeBeats.ts';
import { RHYTHM_HOP_SECONDS, rhythmFeatures } from './rhythmFeatures.ts';
import { isCompound } from './subdivision.ts';

export interface Pulse {
  /** Beats a minute; 0 where nothing has a pulse. */
  bpm: number;
  beats: Seconds[];
  /** Log odds of each beat to begin a bar. */
  barEvidence: Float64Array;
  /** Whether a beat falls into three: then it is a dotted quarter. */
  compound: boolean;
}

export interface RhythmReading extends Omit<Pulse, 'barEvidence'> {
  beatsPerBar: number;
  downbeats: Seconds[];
}

/** A beat before or behind all that sounds is none: nothing within so many frames of it is likelier than this. */
const NEAR_FRAMES = 2;
const MIN_LIKELIHOOD = 0.06;

/** @param samples mono at 22,050 Hz */
export function readPulse(samples: Float32Array): Pulse {
  const features = rhythmFeatures(samples);
  const likelihood = beatLikelihood(features);
  const beats = withoutSilentEnds(decodeBeats(likelihood), likelihood);
  return {
    bpm: bpmOf(beats),
    beats,
    barEvidence: barEvidence(beats, likelihood),
    compound: isCompound(beats, features),
  };
}

/** @param samples mono at 22,050 Hz */
export function readRhythm(samples: Float32Array): RhythmReading {
  const { bpm, beats, barEvidence, compound } = readPulse(samples);
  const { beatsPerBar, first } = decodeBars(barEvidence, compound);
  return {
    bpm,
    beats,
    beatsPerBar,
    compound,
    downbeats: beats.filter((_, i) => i >= first && (i - first) % beatsPerBar === 0),
  };
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

/** By a straight line through the beats, so that the first and the last do not count more than the others. */
function bpmOf(beats: readonly Seconds[]): number {
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
