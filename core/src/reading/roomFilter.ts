/**
 * Takes the tail of a room off a voice, so that a note that still rings does not stand beside the next one. The late
 * reverberation of each bin is what sounded there a moment ago, faded as rooms fade (Lebart, Boucher & Denbigh 2001), and is
 * taken off by spectral subtraction. Long notes become softer by that, evenly: pitch can be read from the result, loudness
 * cannot.
 *
 * How much of a room there is shows in how far strong partials fall within 70 ms: in a dry recording some fall by 40 dB,
 * in a hall none by more than 20 or so.
 */
import { clamp, createTransform, type Decibels } from '../signal/index.ts';
import { READING_HZ } from './melodySettings.ts';

const SIZE = 1024;
export const ROOM_HOP = SIZE / 2;
/** So many frames ago (70 ms): nothing of the sound itself is in both. */
const DELAY_FRAMES = 3;
/** Time to −60 dB of a hall. */
const DECAY_SECONDS = 1.7;
/** Share of what sounded that a hall gives back. */
const HALL_SHARE = 0.5;
/** No bin is made softer than by this factor. */
const FLOOR = 0.05;

/** The twentieth part of strong partials that fall farthest: by so much in a dry room, and in a hall. */
const FARTHEST_SHARE = 0.05;
const DRY_DB = -32;
const HALL_DB = -21;
/** Partials up to 4 kHz that are at most 20 dB below the strongest count. */
const FIRST_BIN = 5;
const LAST_BIN = 200;
const STRONG_SHARE = 0.01;
/** Power of the strongest below which a frame says nothing: about −54 dB below full scale. */
const MIN_POWER = 1;
/** Falls are counted in steps of a decibel down to here. */
const DEEPEST_DB = 60;
/** While fewer fall by as much as this, no note has ended yet, and nothing is known. */
const ENDING_DB = 6;
const MIN_ENDINGS = 40;

export interface RoomFilter {
  /** Samples that must follow before one is final. */
  readonly latencySamples: number;
  /** Takes a frame of `input` from `at` on, {@link ROOM_HOP} after the one before, and adds its part to `output` there. */
  frame(input: Float32Array, at: number, output: Float32Array): void;
  /** How much of a hall there is by what was heard so far, 0–1. */
  hall(): number;
}

export function createRoomFilter(): RoomFilter {
  const transform = createTransform(SIZE);
  const window = Float64Array.from({ length: SIZE }, (_, i) => Math.sin((Math.PI * (i + 0.5)) / SIZE));
  const [time, spectrum, back] = [0, 1, 2].map(() => transform.createComplex());
  const past = Array.from({ length: DELAY_FRAMES }, () => new Float64Array(ROOM_HOP + 1));
  const power = new Float64Array(ROOM_HOP + 1);
  const fade = 10 ** ((-6 * DELAY_FRAMES * ROOM_HOP) / READING_HZ / DECAY_SECONDS);
  const falls = new Uint32Array(DEEPEST_DB + 1);
  let count = 0;
  let endings = 0;
  let hall = 0;
  let frames = 0;

  const judge = (before: Float64Array) => {
    let most = 0;
    for (let k = FIRST_BIN; k < LAST_BIN; k++) if (before[k] > most) most = before[k];
    if (most < MIN_POWER) return;
    for (let k = FIRST_BIN; k < LAST_BIN; k++) {
      if (before[k] < most * STRONG_SHARE || before[k] < before[k - 1] || before[k] < before[k + 1]) continue;
      const fallenDb = -10 * Math.log10((power[k] + 1e-12) / before[k]);
      falls[Math.round(clamp(fallenDb, 0, DEEPEST_DB))]++;
      count++;
      if (fallenDb >= ENDING_DB) endings++;
    }
    if (endings < MIN_ENDINGS) return;
    hall = clamp((DRY_DB - farthest(falls, count)) / (DRY_DB - HALL_DB), 0, 1);
  };

  return {
    latencySamples: SIZE,
    frame(input, at, output) {
      for (let i = 0; i < SIZE; i++) {
        time[2 * i] = input[at + i] * window[i];
        time[2 * i + 1] = 0;
      }
      transform.forward(spectrum, time);
      for (let k = 0; k <= ROOM_HOP; k++) power[k] = spectrum[2 * k] ** 2 + spectrum[2 * k + 1] ** 2;
      const before = past[frames % DELAY_FRAMES];
      frames++;
      judge(before);
      const faded = HALL_SHARE * hall * fade;
      for (let k = 0; k <= ROOM_HOP; k++) {
        const gain = Math.max(FLOOR, 1 - Math.sqrt((faded * before[k]) / (power[k] + 1e-20)));
        before[k] = power[k];
        spectrum[2 * k] *= gain;
        spectrum[2 * k + 1] *= gain;
      }
      // A real signal: what lies above half the rate mirrors what lies below.
      for (let k = 1; k < ROOM_HOP; k++) {
        spectrum[2 * (SIZE - k)] = spectrum[2 * k];
        spectrum[2 * (SIZE - k) + 1] = -spectrum[2 * k + 1];
      }
      transform.inverse(back, spectrum);
      for (let i = 0; i < SIZE; i++) output[at + i] += back[2 * i] * window[i];
    },
    hall: () => hall,
  };
}

/** The change in decibels that {@link FARTHEST_SHARE} of all falls exceed. */
function farthest(falls: Uint32Array, count: number): Decibels {
  let left = FARTHEST_SHARE * count;
  let db = DEEPEST_DB;
  while (db > 0 && (left -= falls[db]) > 0) db--;
  return -db;
}
