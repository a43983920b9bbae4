/** Two lines that double or harmonise each other: which notes belong together, and what following means. */
import { median, type Cents, type Seconds } from '../signal/index.ts';

/** A note of either line in song time. */
export interface LockNote {
  id: string;
  startSeconds: Seconds;
  endSeconds: Seconds;
  midi: number;
}

export interface LockPair {
  follower: LockNote;
  leader: LockNote;
  /** Follower − leader: in time, and in pitch after octaves or a constant interval are taken away. */
  lateSeconds: Seconds;
  offCents: Cents;
}

export interface LockMatch {
  pairs: LockPair[];
  /** Notes without a partner. */
  alone: { follower: LockNote[]; leader: LockNote[] };
  /** Interval at which the follower lies, in whole semitones. */
  intervalSemitones: number;
}

/** Notes that start further apart than this are not the same. */
const FARTHEST_SECONDS = 0.25;
/** Notes further apart in pitch than this, the interval taken away, are not the same. */
const FARTHEST_SEMITONES = 1.5;
/** What a second and a semitone of distance cost; leaving a note alone costs 1. */
const COST_PER_SECOND = 5;
const COST_PER_SEMITONE = 0.6;
const ALONE_COST = 1;

/** Pairs notes in their order at the least cost (alignment by dynamic programming, Needleman & Wunsch 1970). */
export function matchLines(follower: readonly LockNote[], leader: readonly LockNote[]): LockMatch {
  const intervalSemitones = commonInterval(follower, leader);
  const cost = (a: LockNote, b: LockNote): number => {
    const seconds = Math.abs(a.startSeconds - b.startSeconds);
    const semitones = Math.abs(a.midi - b.midi - intervalSemitones);
    if (seconds > FARTHEST_SECONDS || semitones > FARTHEST_SEMITONES) return Infinity;
    return seconds * COST_PER_SECOND + semitones * COST_PER_SEMITONE;
  };
  const columns = leader.length + 1;
  const total = new Float64Array((follower.length + 1) * columns);
  const way = new Uint8Array(total.length);
  for (let j = 1; j < columns; j++) {
    total[j] = j * ALONE_COST;
    way[j] = 2;
  }
  for (let i = 1; i <= follower.length; i++) {
    total[i * columns] = i * ALONE_COST;
    way[i * columns] = 1;
    for (let j = 1; j < columns; j++) {
      const at = i * columns + j;
      const together = total[at - columns - 1] + cost(follower[i - 1], leader[j - 1]);
      const withoutFollower = total[at - columns] + ALONE_COST;
      const withoutLeader = total[at - 1] + ALONE_COST;
      total[at] = Math.min(together, withoutFollower, withoutLeader);
      way[at] = total[at] === together ? 0 : total[at] === withoutFollower ? 1 : 2;
    }
  }
  const match: LockMatch = { pairs: [], alone: { follower: [], leader: [] }, intervalSemitones };
  let [i, j] = [follower.length, leader.length];
  while (i > 0 || j > 0) {
    const step = way[i * columns + j];
    if (step === 0) {
      const [a, b] = [follower[--i], leader[--j]];
      match.pairs.unshift({
        follower: a,
        leader: b,
        lateSeconds: a.startSeconds - b.startSeconds,
        offCents: (a.midi - b.midi - intervalSemitones) * 100,
      });
    } else if (step === 1) match.alone.follower.unshift(follower[--i]);
    else match.alone.leader.unshift(leader[--j]);
  }
  return match;
}

/** The whole interval that most notes that start together have: 0 for a doubled line, 12 for one in octaves. */
function commonInterval(follower: readonly LockNote[], leader: readonly LockNote[]): number {
  const intervals: number[] = [];
  let first = 0;
  for (const note of follower) {
    while (first < leader.length && leader[first].startSeconds < note.startSeconds - FARTHEST_SECONDS)
      first++;
    for (
      let j = first;
      j < leader.length && leader[j].startSeconds <= note.startSeconds + FARTHEST_SECONDS;
      j++
    )
      intervals.push(note.midi - leader[j].midi);
  }
  const counts = new Map<number, number>();
  for (const interval of intervals) {
    const whole = Math.round(interval);
    counts.set(whole, (counts.get(whole) ?? 0) + 1);
  }
  return [...counts].sort((a, b) => b[1] - a[1] || Math.abs(a[0]) - Math.abs(b[0]))[0]?.[0] ?? 0;
}

export interface LockFigures {
  pairs: number;
  medianMs: number;
  worstMs: number;
  medianCents: Cents;
  worstCents: Cents;
}

export function lockFigures(pairs: readonly Pick<LockPair, 'lateSeconds' | 'offCents'>[]): LockFigures {
  const ms = pairs.map((pair) => Math.abs(pair.lateSeconds) * 1000);
  const cents = pairs.map((pair) => Math.abs(pair.offCents));
  return {
    pairs: pairs.length,
    medianMs: ms.length > 0 ? median(ms) : 0,
    worstMs: Math.max(0, ...ms),
    medianCents: cents.length > 0 ? median(cents) : 0,
    worstCents: Math.max(0, ...cents),
  };
}
