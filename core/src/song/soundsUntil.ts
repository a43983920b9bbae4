/** Passages that follow each other as they do in their recording: where the sound of one goes on in the next. */
import type { Seconds } from '../signal/index.ts';
import { placedRecordings, soundingSpans, type PlacedRecording } from './placed.ts';
import type { RecordingPart } from './schema.ts';
import type { TimeMap } from './timeMap.ts';

/** A cut on a tick is this near to where its recording goes on. */
const NEAR_SECONDS = 0.004;

/**
 * Up to which second of their recordings the passages of a part sound, by their ids: to their own ends, or to that of the last
 * of those that follow as if they had never been parted. A note that was sung across a cut is as long as it is heard.
 */
export function soundsUntil(part: RecordingPart, time: TimeMap): ReadonlyMap<string, Seconds> {
  const spans = soundingSpans(part, time).map((span) => ({
    ...span,
    startSeconds: span.originSeconds + span.fromSeconds,
  }));
  return new Map(placedRecordings(part).map((passage) => [passage.id, endOf(passage, spans, time)] as const));
}

function endOf(
  passage: PlacedRecording,
  spans: readonly (ReturnType<typeof soundingSpans>[number] & { startSeconds: Seconds })[],
  time: TimeMap,
): Seconds {
  const { offsetSeconds, durationSeconds, startTicks, takeId } = passage;
  const own = offsetSeconds + durationSeconds;
  const startSeconds = time.secondsAt(startTicks);
  let [low, high] = [0, spans.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (spans[middle].startSeconds <= startSeconds + NEAR_SECONDS) low = middle + 1;
    else high = middle;
  }
  const span = spans[low - 1];
  // What sounds at another speed is made anew: its notes end where it does.
  const within =
    span?.takeId === takeId &&
    !span.warp &&
    Math.abs(span.originSeconds - (startSeconds - offsetSeconds)) < NEAR_SECONDS;
  return within ? Math.max(own, span.toSeconds) : own;
}
