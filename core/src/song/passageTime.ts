/**
 * Where the seconds of a recording lie in the song, for one passage: it keeps its own time, at the speed it was recorded or
 * another, or it follows the song's tempo.
 */
import { sampledCurve, straightened, type Seconds, type Ticks } from '../signal/index.ts';
import { coursePlayed } from './played.ts';
import { TICKS_PER_QUARTER, type PassageClock, type Played, type RecordingPassage } from './schema.ts';
import type { TimeMap } from './timeMap.ts';

/** All four go on beyond the window in the same way. */
export interface PassageTime {
  /** From seconds of the recording to seconds of the song, and back. */
  toSong(recordedSeconds: Seconds): Seconds;
  toRecorded(songSeconds: Seconds): Seconds;
  /** From seconds of the recording to ticks of the song, and back. */
  toTicks(recordedSeconds: Seconds): Ticks;
  toSeconds(ticks: Ticks): Seconds;
}

export function createPassageTime(
  { startTicks, offsetSeconds, clock }: Pick<RecordingPassage, 'startTicks' | 'offsetSeconds' | 'clock'>,
  time: TimeMap,
): PassageTime {
  const start = time.secondsAt(startTicks);
  if (clock?.keeps === 'song') {
    const { toTicks, toSeconds } = followingTicks({ startTicks, offsetSeconds }, clock);
    return {
      toTicks,
      toSeconds,
      toSong: (recorded) => time.secondsAt(toTicks(recorded)),
      toRecorded: (song) => toSeconds(time.ticksAt(song)),
    };
  }
  const speed = clock?.speed ?? 1;
  // Second 0 of the recording at its own speed: sums and differences of it are exact where a passage is only moved.
  const origin = start - offsetSeconds;
  const toSong =
    speed === 1
      ? (recorded: Seconds) => origin + recorded
      : (recorded: Seconds) => start + (recorded - offsetSeconds) / speed;
  const toRecorded =
    speed === 1
      ? (song: Seconds) => song - origin
      : (song: Seconds) => offsetSeconds + (song - start) * speed;
  return {
    toSong,
    toRecorded,
    toTicks: (recorded) => time.ticksAt(toSong(recorded)),
    toSeconds: (ticks) => toRecorded(time.secondsAt(ticks)),
  };
}

type FollowingClock = Extract<PassageClock, { keeps: 'song' }>;

/** How far into the music the seconds of a recording that follows are, in ticks from anywhere, and back. */
export interface Course {
  ticksAt(recordedSeconds: Seconds): Ticks;
  secondsAt(ticks: Ticks): Seconds;
}

export function courseOf({ bpm, played }: FollowingClock): Course {
  if (played) return coursePlayed(played);
  const ticksPerSecond = ticksPerRecordedSecond(bpm);
  return { ticksAt: (seconds) => seconds * ticksPerSecond, secondsAt: (ticks) => ticks / ticksPerSecond };
}

/** Where a passage that follows the tempo lies, whatever that is. */
export function followingTicks(
  { startTicks, offsetSeconds }: Pick<RecordingPassage, 'startTicks' | 'offsetSeconds'>,
  clock: FollowingClock,
): Pick<PassageTime, 'toTicks' | 'toSeconds'> {
  const course = courseOf(clock);
  const before = course.ticksAt(offsetSeconds);
  return {
    toTicks: (recorded) => startTicks + course.ticksAt(recorded) - before,
    toSeconds: (ticks) => course.secondsAt(ticks - startTicks + before),
  };
}

/** @param bpm of the recording, in quarter notes a minute as in the tempo map */
const ticksPerRecordedSecond = (bpm: number): number => (bpm / 60) * TICKS_PER_QUARTER;

/** Whether a passage sounds faster or slower than it was recorded. */
export function isWarped({ clock }: Pick<RecordingPassage, 'clock'>): boolean {
  return clock !== undefined && (clock.keeps === 'song' || clock.speed !== 1);
}

/** How it was played is long: two pieces of one passage mostly hold the same. */
export const isSameClock = (a: PassageClock | undefined, b: PassageClock | undefined): boolean =>
  a === b || JSON.stringify(a) === JSON.stringify(b);

export const SLOWEST_SPEED = 0.25;
export const FASTEST_SPEED = 4;

/** Bends of a course are known to this; what lies nearer to even than {@link STRAIGHT_TICKS} is even. */
const LOOK = { every: 0.125, finest: 0.001, bend: 0.05 };
const STRAIGHT_TICKS = 0.2;

/**
 * The clock of a passage whose recording goes along with the song as `ticksAt` says: played evenly where that is even.
 * @param ticksAt rises over the passage
 */
export function clockAlong(
  { offsetSeconds, durationSeconds }: Pick<RecordingPassage, 'offsetSeconds' | 'durationSeconds'>,
  ticksAt: (recordedSeconds: Seconds) => Ticks,
): FollowingClock {
  const window = [offsetSeconds, offsetSeconds + durationSeconds] as const;
  const points = straightened(sampledCurve(ticksAt, window, LOOK), STRAIGHT_TICKS);
  const lengthTicks = points[points.length - 1].y - points[0].y;
  const bpm = heldBpm(asItWas(((lengthTicks / TICKS_PER_QUARTER) * 60) / durationSeconds));
  if (points.length === 2) return { keeps: 'song', bpm };
  const played = points.map(({ x, y }) => ({ seconds: asItWas(x), ticks: asItWas(y) }));
  return { keeps: 'song', bpm, played };
}

/** The clock that lets a passage keep its own time or follow the song's, and sound from where to where it does now. */
export function clockKeeping(
  passage: RecordingPassage,
  keeps: PassageClock['keeps'],
  time: TimeMap,
): PassageClock | null {
  const { toTicks } = createPassageTime(passage, time);
  // All of it goes on sounding when it does, in a tempo that changes as well.
  if (keeps === 'song' && passage.durationSeconds > 0) return clockAlong(passage, toTicks);
  const clock: PassageClock = keeps === 'song' ? { keeps, bpm: 120 } : { keeps, speed: 1 };
  return clockForLength(
    { ...passage, clock },
    toTicks(passage.offsetSeconds + passage.durationSeconds),
    time,
  );
}

/** The clock that makes a passage as long as asked, in the way it has now: with the song's tempo or at another speed. */
export function clockForLength(
  passage: RecordingPassage,
  toEndTicks: Ticks,
  time: TimeMap,
): PassageClock | null {
  const { clock, startTicks, offsetSeconds, durationSeconds } = passage;
  if (clock?.keeps === 'song') {
    const endTicks = followingTicks(passage, clock).toTicks(offsetSeconds + durationSeconds);
    return slowedBy(clock, (toEndTicks - startTicks) / (endTicks - startTicks));
  }
  const seconds = time.secondsAt(toEndTicks) - time.secondsAt(startTicks);
  const speed = Math.max(SLOWEST_SPEED, Math.min(FASTEST_SPEED, asItWas(durationSeconds / seconds)));
  return speed === 1 ? null : { keeps: 'own', speed };
}

/** What was played as `played` says, at another middle tempo. */
export function clockPlayed(played: Played | undefined, bpm: number): FollowingClock {
  if (!played) return { keeps: 'song', bpm };
  const [first, last] = [played[0], played[played.length - 1]];
  const middle = ((last.ticks - first.ticks) / TICKS_PER_QUARTER) * (60 / (last.seconds - first.seconds));
  return slowedBy({ keeps: 'song', bpm: middle, played }, bpm / middle);
}

/** So many times as long in the song. */
function slowedBy({ bpm, played }: FollowingClock, factor: number): FollowingClock {
  const next = heldBpm(asItWas(bpm * factor));
  const stretched: Played | undefined = played?.map(({ seconds, ticks }) => ({
    seconds,
    ticks: asItWas((ticks * next) / bpm),
  }));
  return { keeps: 'song', bpm: next, ...(stretched && { played: stretched }) };
}

const heldBpm = (bpm: number) => Math.max(10, Math.min(400, bpm));

/** What is calculated there and back is the number it was. */
const asItWas = (value: number) => Math.round(value * 1e9) / 1e9;
