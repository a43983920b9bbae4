/**
 * Where the seconds of a recording lie in the song, for one passage: it keeps its own time, at the speed it was recorded or
 * another, or it follows the song's tempo.
 */
import type { Seconds, Ticks } from '../signal/index.ts';
import { TICKS_PER_QUARTER, type PassageClock, type RecordingPassage } from './schema.ts';
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
    const ticksPerSecond = ticksPerRecordedSecond(clock.bpm);
    const toTicks = (recorded: Seconds) => startTicks + (recorded - offsetSeconds) * ticksPerSecond;
    const toSeconds = (ticks: Ticks) => offsetSeconds + (ticks - startTicks) / ticksPerSecond;
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

/** @param bpm of the recording, in quarter notes a minute as in the tempo map */
export const ticksPerRecordedSecond = (bpm: number): number => (bpm / 60) * TICKS_PER_QUARTER;

/** Whether a passage sounds faster or slower than it was recorded. */
export function isWarped({ clock }: Pick<RecordingPassage, 'clock'>): boolean {
  return clock !== undefined && (clock.keeps === 'song' || clock.speed !== 1);
}

export const SLOWEST_SPEED = 0.25;
export const FASTEST_SPEED = 4;

/** The clock that lets a passage keep its own time or follow the song's, and sound from where to where it does now. */
export function clockKeeping(
  passage: RecordingPassage,
  keeps: PassageClock['keeps'],
  time: TimeMap,
): PassageClock | null {
  const { toTicks } = createPassageTime(passage, time);
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
  const { clock, startTicks, durationSeconds } = passage;
  if (clock?.keeps === 'song') {
    const bpm = asItWas((((toEndTicks - startTicks) / TICKS_PER_QUARTER) * 60) / durationSeconds);
    return { keeps: 'song', bpm: Math.max(10, Math.min(400, bpm)) };
  }
  const seconds = time.secondsAt(toEndTicks) - time.secondsAt(startTicks);
  const speed = Math.max(SLOWEST_SPEED, Math.min(FASTEST_SPEED, asItWas(durationSeconds / seconds)));
  return speed === 1 ? null : { keeps: 'own', speed };
}

/** What is calculated there and back is the number it was. */
const asItWas = (value: number) => Math.round(value * 1e9) / 1e9;
