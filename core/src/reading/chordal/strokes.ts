/** Notes that belong together: strokes of a strum, and the registers of two hands. */
import { median, type Seconds } from '../../signal/index.ts';

/** What is needed of a note; pitches as MIDI notes. */
export interface StruckNote {
  id: string;
  startSeconds: Seconds;
  midi: number;
}

export interface Stroke {
  /** In order of their start. */
  ids: string[];
  startSeconds: Seconds;
  /** From its first to its last start. */
  spreadSeconds: Seconds;
  /** Down runs from the low strings to the high ones; together when hardly anything lies between. */
  direction: 'down' | 'up' | 'together';
}

/** Within a stroke the next string sounds within this. */
const LONGEST_STEP_SECONDS = 0.045;
const LONGEST_STROKE_SECONDS = 0.15;
const MIN_NOTES = 3;
/** Spread below which no ear hears a direction. */
const TOGETHER_SECONDS = 0.006;

/** Groups notes (in order of their start) that one movement of the hand struck; what is alone belongs to none. */
export function groupStrokes(notes: readonly StruckNote[]): Stroke[] {
  const strokes: Stroke[] = [];
  let group: StruckNote[] = [];
  const close = () => {
    if (group.length >= MIN_NOTES) strokes.push(strokeOf(group));
    group = [];
  };
  for (const note of notes) {
    const last = group.at(-1);
    const fits =
      last !== undefined &&
      note.startSeconds - last.startSeconds <= LONGEST_STEP_SECONDS &&
      note.startSeconds - group[0].startSeconds <= LONGEST_STROKE_SECONDS &&
      // A string is struck once.
      group.every((other) => Math.round(other.midi) !== Math.round(note.midi));
    if (!fits) close();
    group.push(note);
  }
  close();
  return strokes;
}

function strokeOf(group: readonly StruckNote[]): Stroke {
  const startSeconds = group[0].startSeconds;
  const spreadSeconds = group[group.length - 1].startSeconds - startSeconds;
  // Sign of the covariance of time and pitch: robust against one string that speaks late.
  const meanTime = group.reduce((sum, note) => sum + note.startSeconds, 0) / group.length;
  const meanMidi = group.reduce((sum, note) => sum + note.midi, 0) / group.length;
  const rising = group.reduce(
    (sum, note) => sum + (note.startSeconds - meanTime) * (note.midi - meanMidi),
    0,
  );
  return {
    ids: group.map(({ id }) => id),
    startSeconds,
    spreadSeconds,
    direction: spreadSeconds < TOGETHER_SECONDS ? 'together' : rising >= 0 ? 'down' : 'up',
  };
}

/** Over so many seconds the place of the hands is judged. */
const HANDS_SECONDS = 2;
/** The split lies between these pitches (C3 and C5) and starts at C4. */
const LOWEST_SPLIT = 48;
const HIGHEST_SPLIT = 72;
const FIRST_SPLIT = 60;

/**
 * Parts notes (in order of their start) into a lower and an upper register, as two hands or two voices: around every
 * note the split lies in the widest gap between neighbouring pitches near the last split.
 */
export function splitByRegister(notes: readonly StruckNote[]): { upper: string[]; lower: string[] } {
  const upper: string[] = [];
  const lower: string[] = [];
  let split = FIRST_SPLIT;
  let from = 0;
  let to = 0;
  for (const note of notes) {
    while (notes[from].startSeconds < note.startSeconds - HANDS_SECONDS / 2) from++;
    while (to < notes.length && notes[to].startSeconds <= note.startSeconds + HANDS_SECONDS / 2) to++;
    split = 0.7 * split + 0.3 * bestSplit(notes.slice(from, to), split);
    (note.midi >= split ? upper : lower).push(note.id);
  }
  return { upper, lower };
}

function bestSplit(around: readonly StruckNote[], before: number): number {
  const pitches = [...new Set(around.map(({ midi }) => Math.round(midi)))].sort((a, b) => a - b);
  let best = { split: before, worth: 0 };
  for (let i = 1; i < pitches.length; i++) {
    const middle = (pitches[i] + pitches[i - 1]) / 2;
    if (middle < LOWEST_SPLIT || middle > HIGHEST_SPLIT) continue;
    const worth = pitches[i] - pitches[i - 1] - 0.4 * Math.abs(middle - before);
    if (worth > best.worth) best = { split: middle, worth };
  }
  if (best.worth > 0) return best.split;
  const middle = median(pitches);
  return Math.min(HIGHEST_SPLIT, Math.max(LOWEST_SPLIT, 0.5 * before + 0.5 * middle));
}
