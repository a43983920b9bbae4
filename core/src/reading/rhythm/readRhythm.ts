/**
 * Tempo, beats and bars from the sound alone, without harmony: features → how likely each frame holds a beat and a bar
 * line → beats → metre and first bar.
 */
import { evenSpacing, type Seconds } from '../../signal/index.ts';
import { beatLikelihood, type BeatLikelihood } from './beatNetwork.ts';
import { chooseBars } from './barChoice.ts';
import { decodeBeats } from './decodeBeats.ts';
import { RHYTHM_HOP_SECONDS, rhythmFeatures } from './rhythmFeatures.ts';

export interface Pulse {
  beats: Seconds[];
  likelihood: BeatLikelihood;
  /** As rhythmFeatures gives them. */
  features: Float32Array;
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
/** @param samples mono at 22,050 Hz */
export function readPulse(samples: Float32Array): Pulse {
  return pulseOf(rhythmFeatures(samples));
}

/** @param features as rhythmFeatures gives them */
export function pulseOf(features: Float32Array): Pulse {
  const likelihood = beatLikelihood(features);
  return { beats: withoutSilentEnds(decodeBeats(likelihood), likelihood), likelihood, features };
}

/** @param samples mono at 22,050 Hz */
export function readRhythm(samples: Float32Array): RhythmReading {
  const pulse = readPulse(samples);
  const { beats } = pulse;
  const bars = chooseBars(pulse);
  return {
    bpm: bpmOf(beats),
    beats,
    beatsPerBar: bars.beatsPerBar,
    compound: bars.compound,
    downbeats: beats.filter((_, i) => i >= bars.first && (i - bars.first) % bars.beatsPerBar === 0),
  };
}

/** The beats at about a tempo that is known. @param nearBpm 50–200 */
export function beatsNear({ likelihood }: Pulse, nearBpm: number): Seconds[] {
  const beats = decodeBeats(likelihood, nearBpm);
  const sounding = withoutSilentEnds(beats, likelihood);
  return sounding.length > 1 ? sounding : beats;
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

/** Beats a minute of one tempo through all of them, 0 for fewer than two beats. */
export const bpmOf = (beats: readonly Seconds[]): number => (beats.length < 2 ? 0 : 60 / evenSpacing(beats));
