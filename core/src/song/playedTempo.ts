/** A tempo that goes as a recording was played: the beats of the song lie where it has them. */
import {
  evenSpacing,
  median,
  straightened,
  type LinePoint,
  type Seconds,
  type Ticks,
} from '../signal/index.ts';
import { firstDownbeat, isSameBeat, type HeardBeats } from './heardBeats.ts';
import { courseOf, createPassageTime } from './passageTime.ts';
import {
  MAX_MAP_ENTRIES,
  TICKS_PER_QUARTER,
  type PassageClock,
  type RecordingPassage,
  type TempoEntry,
} from './schema.ts';
import { SAME_PLACE_SECONDS } from './tempoChange.ts';
import { FASTEST_BPM, SLOWEST_BPM } from './tempoPoints.ts';
import { beatTicksOf, type Metre, type TimeMap } from './timeMap.ts';

/** So near to where a beat was heard that of the song lies: beats are read to 12 ms, and nobody plays them evenly to less. */
const NEAR_SECONDS = 0.025;

/** As few tempi as keep every beat near to where it was heard. */
export interface PlayedTempo {
  /** Each from a beat on, counted from the first. */
  entries: { beat: number; bpm: number }[];
  slowestBpm: number;
  fastestBpm: number;
  /** Half of the beats lie further than this from those of one tempo. */
  apartSeconds: Seconds;
}

/** Undefined where one tempo says all there is. */
export function playedTempo({ beats }: HeardBeats): PlayedTempo | undefined {
  if (beats.length < 4) return undefined;
  const apartSeconds = apartFromEven(beats);
  const points = straightBeats(beats);
  if (apartSeconds < NEAR_SECONDS || points.length === 2 || points.length > MAX_MAP_ENTRIES) return undefined;
  const entries = points.slice(1).map((to, i) => {
    const from = points[i];
    return { beat: from.x, bpm: (60 * (to.x - from.x)) / (to.y - from.y) };
  });
  const bpms = entries.map(({ bpm }) => bpm);
  return {
    entries,
    slowestBpm: Math.min(...bpms),
    fastestBpm: Math.max(...bpms),
    apartSeconds,
  };
}

const straightBeats = (beats: readonly Seconds[]): LinePoint[] =>
  straightened(
    beats.map((y, x) => ({ x, y })),
    NEAR_SECONDS,
  );

/** From the even beats that lie best (least squares). */
function apartFromEven(beats: readonly Seconds[]): Seconds {
  const middle = (beats.length - 1) / 2;
  const mean = beats.reduce((sum, at) => sum + at, 0) / beats.length;
  const beatSeconds = evenSpacing(beats);
  return median(beats.map((at, i) => Math.abs(at - mean - beatSeconds * (i - middle))));
}

export interface PlayedFrame {
  tempoMap: TempoEntry[];
  /** By so much everything recorded moves, for the first bar line to lie on one of the song. */
  laterSeconds: Seconds;
}

/**
 * The tempo map of a song whose beats are those that were heard.
 * @param heard in seconds of the song as it is
 * @param earliestSeconds where the first of what moves along begins: not before the song
 */
export function playedFrame(
  heard: HeardBeats,
  { entries }: PlayedTempo,
  metre: Metre,
  earliestSeconds: Seconds,
): PlayedFrame {
  const beatTicks = beatTicksOf(metre);
  const barTicks = (metre.beats * 4 * TICKS_PER_QUARTER) / metre.unit;
  const [{ bpm }] = entries;
  const first = firstDownbeat(heard);
  const laterWith = (firstBeatTicks: Ticks) => ((firstBeatTicks / beatTicks) * 60) / bpm - heard.beats[0];
  const isAllowed = (bar: number) => {
    const firstBeatTicks = bar * barTicks - first * beatTicks;
    return firstBeatTicks >= 0 && earliestSeconds + laterWith(firstBeatTicks) >= -SAME_PLACE_SECONDS;
  };
  // The nearest bar line that lets nothing begin before the song.
  let bar = Math.max(0, Math.round(((heard.beats[0] * bpm) / 60 + first) / (barTicks / beatTicks)));
  while (!isAllowed(bar)) bar++;
  const firstBeatTicks = bar * barTicks - first * beatTicks;
  const ticksOf = (beat: number) => firstBeatTicks + beat * beatTicks;
  const quarters = (each: number) => (each * beatTicks) / TICKS_PER_QUARTER;
  return {
    tempoMap: [
      { startTicks: 0, bpm: quarters(bpm) },
      ...entries.slice(1).map((entry) => ({ startTicks: ticksOf(entry.beat), bpm: quarters(entry.bpm) })),
    ],
    laterSeconds: Math.max(laterWith(firstBeatTicks), -earliestSeconds),
  };
}

/** What a passage is set to that follows the song's tempo with the beats of its recording, and where it begins then. */
export interface FollowingBeats {
  startTicks: Ticks;
  clock: PassageClock;
}

/**
 * Lets the beats of a recording lie on those of the song, its first bar line in the passage on that which is nearest.
 * @param heard in seconds of the recording, at least two beats
 * @param metre that its beats are counted in
 */
export function followingBeats(
  passage: RecordingPassage,
  heard: HeardBeats,
  metre: Metre,
  time: TimeMap,
): FollowingBeats {
  const { offsetSeconds } = passage;
  const beatTicks = beatTicksOf(metre);
  const played = straightBeats(heard.beats).map(({ x, y }) => ({ seconds: y, ticks: x * beatTicks }));
  const [first, last] = [played[0], played[played.length - 1]];
  const ticksPerSecond = (last.ticks - first.ticks) / (last.seconds - first.seconds);
  const bpm = Math.max(SLOWEST_BPM, Math.min(FASTEST_BPM, (60 * ticksPerSecond) / TICKS_PER_QUARTER));
  const clock = { keeps: 'song' as const, bpm, played };
  const bars = heard.downbeats.filter((at) => at >= offsetSeconds || isSameBeat(at, offsetSeconds));
  const barLine = bars.at(0) ?? heard.beats[0];
  const barLineTicks = beatTicks * heard.beats.findIndex((at) => isSameBeat(at, barLine));
  const before = barLineTicks - courseOf(clock).ticksAt(offsetSeconds);
  const now = createPassageTime(passage, time).toTicks(barLine);
  const { bar } = time.barAt(Math.round(now));
  const starts = [bar, bar + 1].map((each) => time.barStartTicks(each));
  const nearest = now - starts[0] < starts[1] - now ? 0 : 1;
  let startTicks = starts[nearest] - before;
  for (let next = bar + nearest + 1; startTicks < 0; next++) startTicks = time.barStartTicks(next) - before;
  return { startTicks: Math.round(startTicks), clock };
}
