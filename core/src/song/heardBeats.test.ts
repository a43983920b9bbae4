import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { createRandom } from '../signal/index.ts';
import {
  barsFrom,
  countedBeats,
  evenBpm,
  firstDownbeat,
  movedBeat,
  tapsOnOnsets,
  withBeat,
  withoutBeat,
  withTaps,
  type HeardBeats,
} from './index.ts';

/** Bars of four, half a second a beat, the first bar line on the second beat. */
const heard = barsFrom({ beats: Array.from({ length: 14 }, (_, i) => 1 + i / 2) }, 1, 4);

describe('beats that were heard', () => {
  it('are counted twice and half as fast, with the same bar lines', () => {
    const some = { beats: [1, 2, 3, 4, 5, 6], downbeats: [2, 4, 6] };
    expect(countedBeats(some, 2)).toEqual({
      beats: [1, 1.5, 2, 2.5, 3, 3.5, 4, 4.5, 5, 5.5, 6],
      downbeats: [2, 4, 6],
    });
    expect(countedBeats(some, 1 / 2)).toEqual({ beats: [2, 4, 6], downbeats: [2, 4, 6] });
    expect(countedBeats(countedBeats(some, 4), 1 / 4)).toEqual(some);
  });

  it('have their bars begun with any of them, those before it too', () => {
    expect(heard.downbeats).toEqual([1.5, 3.5, 5.5, 7.5]);
    expect(barsFrom(heard, 6, 4).downbeats).toEqual([2, 4, 6]);
    expect(barsFrom(heard, 6, 3).downbeats).toEqual([1, 2.5, 4, 5.5, 7]);
    // A beat earlier than the first bar line may be before the first beat.
    expect(barsFrom(heard, -1, 4).downbeats).toEqual([2.5, 4.5, 6.5]);
  });

  it('have one tempo that lies best', () => {
    expect(evenBpm(heard.beats)).toBeCloseTo(120, 9);
    expect(evenBpm([1, 2.1, 2.9, 4])).toBeCloseTo(60 / 0.98, 9);
    expect(evenBpm([3])).toBe(0);
  });
});

describe('a beat put right', () => {
  it('goes where it is moved, not past its neighbours, and its bar with it', () => {
    const moved = movedBeat(heard, 1, 1.62, 4);
    expect(moved.beats.slice(0, 3)).toEqual([1, 1.62, 2]);
    expect(moved.downbeats).toEqual([1.62, 3.5, 5.5, 7.5]);
    expect(movedBeat(heard, 1, 3, 4).beats[1]).toBeCloseTo(1.88, 9);
    expect(movedBeat(heard, 0, -1, 4).beats[0]).toBe(0);
    expect(movedBeat(heard, 13, 40, 4).beats[13]).toBe(40);
    // Beats that were heard closer than a song can have them stay as they are.
    expect(movedBeat({ beats: [1, 1.1, 1.2], downbeats: [1] }, 1, 5, 4).beats).toEqual([1, 1.1, 1.2]);
  });

  it('that was missed lets the bars behind it begin a beat earlier, and those before it stay', () => {
    const missed = withoutBeat(heard, 6, 4);
    expect(missed.downbeats).toEqual([1.5, 3.5, 6]);
    expect(withBeat(missed, 4, 4)).toEqual(heard);
    expect(withBeat(heard, 4.05, 4)).toBe(heard);
    // Before the first bar line nothing moves.
    expect(withBeat(heard, 0.5, 4).downbeats).toEqual(heard.downbeats);
    expect(withBeat(heard, 1.25, 4).downbeats.slice(0, 2)).toEqual([1.5, 3.5]);
    expect(withoutBeat(heard, 0, 4).downbeats).toEqual(heard.downbeats);
    // Where a bar began with the one that goes, it begins with the next.
    expect(withoutBeat(heard, 1, 4).downbeats[0]).toBe(2);
    expect(withBeat({ beats: [], downbeats: [] }, 2, 4)).toEqual({ beats: [2], downbeats: [2] });
  });

  it('leaves them in order, apart, and their bars whole', () => {
    const step = fc.record({
      what: fc.constantFrom('move', 'add', 'remove', 'bar'),
      index: fc.nat(30),
      seconds: fc.double({ min: 0, max: 12, noNaN: true }),
      perBar: fc.constantFrom(2, 3, 4, 5),
    });
    fc.assert(
      fc.property(fc.array(step, { maxLength: 20 }), (steps) => {
        let now: HeardBeats = heard;
        for (const { what, index, seconds, perBar } of steps) {
          const at = index % Math.max(1, now.beats.length);
          if (what === 'add') now = withBeat(now, seconds, perBar);
          else if (now.beats.length === 0) continue;
          else if (what === 'move') now = movedBeat(now, at, seconds, perBar);
          else if (what === 'remove') now = withoutBeat(now, at, perBar);
          else now = barsFrom(now, at, perBar);
          now.beats.forEach((beat, i) => i > 0 && expect(beat - now.beats[i - 1]).toBeGreaterThan(0.119));
          expect(now).toEqual(barsFrom(now, firstDownbeat(now), now.downbeats.length > 1 ? barOf(now) : 99));
        }
      }),
    );
  });
});

/** How many beats lie between the first two bar lines. */
const barOf = ({ beats, downbeats }: HeardBeats) =>
  beats.filter((at) => at >= downbeats[0] && at < downbeats[1]).length;

describe('beats that are tapped', () => {
  it('take the place of those heard over the same time', () => {
    // Heard at half speed from 3 s to 6 s.
    const half = { ...heard, beats: heard.beats.filter((at) => at <= 3 || at >= 6 || at % 1 === 0) };
    const tapped = withTaps(half, [3.5, 4, 4.5, 5, 5.5], 4);
    expect(tapped).toEqual(heard);
    expect(withTaps(half, [3.5], 4)).toBe(half);
    const beside = withTaps(heard, [3.52, 4.02, 4.52], 4);
    expect(beside.beats).toEqual(heard.beats.map((at) => (at >= 3.5 && at <= 4.5 ? at + 0.02 : at)));
  });

  it('are all there is where nothing was heard', () => {
    expect(withTaps({ beats: [], downbeats: [] }, [1, 1.6, 2.2, 2.8, 3.4], 4)).toEqual({
      beats: [1, 1.6, 2.2, 2.8, 3.4],
      downbeats: [1, 3.4],
    });
  });

  it('keep the first bar line where it was heard, or nearest to it', () => {
    const taps = [1.02, 1.51, 2.03, 2.52];
    expect(withTaps(heard, taps, 4).downbeats[0]).toBe(1.51);
  });

  it('go to the onsets they were meant for, though the hand is late and uneven', () => {
    const random = createRandom(4);
    const onsets = Array.from({ length: 40 }, (_, i) => 0.7 + i * 0.3 + 0.02 * random());
    const meant = onsets.filter((_, i) => i % 2 === 0);
    const taps = meant.map((at) => at + 0.08 + 0.08 * (random() - 0.5));
    expect(tapsOnOnsets(taps, onsets)).toEqual(meant);
  });

  it('stay where nothing sounds, as early as the others', () => {
    const placed = tapsOnOnsets([1.06, 2.06, 3.06, 4.06], [1, 2, 4]);
    expect(placed[2]).toBeCloseTo(3, 9);
    expect(tapsOnOnsets([1, 2], [])).toEqual([1, 2]);
    // Two taps that mean the same are one.
    expect(tapsOnOnsets([1, 1.04, 2], [1, 2])).toEqual([1, 2]);
  });
});
