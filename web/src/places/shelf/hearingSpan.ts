/** Where an item is heard with the song, before anybody takes it. */
import { itemLengthTicks, type ShelfItem } from '@plundra/core/shelf';
import { TICKS_PER_QUARTER, type TimeMap } from '@plundra/core/song';

/** How the song plays, or rests. */
export interface PlayingNow {
  positionSeconds: number;
  playing: boolean;
  /** The range that goes round; null: none does. */
  loop: { startSeconds: number; endSeconds: number } | null;
  endSeconds: number;
}

export interface HearingSpan {
  atTicks: number;
  untilTicks: number;
  /** Where the playhead must go first, for it to be heard at all. */
  seekSeconds?: number;
}

/** So long before a bar it is still made ready for it. */
const READY_SECONDS = 0.25;
/** It is heard at least for so many of its own lengths, also behind the end of the song. */
const HEARD_TIMES = 2;
const NEAR_SECONDS = 0.01;

/** From the next bar, to the end of the loop or of the song. */
export function hearingSpan(item: ShelfItem, now: PlayingNow, time: TimeMap): HearingSpan {
  const { positionSeconds, playing, loop } = now;
  const endSeconds = loop?.endSeconds ?? now.endSeconds;
  let atTicks = nextBarTicks(time, positionSeconds + (playing ? READY_SECONDS : 0));
  let seekSeconds: number | undefined;
  if (time.secondsAt(atTicks) >= endSeconds - NEAR_SECONDS) {
    // Nothing would be heard any more: from the start of what is played.
    const start = loop?.startSeconds ?? 0;
    atTicks = Math.round(time.ticksAt(start));
    if (!playing || !loop) seekSeconds = start;
  }
  const length = itemLengthTicks(item) ?? 4 * TICKS_PER_QUARTER;
  const endTicks = Math.round(time.ticksAt(endSeconds));
  // A recording that is no loop is heard once.
  const untilTicks =
    item.kind === 'recording' ? atTicks : Math.max(endTicks, loop ? 0 : atTicks + HEARD_TIMES * length);
  return { atTicks, untilTicks, ...(seekSeconds !== undefined && { seekSeconds }) };
}

/** The first bar line at a time or after it. */
export function nextBarTicks(time: TimeMap, seconds: number): number {
  const ticks = Math.round(time.ticksAt(seconds));
  const { bar } = time.barAt(ticks);
  const start = time.barStartTicks(bar);
  return start >= ticks - 1 ? start : time.barStartTicks(bar + 1);
}
