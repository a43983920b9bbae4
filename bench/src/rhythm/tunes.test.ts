import { describe, expect, it } from 'vitest';
import { createRandom } from '@plundra/core/signal';
import { chancePattern } from './chancePatterns.ts';
import { composeRhythm } from './compose.ts';
import { drawTune, type StoredTune } from './tunes.ts';

/** Made for this test: an upbeat, then bars of even eighths. */
const tune = (metre: string, barQuarters: number, bars: number): StoredTune => ({
  collection: 'ryansMammoth',
  title: 'Made up',
  metre,
  barQuarters,
  key: { tonicClass: 0, mode: 'major' },
  notes: [
    [-0.5, 0, 67],
    ...Array.from({ length: 2 * barQuarters * bars }, (_, i): [number, number, number] => [
      i / 2,
      (i + 1) / 2,
      [60, 64, 67, 72][i % 4],
    ]),
  ],
});

describe('published tunes', () => {
  it('are beaten at a tempo that people beat', () => {
    for (let seed = 0; seed < 100; seed++) {
      const reel = drawTune([tune('2/2', 4, 8)], createRandom(seed));
      expect([2, 4]).toContain(reel.metre.beats);
      expect(reel.bpm).toBeGreaterThanOrEqual(62);
      expect(reel.bpm).toBeLessThanOrEqual(190);
      const jig = drawTune([tune('6/8', 3, 8)], createRandom(seed));
      expect(jig.metre).toEqual({ beats: 2, compound: true });
      expect(jig.bpm).toBeGreaterThanOrEqual(46);
    }
  });

  it('keep their bars, and their key wherever they are played', () => {
    for (let seed = 0; seed < 30; seed++) {
      const drawn = drawTune([tune('3/4', 3, 8)], createRandom(seed));
      expect(drawn.bars).toBe(8);
      expect(drawn.steps).toHaveLength(8);
      const first = drawn.notes.find(({ startBeats }) => startBeats === 0)!;
      expect((first.midi + 120) % 12).toBe(drawn.tonicClass);
    }
  });

  it('sound on the beats of the piece they are played in, again and again', () => {
    for (let seed = 0; seed < 20; seed++) {
      const drawn = drawTune([tune('6/8', 3, 8)], createRandom(seed));
      const pattern = chancePattern(createRandom(seed), drawn.metre);
      const piece = composeRhythm('line', [pattern], seed, 24, { free: true, tune: drawn });
      const starts = piece.parts[0].notes.map(({ startSeconds }) => startSeconds);
      const near = piece.downbeats.filter((bar) => starts.some((start) => Math.abs(start - bar) < 0.08));
      expect(near).toHaveLength(piece.downbeats.length);
      expect(piece.bpm).toBe(drawn.bpm);
    }
  });
});
