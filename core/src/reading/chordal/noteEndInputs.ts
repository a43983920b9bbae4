/**
 * What tells where a note of a chordal recording ends: how its key and its harmonics sound from its start until well behind where it may
 * end, what sounds and starts on the keys that share harmonics with it, and what all notes together do.
 */
import type { Activations } from './activations.ts';
import { KEYS } from './network.ts';
import type { FoundNote } from './noteContext.ts';

/** Two frames are taken together: 23 ms. Ends are asked for within 50. */
export const END_STEP_FRAMES = 2;
/** The end lies within so many frames of where it was found: 1 s before, 2 s behind. */
const BEFORE_FRAMES = 86;
const BEHIND_FRAMES = 172;
/** A note lasts for at least so many frames. */
const MIN_FRAMES = 4;
/** The network sees so many frames to each side. */
const SEEN_FRAMES = 62;
/** The loudest of so many frames from the start on is the level of the note: 116 ms. */
const LEVEL_FRAMES = 10;
/** A release is spread over so many frames to each side. */
const SPREAD_FRAMES = 3;
/** More starts and releases at a time than this say no more. */
const MOST_MOVED = 6;
/** Behind this much of a note (1 s) it does not matter how long it lasts already: organs hold for as long as they like. */
const LONG_FRAMES = 86;

/** Keys whose sounding says something of a note, in semitones from its own: they have it, or it has them, as a harmonic. */
const SOUNDING = [0, -12, 12, -19, 19, -24];
const STARTING = [0, -12, 12];
const LEVELS = [0, -12];
/** Levels of single partials, and of what lies beside the lowest. */
const PARTIALS = [0, 12, 19, 24, -1, 1];

export const END_INPUTS = SOUNDING.length + STARTING.length + LEVELS.length + PARTIALS.length + 11;

/** Where a note may end, and what is looked at to tell. */
export interface EndChoice {
  /** Frame of the first row of inputs. */
  firstFrame: number;
  /** The note sounds up to here whatever is said … */
  fromFrame: number;
  /** … and no longer than up to here. */
  toFrame: number;
  /** Steps × {@link END_INPUTS}. */
  inputs: Float32Array;
}

/** What all notes together do in each frame: how many start, and how many sound shortly before and no more shortly after. */
interface Movement {
  starts: Float32Array;
  releases: Float32Array;
}

/** @param notes in order of their start */
export function endChoices(notes: readonly FoundNote[], activations: Activations): EndChoice[] {
  const movement = movementOf(activations);
  const topLevel = activations.level.reduce((most, value) => Math.max(most, value), 0);
  const { frames } = activations;
  const nextStarts = new Map<number, number>();
  const choices = new Array<EndChoice>(notes.length);
  for (let i = notes.length - 1; i >= 0; i--) {
    const { key, startFrame, endFrame } = notes[i];
    const toFrame = Math.min(nextStarts.get(key) ?? frames, endFrame + BEHIND_FRAMES);
    const fromFrame = Math.min(toFrame, Math.max(startFrame + MIN_FRAMES, endFrame - BEFORE_FRAMES));
    const firstFrame = Math.max(startFrame, fromFrame - SEEN_FRAMES);
    const lastFrame = Math.min(frames, toFrame + SEEN_FRAMES);
    nextStarts.set(key, startFrame);
    choices[i] = {
      firstFrame,
      fromFrame,
      toFrame,
      inputs: inputsOf(notes[i], firstFrame, lastFrame, toFrame, topLevel, activations, movement),
    };
  }
  return choices;
}

function movementOf({ frames, active, onset }: Activations): Movement {
  const starts = new Float32Array(frames);
  const releases = new Float32Array(frames);
  for (let t = 0; t < frames; t++) {
    const before = Math.max(0, t - SPREAD_FRAMES) * KEYS;
    const after = Math.min(frames - 1, t + SPREAD_FRAMES) * KEYS;
    let [started, released] = [0, 0];
    for (let key = 0; key < KEYS; key++) {
      started += onset[t * KEYS + key];
      released += Math.max(0, active[before + key] - active[after + key]);
    }
    starts[t] = Math.min(MOST_MOVED, started / 255) / MOST_MOVED;
    releases[t] = Math.min(MOST_MOVED, released / 255) / MOST_MOVED;
  }
  return { starts, releases };
}

function inputsOf(
  { key, startFrame }: FoundNote,
  firstFrame: number,
  lastFrame: number,
  toFrame: number,
  topLevel: number,
  { frames, active, onset, level, attack }: Activations,
  { starts, releases }: Movement,
): Float32Array {
  /** The loudest of the note's beginning. */
  const loudest = (values: Uint8Array, step: number) => {
    let most = 0;
    for (let t = startFrame; t < Math.min(frames, startFrame + LEVEL_FRAMES); t++)
      most = Math.max(most, at(values, t, key + step));
    return most;
  };
  const [levelTop, attackTop, octaveTop] = [loudest(level, 0), loudest(attack, 0), loudest(attack, 12)];
  const steps = Math.floor((lastFrame - firstFrame) / END_STEP_FRAMES);
  const inputs = new Float32Array(steps * END_INPUTS);
  let k = 0;
  for (let step = 0; step < steps; step++) {
    const t = firstFrame + step * END_STEP_FRAMES;
    const mean = (values: Uint8Array, semitones: number) =>
      (at(values, t, key + semitones) + at(values, t + 1, key + semitones)) / 510;
    const most = (values: Uint8Array, semitones: number) =>
      Math.max(at(values, t, key + semitones), at(values, t + 1, key + semitones)) / 255;
    for (const semitones of SOUNDING) inputs[k++] = mean(active, semitones);
    for (const semitones of STARTING) inputs[k++] = most(onset, semitones);
    for (const semitones of LEVELS) inputs[k++] = mean(level, semitones);
    for (const semitones of PARTIALS) inputs[k++] = mean(attack, semitones);
    inputs[k++] = Math.max(mean(active, -1), mean(active, 1));
    inputs[k++] = (starts[t] + starts[t + 1]) / 2;
    inputs[k++] = (releases[t] + releases[t + 1]) / 2;
    // Levels are in half decibels.
    inputs[k++] = (255 * mean(level, 0) - levelTop) / 80;
    inputs[k++] = (255 * mean(attack, 0) - attackTop) / 80;
    inputs[k++] = (255 * mean(attack, 12) - octaveTop) / 80;
    inputs[k++] = (255 * mean(level, 0) - topLevel) / 160;
    inputs[k++] = Math.log1p(Math.min(LONG_FRAMES, t - startFrame)) / 4.5;
    inputs[k++] = Math.log1p(t - startFrame) / 6;
    inputs[k++] = t >= toFrame ? 1 : 0;
    inputs[k++] = (key - 40) / 40;
  }
  return inputs;
}

const at = (values: Uint8Array, frame: number, key: number) =>
  key >= 0 && key < KEYS ? values[frame * KEYS + key] : 0;
