/** From activations to notes: peaks of the onset activation whose key then sounds. */
import { clamp } from '../../signal/index.ts';
import { HOP_SECONDS } from '../melodySettings.ts';
import type { ReadNote } from '../line.ts';
import type { Activations } from './activations.ts';
import { noteConfidences } from './confidence.ts';
import { velocitiesOf } from './loudness.ts';
import type { FoundNote } from './noteContext.ts';
import { FLOOR_DB, STEP_DB } from './frontEnd.ts';
import { KEYS, LOWEST_KEY } from './network.ts';
import { noteEnds } from './noteEnds.ts';

export interface DecodeSettings {
  /** 0–1: how little evidence is enough for a note; {@link DEFAULT_SENSITIVITY} is what scores best. */
  sensitivity: number;
  /** Only notes that start within these seconds; all by default. */
  fromSeconds?: number;
  toSeconds?: number;
}

export const DEFAULT_SENSITIVITY = 0.5;
/** Least onset probability at sensitivity 0, 0.5 and 1. */
const ONSET_THRESHOLDS = [0.7, 0.35, 0.1];
/**
 * Least confidence at sensitivity 0, 0.5 and 1. F is highest when notes are kept that are right in half as many cases as
 * the best F (Lipton, Elkan & Naryanaswamy 2014), here about 0.45.
 */
const MIN_CONFIDENCE = [0.85, 0.45, 0];
/** A start counts where no neighbour within so many frames is higher. */
const PEAK_FRAMES = 2;
/** Two starts of one key nearer than this (58 ms) are one, the likelier: strings do not speak again so soon. */
const APART_FRAMES = 5;
/** The key must sound with this probability within so many frames of the start. */
const ACTIVE_THRESHOLD = 0.45 * 255;
const ACTIVE_WITHIN_FRAMES = 10;
/** A note may end when its key was below this for so many frames, or starts again; noteEnds.ts says where it does. */
const END_THRESHOLD = 0.55 * 255;
const END_FRAMES = 3;
const MIN_FRAMES = 4;
/** A key that sounds without a start must do so for this long (186 ms), this clearly … */
const ALONE_FRAMES = 16;
const ALONE_ACTIVE = 0.75 * 255;
/** … with this share of the evidence that a start needs, unless it begins within these frames of the recording. */
const ALONE_ONSET_SHARE = 0.4;
const EDGE_FRAMES = 6;
/** The activation rises a little before a start. */
const ALONE_MARGIN_FRAMES = 2;
/** The loudest of so many frames from the start on gives the level: 116 ms. */
const LEVEL_FRAMES = 10;
/** What sounded so many frames before shows how much a start adds: 70 ms. */
const BEFORE_FRAMES = 6;

/** Notes in order of their start, at the pitches of the recording (equal temperament plus its tuning). */
export function decodeNotes(activations: Activations, settings: DecodeSettings): ReadNote[] {
  const first = Math.floor((settings.fromSeconds ?? 0) / HOP_SECONDS);
  const last = Math.ceil((settings.toSeconds ?? Infinity) / HOP_SECONDS);
  const least = betweenThree(MIN_CONFIDENCE, settings.sensitivity);
  const found = findNotes(activations, settings.sensitivity);
  const sure = noteConfidences(found).flatMap((confidence, i) =>
    confidence >= least ? [{ ...found[i], confidence }] : [],
  );
  const velocities = velocitiesOf(sure, activations);
  const ends = noteEnds(sure, activations);
  return sure.flatMap((note, i) =>
    note.startFrame >= first && note.startFrame < last
      ? [readNoteOf(activations, { ...note, endFrame: ends[i] }, note.confidence, velocities[i])]
      : [],
  );
}

/** All that could be notes, in order of their start, the lowest first. */
export function findNotes(activations: Activations, sensitivity: number): FoundNote[] {
  const { frames, onset } = activations;
  const threshold = 255 * onsetThreshold(sensitivity);
  const notes: FoundNote[] = [];
  for (let key = 0; key < KEYS; key++) {
    const starts: number[] = [];
    for (let frame = 0; frame < frames; frame++) {
      const value = onset[frame * KEYS + key];
      if (value < threshold || !isPeak(onset, frames, frame, key)) continue;
      const last = starts.at(-1);
      if (last === undefined || frame - last >= APART_FRAMES) starts.push(frame);
      else if (value > onset[last * KEYS + key]) starts[starts.length - 1] = frame;
    }
    const taken: [number, number][] = [];
    starts.forEach((start, i) => {
      const note = noteAt(activations, key, start, starts[i + 1] ?? frames);
      if (!note) return;
      taken.push([start, note.endFrame]);
      notes.push(note);
    });
    for (const [start, end] of soundingAlone(activations, key, taken, threshold)) {
      const note = noteAt(activations, key, start, end);
      if (note) notes.push(note);
    }
  }
  return notes.sort((a, b) => a.startFrame - b.startFrame || a.key - b.key);
}

/**
 * Stretches in which a key sounds although nothing started it: the recording began while it rang, or its start was
 * covered by another. `taken`: frames of the notes that were found, in order.
 */
function soundingAlone(
  { frames, active, onset }: Activations,
  key: number,
  taken: readonly [number, number][],
  threshold: number,
): [start: number, end: number][] {
  const alone: [number, number][] = [];
  // Who asks for less sensitivity wants starts that can be seen.
  const least = threshold * Math.min(1, (ALONE_ONSET_SHARE * threshold) / (255 * ONSET_THRESHOLDS[1]));
  let start = -1;
  let sum = 0;
  let evidence = 0;
  let next = 0;
  for (let frame = 0; frame <= frames; frame++) {
    while (next < taken.length && taken[next][1] <= frame) next++;
    const covered = next < taken.length && taken[next][0] <= frame + ALONE_MARGIN_FRAMES;
    const value = frame < frames && !covered ? active[frame * KEYS + key] : 0;
    if (value >= END_THRESHOLD) {
      if (start < 0) [start, sum, evidence] = [frame, 0, 0];
      sum += value;
      if (frame < start + ACTIVE_WITHIN_FRAMES) evidence = Math.max(evidence, onset[frame * KEYS + key]);
    } else if (start >= 0) {
      const length = frame - start;
      // At the very start nothing can be asked of an onset; elsewhere some of it must show.
      const enough = start <= EDGE_FRAMES || evidence >= least;
      if (length >= ALONE_FRAMES && sum >= ALONE_ACTIVE * length && enough) alone.push([start, frame]);
      start = -1;
    }
  }
  return alone;
}

/** Straight between the values at 0, 0.5 and 1. */
function betweenThree([low, middle, high]: readonly number[], sensitivity: number): number {
  const s = 2 * clamp(sensitivity, 0, 1);
  return s < 1 ? low + s * (middle - low) : middle + (s - 1) * (high - middle);
}

/** Least onset probability: exponential between the three known points. */
function onsetThreshold(sensitivity: number): number {
  const [strict, middle, loose] = ONSET_THRESHOLDS;
  const s = clamp(sensitivity, 0, 1);
  return s < 0.5 ? strict * (middle / strict) ** (2 * s) : middle * (loose / middle) ** (2 * s - 1);
}

function isPeak(onset: Uint8Array, frames: number, frame: number, key: number): boolean {
  const value = onset[frame * KEYS + key];
  for (let d = 1; d <= PEAK_FRAMES; d++) {
    // Of equals the first counts.
    if (frame - d >= 0 && onset[(frame - d) * KEYS + key] >= value) return false;
    if (frame + d < frames && onset[(frame + d) * KEYS + key] > value) return false;
  }
  return true;
}

function noteAt(activations: Activations, key: number, start: number, next: number): FoundNote | undefined {
  const { frames, active, onset, level } = activations;
  let most = 0;
  for (let frame = start; frame < Math.min(frames, start + ACTIVE_WITHIN_FRAMES); frame++)
    most = Math.max(most, active[frame * KEYS + key]);
  if (most < ACTIVE_THRESHOLD) return undefined;
  let end = start + 1;
  let quiet = 0;
  while (end < next && quiet < END_FRAMES) {
    quiet = active[end * KEYS + key] < END_THRESHOLD && end > start + 2 ? quiet + 1 : 0;
    end++;
  }
  end = Math.max(end - quiet, Math.min(next, start + MIN_FRAMES));
  let sounding = 0;
  for (let frame = start; frame < end; frame++) sounding += active[frame * KEYS + key];
  let loudest = 0;
  for (let frame = start; frame < Math.min(end, start + LEVEL_FRAMES); frame++)
    loudest = Math.max(loudest, level[frame * KEYS + key]);
  let before = 255;
  for (let frame = Math.max(0, start - BEFORE_FRAMES); frame < start - 1; frame++)
    before = Math.min(before, level[frame * KEYS + key]);
  let spread = 0;
  for (let frame = Math.max(0, start - 2); frame < Math.min(frames, start + 3); frame++)
    spread += onset[frame * KEYS + key];
  return {
    key,
    startFrame: start,
    endFrame: end,
    onset: onset[start * KEYS + key] / 255,
    sounding: sounding / (end - start) / 255,
    spread: spread / 5 / 255,
    levelDb: FLOOR_DB + STEP_DB * loudest,
    riseDb: STEP_DB * (loudest - (before === 255 ? 0 : before)),
  };
}

function readNoteOf(
  { frames, onset, tuningCents }: Activations,
  note: FoundNote,
  confidence: number,
  velocity: number,
): ReadNote {
  const { key, startFrame, endFrame } = note;
  return {
    startSeconds: Math.max(0, (startFrame + peakShift(onset, frames, startFrame, key)) * HOP_SECONDS),
    endSeconds: endFrame * HOP_SECONDS,
    midi: LOWEST_KEY + key + tuningCents / 100,
    velocity,
    confidence,
  };
}

/** Where between the frames the top lies: a parabola through three values, −0.5…0.5. */
function peakShift(onset: Uint8Array, frames: number, frame: number, key: number): number {
  if (frame === 0 || frame + 1 >= frames) return 0;
  const before = onset[(frame - 1) * KEYS + key];
  const at = onset[frame * KEYS + key];
  const after = onset[(frame + 1) * KEYS + key];
  const bend = before - 2 * at + after;
  return bend < 0 ? clamp((0.5 * (before - after)) / bend, -0.5, 0.5) : 0;
}
