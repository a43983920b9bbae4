/** What the confidence of a note of a chordal recording means. */

/** Logistic regression on the check clips (training/calibrate.py): of notes with 0.9 nine in ten are right. */
const BIAS = -3.2;
const ONSET_WEIGHT = 4.5;
const SOUNDING_WEIGHT = 2.2;

/** Probability 0–1 that a note is right, from its onset peak and the mean of its activation. */
export function noteConfidence(onset: number, sounding: number): number {
  return 1 / (1 + Math.exp(-(BIAS + ONSET_WEIGHT * onset + SOUNDING_WEIGHT * sounding)));
}
