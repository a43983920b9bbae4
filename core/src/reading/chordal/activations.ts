/**
 * How likely it is, for every key and frame of a chordal recording, that a note starts and sounds. From these numbers notes
 * are decoded with any sensitivity, and chords are read.
 */
import { quantile } from '../../signal/index.ts';
import {
  BINS,
  BINS_PER_SEMITONE,
  computeMaps,
  decimate,
  DROPPED_BITS,
  FLOOR_DB,
  framesOf,
  STEP_DB,
  stepsOfPowers,
  type ChordalMaps,
} from './frontEnd.ts';
import { createNetwork, HEADS, INPUT_ONE, KEYS } from './network.ts';
import { coarseNetworkWeights, networkWeights } from './networkWeights.ts';
import { estimateSpectralTuning } from './spectralTuning.ts';

/** Probabilities × 255, frames × 88 keys, key 0 = MIDI 21; a frame is 11.6 ms. */
export interface Activations {
  frames: number;
  onset: Uint8Array;
  active: Uint8Array;
  /** Level of each key's first harmonics in half decibels above {@link FLOOR_DB}. */
  level: Uint8Array;
  /** Level of each key's own frequency over short windows, in the same steps: tells how hard a note is struck. */
  attack: Uint8Array;
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
/** The coarse network looks at every second frame. */
const COARSE_FRAMES = 2;

export interface ActivationsSettings {
  /**
   * Enough for chords, in a third of the time: a smaller network looks at every other frame, the others are the mean of
   * their neighbours; no levels.
   */
  coarse?: boolean;
  /** Called with the share of the work that is done, 0–1. */
  onProgress?: (share: number) => void;
}

/** @param samples mono at 22,050 Hz */
export function computeActivations(
  samples: Float32Array,
  { coarse = false, onProgress = () => undefined }: ActivationsSettings = {},
): Activations {
  const every = coarse ? COARSE_FRAMES : 1;
  const { tuningCents, maps, scale } = networkInput(samples, every, (share) =>
    onProgress(MAPS_SHARE * share),
  );
  const frames = framesOf(samples);
  const size = frames * KEYS;
  const result: Activations = {
    frames,
    onset: new Uint8Array(size),
    active: new Uint8Array(size),
    // Chords do not ask how loud a note is.
    level: coarse ? new Uint8Array(size) : levelsOf(maps),
    attack: coarse ? new Uint8Array(size) : attacksOf(maps),
    tuningCents,
  };
  if (!scale) return result;
  createNetwork(coarse ? coarseNetworkWeights() : networkWeights()).run(
    maps.frames,
    (frame, out) => fillInput(maps, scale, frame, out),
    (firstFrame, logits) => {
      let at = firstFrame * every * KEYS;
      for (let i = 0; i < logits.length; at += every * KEYS)
        for (let key = 0; key < KEYS; key++, i += HEADS) {
          result.onset[at + key] = 255 * logistic(logits[i]) + 0.5;
          result.active[at + key] = 255 * logistic(logits[i + 1]) + 0.5;
        }
      onProgress(MAPS_SHARE + (1 - MAPS_SHARE) * Math.min(1, at / size));
    },
  );
  if (coarse) for (const plane of [result.onset, result.active]) fillBetween(plane, frames);
  return result;
}

/** Every odd frame becomes the mean of its neighbours. */
function fillBetween(plane: Uint8Array, frames: number): void {
  for (let frame = 1; frame < frames; frame += 2) {
    const after = frame + 1 < frames ? KEYS : -KEYS;
    for (let at = frame * KEYS, end = at + KEYS; at < end; at++)
      plane[at] = (plane[at - KEYS] + plane[at + after] + 1) >> 1;
  }
}

interface NetworkInput {
  tuningCents: number;
  maps: ChordalMaps;
  /** The input value for each step of the maps; absent where nothing sounds. */
  scale?: Int16Array;
}

/**
 * What the network looks at.
 * @param samples mono at 22,050 Hz
 * @param every so many frames
 */
function networkInput(
  samples: Float32Array,
  every: number,
  onProgress: (share: number) => void,
): NetworkInput {
  const low = decimate(samples);
  const tuningCents = estimateSpectralTuning(low);
  const maps = computeMaps(samples, low, tuningCents, { every, onProgress });
  const top = loudestOf(maps);
  if (top < SILENCE_DB) return { tuningCents, maps };
  const scale = Int16Array.from({ length: 256 }, (_, step) =>
    Math.round(INPUT_ONE * Math.min(1, Math.max(0, 1 + (FLOOR_DB + STEP_DB * step - top) / RANGE_DB))),
  );
  return { tuningCents, maps, scale };
}

/** Both maps of one frame as the network takes them. */
function fillInput(maps: ChordalMaps, scale: Int16Array, frame: number, out: Int16Array): void {
  const at = frame * 2 * BINS;
  for (let i = 0; i < 2 * BINS; i++) out[i] = scale[maps.values[at + i]];
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
    level: new Uint8Array(size),
    attack: new Uint8Array(size),
    tuningCents: parts[0].activations.tuningCents,
  };
  for (const { activations, laterFrames } of parts) {
    const from = laterFrames * KEYS;
    for (const field of ['onset', 'active', 'level', 'attack'] as const) {
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

/** Of map B, the loudest of the three bins of each key. */
function attacksOf({ frames, values }: ChordalMaps): Uint8Array {
  const attacks = new Uint8Array(frames * KEYS);
  for (let frame = 0; frame < frames; frame++) {
    const at = frame * 2 * BINS + BINS + 1;
    for (let key = 0; key < KEYS; key++) {
      const bin = at + BINS_PER_SEMITONE * key;
      attacks[frame * KEYS + key] = Math.max(values[bin - 1], values[bin], values[bin + 1]);
    }
  }
  return attacks;
}

function logistic(x: number): number {
  return 1 / (1 + Math.exp(-x));
}
