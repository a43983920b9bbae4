/** From the notes of a line to what has to be done to the sound: where each instant goes, and at what pitch. */
import { clamp, type Midi, type Seconds } from '../signal/index.ts';

/** A note with what was played and what it should sound like; seconds of the recording. */
export interface CorrectedNote {
  id: string;
  startSeconds: Seconds;
  endSeconds: Seconds;
  /** Centre of what was played. */
  midi: Midi;
  confidence: number;
  /** Centre it should have. */
  toMidi: Midi;
  toStartSeconds: Seconds;
  toEndSeconds: Seconds;
  /** 0–1 (more exaggerates): how much of the vibrato and of the slow drift stays. */
  vibratoKept: number;
  driftKept: number;
}

/** An instant of the recording and where it comes to lie. */
export interface Anchor {
  fromSeconds: Seconds;
  toSeconds: Seconds;
}

export interface TimePlan {
  /** Ascending in both. Between them time runs evenly; outside them nothing moves. Empty: nothing moves at all. */
  anchors: Anchor[];
  /** Notes that could not be given the length or place that was asked. */
  limited: string[];
}

export const MIN_STRETCH = 0.5;
export const MAX_STRETCH = 2;
/** This much of the start of a note keeps its speed: the attack is what one recognises. */
const ATTACK_SECONDS = 0.06;
const ATTACK_SHARE = 0.3;
/** Notes closer than this are joined: what parts them moves together. */
const JOINED_SECONDS = 0.03;
/** Half of the stretch at the quietest place of a gap in which a gap is made longer or shorter. */
const GIVE_SECONDS = 0.03;
/** Changes below this are none. */
const MIN_SECONDS = 1e-4;

export const isPitchChanged = (note: CorrectedNote): boolean =>
  Math.abs(note.toMidi - note.midi) > 0.002 || note.vibratoKept !== 1 || note.driftKept !== 1;

export const isTimeChanged = (note: CorrectedNote): boolean =>
  Math.abs(note.toStartSeconds - note.startSeconds) > MIN_SECONDS ||
  Math.abs(note.toEndSeconds - note.endSeconds) > MIN_SECONDS;

/**
 * Plans time for notes in order of their start. `quietestBetween` names the instant of least level between two
 * others; nothing before `fromSeconds` moves. Notes keep their order; lengths stay within 50–200 %.
 */
export function planTime(
  notes: readonly CorrectedNote[],
  quietestBetween: (fromSeconds: Seconds, toSeconds: Seconds) => Seconds,
  fromSeconds: Seconds = 0,
): TimePlan {
  if (!notes.some(isTimeChanged)) return { anchors: [], limited: [] };
  const limited = new Set<string>();
  const spans = placeSpans(notes, limited, fromSeconds);
  const anchors: Anchor[] = [];
  const add = (from: Seconds, to: Seconds) => {
    const last = anchors[anchors.length - 1];
    if (!last || (from > last.fromSeconds + 1e-6 && to > last.toSeconds + 1e-6))
      anchors.push({ fromSeconds: from, toSeconds: to });
  };
  if (fromSeconds > 0) add(fromSeconds, fromSeconds);
  notes.forEach((note, i) => {
    const { start, end } = spans[i];
    const before =
      i > 0
        ? { from: notes[i - 1].endSeconds, to: spans[i - 1].end }
        : { from: fromSeconds, to: fromSeconds };
    addGap(before, { from: note.startSeconds, to: start }, quietestBetween, add);
    add(note.startSeconds, start);
    const length = note.endSeconds - note.startSeconds;
    const attack = Math.min(ATTACK_SECONDS, length * ATTACK_SHARE, (end - start) * 0.6);
    if (Math.abs(end - start - length) > MIN_SECONDS) add(note.startSeconds + attack, start + attack);
    add(note.endSeconds, end);
  });
  const last = notes.length - 1;
  const moved = spans[last].end - notes[last].endSeconds;
  // After the last note time finds back to what it was.
  if (Math.abs(moved) > MIN_SECONDS) {
    const back = Math.max(notes[last].endSeconds, spans[last].end) + Math.abs(moved) + 4 * GIVE_SECONDS;
    add(back, back);
  }
  return { anchors, limited: [...limited] };
}

function placeSpans(
  notes: readonly CorrectedNote[],
  limited: Set<string>,
  fromSeconds: Seconds,
): { start: Seconds; end: Seconds }[] {
  const spans: { start: Seconds; end: Seconds }[] = [];
  notes.forEach((note, i) => {
    const length = note.endSeconds - note.startSeconds;
    const wanted = note.toEndSeconds - note.toStartSeconds;
    const held = clamp(wanted, length * MIN_STRETCH, length * MAX_STRETCH);
    let start = Math.max(i === 0 ? fromSeconds : 0, note.toStartSeconds);
    if (Math.abs(held - wanted) > MIN_SECONDS || start !== note.toStartSeconds) limited.add(note.id);
    const before = spans[i - 1];
    if (before) {
      const joined = note.startSeconds - notes[i - 1].endSeconds < JOINED_SECONDS;
      const earliest = before.start + (notes[i - 1].endSeconds - notes[i - 1].startSeconds) * MIN_STRETCH;
      if (start < earliest) {
        start = earliest;
        limited.add(note.id);
      }
      const gap = Math.max(0, note.startSeconds - notes[i - 1].endSeconds);
      // A joined note stays joined; one that is run into gives way.
      if (joined) {
        const moved = start - gap;
        const most = before.start + (notes[i - 1].endSeconds - notes[i - 1].startSeconds) * MAX_STRETCH;
        before.end = clamp(moved, earliest, Math.max(earliest, most));
      } else {
        before.end = Math.min(before.end, start - Math.min(gap, 0.01));
      }
    }
    spans.push({ start, end: start + held });
  });
  return spans;
}

interface Edge {
  from: Seconds;
  to: Seconds;
}

/** What lies between two notes keeps its speed, except around its quietest place. */
function addGap(
  before: Edge,
  after: Edge,
  quietestBetween: (from: Seconds, to: Seconds) => Seconds,
  add: (from: Seconds, to: Seconds) => void,
): void {
  const gap = after.from - before.from;
  const change = after.to - after.from - (before.to - before.from);
  if (gap < 2 * MIN_SECONDS || Math.abs(change) <= MIN_SECONDS) return;
  const half = Math.min(GIVE_SECONDS, gap / 3);
  if (gap + change < gap - 1.6 * half) return; // The gap is too short to leave any of it alone: all of it is shortened evenly.
  const middle = clamp(quietestBetween(before.from, after.from), before.from + half, after.from - half);
  add(middle - half, middle - half + before.to - before.from);
  add(middle + half, middle + half + after.to - after.from);
}
