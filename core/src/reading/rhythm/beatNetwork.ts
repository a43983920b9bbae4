/**
 * How likely a beat and a bar line lie in each frame, whether beats fall into three, and the tempo: residual dilated convolutions
 * over the rhythm features, as trained by training/train_beats.py (Davies and Böck 2019; several tasks at once: Böck, Davies and
 * Knees 2019). It sees six seconds to each side.
 */
import { clamp, type Seconds } from '../../signal/index.ts';
import { createDilatedNetwork } from '../dilatedNetwork.ts';
import { RHYTHM_HOP_SECONDS } from './rhythmFeatures.ts';
import weights from './beatNetworkWeights.json' with { type: 'json' };

export interface BeatLikelihood {
  /** 0–1, one for each frame. */
  beat: Float32Array;
  downbeat: Float32Array;
  /** Of the music around the frame: how likely its beats are dotted quarters, as in 6/8. */
  compound: Float32Array;
  /** The same for each of the tempi that are told apart, see {@link tempoBinOf}. */
  tempi: Float32Array[];
}

const SLOWEST_BPM = 42;
const BINS_PER_OCTAVE = 8;
const LEAST_LIKELY = 0.01;

/** Place of a tempo among {@link BeatLikelihood.tempi}, also between two of them. */
export function tempoBinOf(bpm: number): number {
  return BINS_PER_OCTAVE * Math.log2(bpm / SLOWEST_BPM);
}

/** The log of how likely a tempo is in the whole recording, as far as tempi are told apart. */
export function tempoLogs({ tempi }: Pick<BeatLikelihood, 'tempi'>): (bpm: number) => number {
  const heard = tempi.map((bin) => bin.reduce((sum, value) => sum + value, 0) / Math.max(1, bin.length));
  return (bpm) => {
    const place = clamp(tempoBinOf(Math.max(1, bpm)), 0, heard.length - 1);
    const low = Math.floor(place);
    const likely = heard[low] + (place - low) * ((heard[low + 1] ?? heard[low]) - heard[low]);
    return Math.log(Math.max(LEAST_LIKELY, likely));
  };
}

/** How likely a beat, or with `downbeat` a bar line, is near a time: 0–1. */
export function near(curve: Float32Array, seconds: Seconds): number {
  const t = Math.round(seconds / RHYTHM_HOP_SECONDS);
  return Math.max(curve[t - 1] ?? 0, curve[t] ?? 0, curve[t + 1] ?? 0);
}

/** @param least what is less likely than this, or as sure, counts as this */
export function logOdds(probability: number, least: number): number {
  const p = clamp(probability, least, 1 - least);
  return Math.log(p / (1 - p));
}

const network = createDilatedNetwork(weights);

/** @param features as rhythmFeatures gives them */
export function beatLikelihood(features: Float32Array): BeatLikelihood {
  const [beat, downbeat, compound, ...tempi] = network(features);
  return { beat, downbeat, compound, tempi };
}
