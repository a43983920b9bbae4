import type { ReadNote } from './line.ts';

/** Fewer seconds of notes than this say nothing about the tuning of a recording. */
const MIN_SECONDS = 1;

/**
 * Tuning of a recording against A4 = 440 Hz in cents, −50…50: the circular mean of the notes' distances from
 * equal temperament, weighted by length and confidence, so that a guitar tuned low is not wrong on every note.
 * 0 when less than a second of notes is there.
 */
export function estimateTuning(notes: readonly ReadNote[]): number {
  let x = 0;
  let y = 0;
  let seconds = 0;
  for (const note of notes) {
    const length = Math.min(2, note.endSeconds - note.startSeconds);
    const angle = 2 * Math.PI * (note.midi - Math.floor(note.midi));
    x += Math.cos(angle) * length * note.confidence;
    y += Math.sin(angle) * length * note.confidence;
    seconds += length;
  }
  if (seconds < MIN_SECONDS) return 0;
  return Math.round((Math.atan2(y, x) / (2 * Math.PI)) * 1000) / 10;
}
