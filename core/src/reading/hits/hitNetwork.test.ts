import { describe, expect, it } from 'vitest';
import { createRandom } from '../../signal/index.ts';
import { HIT_KINDS } from '../../theory/index.ts';
import { loudestDb } from './hitLevels.ts';
import { hitProbabilities } from './hitNetwork.ts';
import { BANDS } from './melFrames.ts';
import { wideProbabilities } from './wideNetwork.ts';

/** Strokes over all bands, each a little softer than the one before, over a floor. */
function strokes(frames: number, every: number): Uint8Array {
  const random = createRandom(4);
  return Uint8Array.from({ length: frames * BANDS }, (_, i) => {
    const since = Math.floor(i / BANDS) % every;
    return 40 + 130 * Math.exp(-since / 12) + 8 * random();
  });
}

describe('what the networks of hits say', () => {
  const frames = strokes(700, 90);

  it('does not depend on the pieces a recording is judged in', () => {
    const whole = wideProbabilities(frames, loudestDb(frames), 700);
    for (const blockFrames of [64, 333, 699]) {
      const parts = wideProbabilities(frames, loudestDb(frames), blockFrames);
      expect(parts).toHaveLength(700 * HIT_KINDS.length);
      parts.forEach((value, i) => expect(value).toBeCloseTo(whole[i], 5));
    }
  });

  it('does not depend on how loud the recording is', () => {
    const whole = hitProbabilities(frames);
    const softer = hitProbabilities(frames.map((step) => step - 24));
    softer.forEach((value, i) => expect(value).toBeCloseTo(whole[i], 5));
  });

  it('is highest at the strokes', () => {
    const whole = hitProbabilities(frames);
    const most = Array.from({ length: 700 }, (_, t) =>
      Math.max(...whole.subarray(t * HIT_KINDS.length, (t + 1) * HIT_KINDS.length)),
    );
    for (let at = 90; at < 600; at += 90) {
      const around = most.slice(at - 40, at + 40);
      expect(Math.abs(around.indexOf(Math.max(...around)) - 40)).toBeLessThanOrEqual(3);
    }
  });

  it('is what the training computes', () => {
    // Frames by a formula; the numbers are those of training/train_drums_wide.py for them and these weights.
    const formula = Uint8Array.from({ length: 300 * BANDS }, (_, i) => {
      const [t, band] = [Math.floor(i / BANDS), i % BANDS];
      return 40 + ((7 * t + 13 * band) % 50) + (t % 90 < 10 ? 80 : 0) + band;
    });
    const said = wideProbabilities(formula, loudestDb(formula));
    for (const [frame, expected] of [
      [92, [0.00004, 0.17452, 0.12765, 0.00302, 0.00019, 0.00081, 0.03053, 0.02444, 0.22882]],
      [182, [0, 0.10831, 0.31487, 0.00347, 0.00001, 0.0003, 0.00596, 0.02781, 0.08334]],
    ] as const)
      expected.forEach((value, kind) => expect(said[frame * HIT_KINDS.length + kind]).toBeCloseTo(value, 3));
  });
});
