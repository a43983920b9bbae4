/**
 * Where notes of a chordal recording end. How clearly a key still sounds says little where it dies away, so a small network looks at what
 * comes after as well: whether the key comes back, how fast it gets softer, and whether a chord stops or begins. It says of each frame
 * whether the note still sounds; the end is where that fits best (fitted by bench/src/training/fitNoteEnds.ts).
 */
import { logOddsOf } from '../smallNetwork.ts';
import type { Activations } from './activations.ts';
import { KEYS } from './network.ts';
import type { FoundNote } from './noteContext.ts';
import weights from './noteEndWeights.json' with { type: 'json' };

/** The end lies within so many frames of where it was found: 2 s. */
const REACH_FRAMES = 172;
/** A note lasts for at least so many frames. */
const MIN_FRAMES = 4;
/** The loudest of so many frames from the start on is the level of the note: 116 ms. */
const LEVEL_FRAMES = 10;
/** A start and a release are spread over so many frames to each side. */
const SPREAD_FRAMES = 3;
/** More starts and releases at a time than this say no more. */
const MOST_STARTS = 3;
const MOST_RELEASES = 4;
/** Behind this much of a note (1 s) it does not matter how long it lasts already: organs hold for as long as they like. */
const LONG_FRAMES = 86;

/** What all notes together do in each frame. */
interface Movement {
  /** Sum of the onset activations. */
  starts: Float32Array;
  /** The most of it nearby. */
  startsNear: Float32Array;
  /** Sum of what sounds shortly before and no more shortly after. */
  releases: Float32Array;
}

/** The frame behind the last of each note. @param notes in order of their start */
export function noteEnds(notes: readonly FoundNote[], activations: Activations): number[] {
  const movement = movementOf(activations);
  return spansOf(notes, activations.frames).map(({ fromFrame, toFrame }, i) => {
    // Up to each frame the sum of what speaks for sounding in it.
    let [end, sum, most] = [fromFrame, 0, 0];
    const inputs = endInputs(notes[i], fromFrame, toFrame, activations, movement);
    for (const [k, each] of inputs.entries()) {
      sum += logOddsOf(each, weights);
      if (sum > most) [end, most] = [fromFrame + k + 1, sum];
    }
    return end;
  });
}

/** For fitting: of each note the frames among which its end lies, and what the network looks at in each of them. */
export function endChoices(notes: readonly FoundNote[], activations: Activations) {
  const movement = movementOf(activations);
  return spansOf(notes, activations.frames).map(({ fromFrame, toFrame }, i) => ({
    fromFrame,
    inputs: endInputs(notes[i], fromFrame, toFrame, activations, movement),
  }));
}

/** From the frame up to which a note sounds whatever is said to the one up to which it can. */
function spansOf(notes: readonly FoundNote[], frames: number): { fromFrame: number; toFrame: number }[] {
  const nextStarts = new Map<number, number>();
  return [...notes]
    .reverse()
    .map(({ key, startFrame, endFrame }) => {
      const toFrame = Math.min(nextStarts.get(key) ?? frames, endFrame + REACH_FRAMES);
      nextStarts.set(key, startFrame);
      return {
        fromFrame: Math.min(toFrame, Math.max(startFrame + MIN_FRAMES, endFrame - REACH_FRAMES)),
        toFrame,
      };
    })
    .reverse();
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
    starts[t] = started / 255;
    releases[t] = released / 255;
  }
  const startsNear = starts.map((_, t) => {
    let most = 0;
    for (let i = Math.max(0, t - SPREAD_FRAMES); i <= Math.min(frames - 1, t + SPREAD_FRAMES); i++)
      most = Math.max(most, starts[i]);
    return most;
  });
  return { starts, startsNear, releases };
}

function endInputs(
  { key, startFrame }: FoundNote,
  fromFrame: number,
  toFrame: number,
  { frames, active, level }: Activations,
  { starts, startsNear, releases }: Movement,
): Float32Array[] {
  const activeAt = (t: number) => (t >= 0 && t < frames ? active[t * KEYS + key] / 255 : 0);
  const levelAt = (t: number) => level[Math.max(0, Math.min(frames - 1, t)) * KEYS + key];
  const meanActive = (first: number, last: number) => {
    let sum = 0;
    for (let t = first; t <= last; t++) sum += activeAt(t);
    return sum / (last - first + 1);
  };
  const startsAt = (value: number) => Math.min(MOST_STARTS, value) / MOST_STARTS;
  const releasesAt = (...at: number[]) =>
    Math.min(MOST_RELEASES, Math.max(...at.map((t) => releases[t] ?? 0))) / MOST_RELEASES;
  let loudest = 0;
  for (let t = startFrame; t < Math.min(frames, startFrame + LEVEL_FRAMES); t++)
    loudest = Math.max(loudest, levelAt(t));
  return Array.from({ length: toFrame - fromFrame }, (_, k) => {
    const t = fromFrame + k;
    return Float32Array.of(
      activeAt(t),
      meanActive(t - 4, t - 1),
      meanActive(t + 1, t + 4),
      meanActive(t + 5, t + 12),
      meanActive(t + 13, t + 30),
      (levelAt(t) - loudest) / 40,
      (levelAt(t + 3) - levelAt(t - 3)) / 20,
      (levelAt(t + 10) - levelAt(t - 2)) / 20,
      Math.log(Math.min(LONG_FRAMES, t - startFrame)),
      startsAt(startsNear[t]),
      startsAt(starts[t + 5] ?? 0),
      loudest / 255,
      releasesAt(t),
      releasesAt(t + 2, t + 4, t + 6),
      releasesAt(t - 2, t - 4, t - 6),
      (Math.max(levelAt(t + 4), levelAt(t + 8), levelAt(t + 12)) - levelAt(t - 1)) / 20,
    );
  });
}
