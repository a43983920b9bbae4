import { describe, expect, it } from 'vitest';
import type { ShelfItem } from '@plundra/core/shelf';
import { createSong, createTimeMap } from '@plundra/core/song';
import { hearingSpan, nextBarTicks, type PlayingNow } from './hearingSpan.ts';

const BAR = 3840;
/** Bars last 2 s, and the song eight of them. */
const time = createTimeMap(createSong('song', 'Ferry at Six'));
const rest: PlayingNow = { positionSeconds: 0, playing: false, loop: null, endSeconds: 16 };
/** Two bars at 100 bpm. */
const loop = {
  kind: 'loop',
  bpm: 100,
  sound: { type: 'recording', durationSeconds: 4.8 },
} as ShelfItem;
const heard = (now: Partial<PlayingNow>, item = loop) => hearingSpan(item, { ...rest, ...now }, time);

describe('where an item is heard with the song', () => {
  it('is the next bar, or this one where the playhead rests on it', () => {
    expect(heard({})).toEqual({ atTicks: 0, untilTicks: 8 * BAR });
    expect(heard({ positionSeconds: 4 }).atTicks).toBe(2 * BAR);
    expect(heard({ positionSeconds: 4.5 }).atTicks).toBe(3 * BAR);
    expect(heard({ positionSeconds: 4.5, playing: true }).atTicks).toBe(3 * BAR);
  });

  it('is the bar after where the next begins before it could be ready', () => {
    expect(heard({ positionSeconds: 5.9, playing: true }).atTicks).toBe(4 * BAR);
    expect(heard({ positionSeconds: 5.7, playing: true }).atTicks).toBe(3 * BAR);
  });

  it('goes on for two of its rounds where the song ends before', () => {
    expect(heard({ positionSeconds: 13 })).toEqual({ atTicks: 7 * BAR, untilTicks: 11 * BAR });
  });

  it('is the start where the song would be over, and the playhead goes there', () => {
    expect(heard({ positionSeconds: 15 })).toEqual({ atTicks: 0, untilTicks: 8 * BAR, seekSeconds: 0 });
    expect(heard({ endSeconds: 0 })).toEqual({ atTicks: 0, untilTicks: 4 * BAR, seekSeconds: 0 });
  });

  it('stays in the range that goes round, from its start when its last bar plays', () => {
    const range = { startSeconds: 4, endSeconds: 8 };
    expect(heard({ positionSeconds: 4.2, playing: true, loop: range })).toEqual({
      atTicks: 3 * BAR,
      untilTicks: 4 * BAR,
    });
    expect(heard({ positionSeconds: 6.5, playing: true, loop: range })).toEqual({
      atTicks: 2 * BAR,
      untilTicks: 4 * BAR,
    });
    expect(heard({ positionSeconds: 12, loop: range })).toMatchObject({ atTicks: 2 * BAR, seekSeconds: 4 });
  });

  it('is heard once where it does not go round', () => {
    expect(heard({}, { ...loop, kind: 'recording' })).toEqual({ atTicks: 0, untilTicks: 0 });
  });

  it('knows bar lines to a tick', () => {
    expect(nextBarTicks(time, 2)).toBe(BAR);
    expect(nextBarTicks(time, 2.0004)).toBe(BAR);
    expect(nextBarTicks(time, 2.01)).toBe(2 * BAR);
  });
});
