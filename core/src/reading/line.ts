import type { Midi, Seconds } from '../signal/index.ts';

/** The measured pitch over time. */
export interface Contour {
  hopSeconds: Seconds;
  /** Fundamental frequency per frame, 0 where nothing is voiced. Frame i is centred on i · hopSeconds. */
  f0Hz: Float32Array;
  /** How sure the frame's voicing and pitch are, 0–1. */
  confidence: Float32Array;
}

/** A note as it was played, found in a recording. */
export interface ReadNote {
  startSeconds: Seconds;
  endSeconds: Seconds;
  /** Robust centre of the stable part, with cents. */
  midi: Midi;
  /** 1–127 from loudness, see noteMeasures. */
  velocity: number;
  /** Probability that the note is right, 0–1. */
  confidence: number;
}
