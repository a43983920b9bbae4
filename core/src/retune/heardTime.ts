/** Where an instant of a recording is heard once its onsets are moved, and the way back. */
import type { Seconds } from '../signal/index.ts';
import { attackSamples, planSpans } from './stretchSound.ts';
import { correctionSpecOf, type Corrected } from './correctionSpec.ts';

export interface HeardTime {
  /** Both in seconds of the recording; outside what is shown of it nothing moves. */
  toHeard(recordedSeconds: Seconds): Seconds;
  toRecorded(heardSeconds: Seconds): Seconds;
}

/** Spans are planned in samples; at this rate that is finer than can be heard. */
const RATE_HZ = 48_000;

const AS_RECORDED: HeardTime = { toHeard: (seconds) => seconds, toRecorded: (seconds) => seconds };

interface Point {
  from: Seconds;
  to: Seconds;
}

/** Of a take that is moved by its onsets; a melody is moved note by note, so that its time as a whole does not change. */
export function heardTime(read: Corrected): HeardTime {
  const wanted = correctionSpecOf(read);
  if (wanted?.as !== 'stretch' || wanted.stretch.onsets.every((each) => each.fromSeconds === each.toSeconds))
    return AS_RECORDED;
  const { how, toSeconds } = wanted.stretch;
  const { spans } = planSpans(wanted.stretch, RATE_HZ, Math.ceil(toSeconds * RATE_HZ));
  const points: Point[] = spans.flatMap(({ from, to, outFrom, outTo }) => {
    const [taken, length] = [to - from, outTo - outFrom];
    // What keeps its speed: a whole slice, or the attack before what is stretched.
    const kept = how === 'slice' ? Math.min(taken, length) : attackSamples(taken, length, RATE_HZ);
    return [
      [from, outFrom],
      [from + kept, outFrom + kept],
      [to, outTo],
    ].map(([a, b]) => ({ from: a / RATE_HZ, to: b / RATE_HZ }));
  });
  return {
    toHeard: (seconds) => between(points, seconds, 'from', 'to'),
    toRecorded: (seconds) => between(points, seconds, 'to', 'from'),
  };
}

function between(points: readonly Point[], seconds: Seconds, here: keyof Point, there: keyof Point): Seconds {
  const last = points.at(-1);
  if (!last || seconds < points[0][here] || seconds >= last[here]) return seconds;
  const i = points.findLastIndex((point) => point[here] <= seconds);
  const [before, after] = [points[i], points[i + 1]];
  const share = (seconds - before[here]) / (after[here] - before[here]);
  return before[there] + share * (after[there] - before[there]);
}
