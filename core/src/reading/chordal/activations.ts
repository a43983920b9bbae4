/**
 * How likely it is, for every key and frame of a chordal recording, that a note starts, sounds and ends. From these
 * numbers notes are decoded with any sensitivity, and chords are read.
 */
import { quantile } from '../../signal/index.ts';
import {
  BINS,
  computeMaps,
  decimate,
  DROPPED_BITS,
  FLOOR_DB,
  STEP_DB,
  stepsOfPowers,
  type ChordalMaps,
} from './frontEnd.ts';
import { createNetwork, HEADS, INPUT_ONE, KEYS } from './network.ts';
import { networkWeights } from './networkWeights.ts';
import { estimateSpectralTuning } from './spectralTuning.ts';

/** Probabilities × 255, frames × 88 keys, key 0 = MIDI 21; a frame is 11.6 ms. */
export interface Activations {
  frames: number;
  onset: Uint8Array;
  active: Uint8Array;
  offset: Uint8Array;
  /** Level of each key's first harmonics in half decibels above {@link FLOOR_DB}. */
  level: Uint8Array;
  /** How far the recording is from A4 = 440 Hz, −50…50 cents. */
  tuningCents: number;
}

/** Values of the maps are scaled to 0–1 over this range below the loudest frames, as in training. */
const RANGE_DB = 75;
/** Of the frames' maxima this quantile is 1. */
const TOP_QUANTILE = 0.98;
/** What never gets louder than this is silence. */
const SILENCE_DB = -85;
/** Harmonics, in bins above the fundamental, whose power makes up the level of a note. */
const LEVEL_HARMONICS = [1, 2, 3, 4].map((harmonic) => Math.round(36 * Math.log2(harmonic)));
const MAPS_SHARE = 0.25;

/**
 * @param samples mono at 22,050 Hz
 * @param onProgress is told the share of the work that is done
 */
export function computeActivations(
  samples: Float32Array,
  onProgress: (share: number) => void = () => undefined,
): Activations {
  const low = decimate(samples);
  const tuningCents = estimateSpectralTuning(low);
  const maps = computeMaps(samples, low, tuningCents, (share) => onProgress(MAPS_SHARE * share));
  const { frames } = maps;
  const size = frames * KEYS;
  const result: Activations = {
    frames,
    onset: new Uint8Array(size),
    active: new Uint8Array(size),
    offset: new Uint8Array(size),
    level: levelsOf(maps),
    tuningCents,
  };
  const top = loudestOf(maps);
  if (top < SILENCE_DB) return result;
  const scale = Int16Array.from({ length: 256 }, (_, step) =>
    Math.round(INPUT_ONE * Math.min(1, Math.max(0, 1 + (FLOOR_DB + STEP_DB * step - top) / RANGE_DB))),
  );
  createNetwork(networkWeights()).run(
    frames,
    (frame, out) => {
      const at = frame * 2 * BINS;
      for (let i = 0; i < 2 * BINS; i++) out[i] = scale[maps.values[at + i]];
    },
    (firstFrame, logits) => {
      let at = firstFrame * KEYS;
      for (let i = 0; i < logits.length; i += HEADS, at++) {
        result.onset[at] = 255 * logistic(logits[i]) + 0.5;
        result.active[at] = 255 * logistic(logits[i + 1]) + 0.5;
        result.offset[at] = 255 * logistic(logits[i + 3]) + 0.5;
      }
      onProgress(MAPS_SHARE + (1 - MAPS_SHARE) * ((firstFrame + logits.length / HEADS / KEYS) / frames));
    },
  );
  return result;
}

/**
 * What sounds in several recordings that play together: of each key the surest, so that nothing of a quiet part is lost
 * beside a loud one.
 * @param parts each with how many frames later than the first frame of the whole it begins, 0 or more
 */
export function combineActivations(
  parts: readonly { activations: Activations; laterFrames: number }[],
): Activations {
  const frames = Math.max(...parts.map(({ activations, laterFrames }) => activations.frames + laterFrames));
  const size = frames * KEYS;
  const whole: Activations = {
    frames,
    onset: new Uint8Array(size),
    active: new Uint8Array(size),
    offset: new Uint8Array(size),
    level: new Uint8Array(size),
    tuningCents: parts[0].activations.tuningCents,
  };
  for (const { activations, laterFrames } of parts) {
    const from = laterFrames * KEYS;
    for (const field of ['onset', 'active', 'offset', 'level'] as const) {
      const [to, values] = [whole[field], activations[field]];
      for (let i = 0; i < values.length; i++) if (values[i] > to[from + i]) to[from + i] = values[i];
    }
  }
  return whole;
}

/** In dB: the level that counts as the top of the range. */
function loudestOf({ frames, values }: ChordalMaps): number {
  const maxima = new Float32Array(frames);
  for (let frame = 0; frame < frames; frame++) {
    let most = 0;
    for (let i = frame * 2 * BINS, end = i + BINS; i < end; i++) if (values[i] > most) most = values[i];
    maxima[frame] = most;
  }
  return FLOOR_DB + STEP_DB * quantile(maxima, TOP_QUANTILE);
}

function levelsOf({ frames, values }: ChordalMaps): Uint8Array {
  const power = Float64Array.from({ length: 256 }, (_, step) => 10 ** ((FLOOR_DB + STEP_DB * step) / 10));
  const levels = new Uint8Array(frames * KEYS);
  const steps = stepsOfPowers();
  const bits = new Uint32Array(1);
  const float = new Float32Array(bits.buffer);
  for (let frame = 0; frame < frames; frame++) {
    for (let key = 0; key < KEYS; key++) {
      let sum = 0;
      for (const shift of LEVEL_HARMONICS) {
        const bin = 3 * key + 1 + shift;
        if (bin + 1 >= BINS) break;
        const at = frame * 2 * BINS + bin;
        sum += power[Math.max(values[at - 1], values[at], values[at + 1])];
      }
      // A sine of amplitude 1 has half of that power.
      float[0] = sum / 2;
      levels[frame * KEYS + key] = steps[bits[0] >>> DROPPED_BITS];
    }
  }
  return levels;
}

function logistic(x: number): number {
  return 1 / (1 + Math.exp(-x));
}
