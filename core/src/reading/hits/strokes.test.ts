import { describe, expect, it } from 'vitest';
import { HIT_KINDS } from '../../theory/index.ts';
import { READING_HZ } from '../melodySettings.ts';
import { BANDS, HIT_HOP_SAMPLES } from './melFrames.ts';
import { findStrokes, STROKE_INPUTS, strokeInputs } from './strokes.ts';

const HOP = HIT_HOP_SAMPLES / READING_HZ;
const [KICK, SNARE, HAT] = [0, 1, 2];

/** Nothing is likely but some peaks, a frame wide. */
function likely(frames: number, peaks: [frame: number, kind: number, value: number][]): Float32Array {
  const probabilities = new Float32Array(frames * HIT_KINDS.length);
  for (const [frame, kind, value] of peaks) probabilities[frame * HIT_KINDS.length + kind] = value;
  return probabilities;
}

describe('strokes', () => {
  it('hold what is struck together, each drum at its own time', () => {
    const strokes = findStrokes(
      likely(200, [
        [50, KICK, 0.9],
        [53, HAT, 0.2],
        [100, SNARE, 0.4],
      ]),
    );
    expect(strokes.map(({ frame }) => frame)).toEqual([50, 100]);
    expect(strokes[0].attack).toBeCloseTo(0.9, 5);
    expect(strokes[0].seconds[KICK]).toBeCloseTo(50 * HOP, 9);
    expect(strokes[0].seconds[HAT]).toBeCloseTo(53 * HOP, 9);
    // What has no peak of its own would be struck with the likeliest.
    expect(strokes[0].seconds[SNARE]).toBeCloseTo(50 * HOP, 9);
  });

  it('gather around the likeliest, so that a flam of 40 ms is two of them', () => {
    const peaks: [number, number, number][] = [
      [50, SNARE, 0.5],
      [53, HAT, 0.9],
      [57, SNARE, 0.8],
    ];
    const strokes = findStrokes(likely(100, peaks));
    // Both are within 25 ms of the hat, which takes the likelier.
    expect(strokes.map(({ frame }) => frame)).toEqual([50, 53]);
    expect(strokes[0].seconds[SNARE]).toBeCloseTo(50 * HOP, 9);
    expect(strokes[1].seconds[SNARE]).toBeCloseTo(57 * HOP, 9);
  });

  it('are none where nothing is likely', () => {
    expect(findStrokes(likely(100, [[50, KICK, 0.05]]))).toEqual([]);
    expect(findStrokes(new Float32Array(0))).toEqual([]);
  });
});

describe('what is known of a stroke', () => {
  // Over a floor of 40 steps (20 dB over the least), a stroke of 160 steps that falls by a step a frame.
  const frames = Uint8Array.from({ length: 300 * BANDS }, (_, i) => {
    const since = Math.floor(i / BANDS) - 100;
    return since < 0 ? 40 : Math.max(40, 160 - since);
  });
  const topDb = -110 + 160 / 2;
  const probabilities = likely(300, [
    [100, KICK, 0.9],
    [200, HAT, 0.5],
  ]);
  const strokes = findStrokes(probabilities);
  const inputs = strokeInputs(frames, topDb, probabilities, strokes);
  const kinds = HIT_KINDS.length;

  it('is how likely each drum is, as log odds', () => {
    expect(inputs).toHaveLength(2 * STROKE_INPUTS);
    expect(4 * inputs[KICK]).toBeCloseTo(Math.log(9), 2);
    expect(4 * inputs[STROKE_INPUTS + HAT]).toBeCloseTo(0, 5);
    expect(4 * inputs[HAT]).toBeLessThan(-9);
  });

  it('is how loud it is in each band, how it rose and how it rings', () => {
    // Loudest of all; 60 dB of 70 above what was before; and so many dB softer 14, 30 and 60 frames later.
    expect(inputs[kinds]).toBeCloseTo(1, 5);
    expect(inputs[kinds + BANDS / 2]).toBeCloseTo(60 / 70, 5);
    for (const [i, fallenDb] of [7, 15, 30].entries())
      expect(inputs[kinds + BANDS + (i * BANDS) / 4]).toBeCloseTo(fallenDb / 70, 5);
  });

  it('is how far the strokes beside it are, up to a second', () => {
    const [before, behind] = [STROKE_INPUTS - 2, STROKE_INPUTS - 1];
    expect(inputs[before]).toBe(1);
    expect(inputs[behind]).toBeCloseTo(100 * HOP, 5);
    expect(inputs[STROKE_INPUTS + before]).toBeCloseTo(100 * HOP, 5);
    expect(inputs[STROKE_INPUTS + behind]).toBe(1);
  });
});
