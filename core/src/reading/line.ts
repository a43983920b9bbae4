import type { Midi, Seconds } from '../signal/index.ts';

/** The measured pitch over time. */
export interface Contour {
  hopSeconds: Seconds;
  /**
   * Fundamental frequency per frame, which is centred on i · hopSeconds. Negative (the convention of mir_eval): nothing
   * seems to sound, and if something does, then at this frequency. 0: no pitch at all.
   */
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
