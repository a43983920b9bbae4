import { describe, expect, it } from 'vitest';
import { HIT_KINDS } from '../../theory/index.ts';
import { createKitNetwork, drumsOfStrokes } from './kitNetwork.ts';
import weights from './kitWeights.json' with { type: 'json' };
import { STROKE_INPUTS } from './strokes.ts';

const KINDS = HIT_KINDS.length;

/** Strokes by a formula, some of which differ in nothing but their number. */
function strokes(count: number): Float32Array {
  return Float32Array.from({ length: count * STROKE_INPUTS }, (_, i) => {
    const [stroke, input] = [Math.floor(i / STROKE_INPUTS), i % STROKE_INPUTS];
    const wave = ((7 * (stroke % 5) + 13 * input) % 23) / 23;
    return input < KINDS ? 2 * wave - 1.5 : wave;
  });
}

const rowsOf = (values: Float32Array, width: number) =>
  Array.from({ length: values.length / width }, (_, i) => values.slice(i * width, (i + 1) * width));
const closely = (values: Float32Array, expected: Float32Array) =>
  values.forEach((value, i) => expect(value).toBeCloseTo(expected[i], 5));

describe('the drums of strokes', () => {
  it('are what the training computes', () => {
    // The numbers are those of training/train_kits.py for these inputs and weights.
    const said = rowsOf(drumsOfStrokes(strokes(12)), KINDS);
    for (const [stroke, expected] of [
      [0, [0.00323, 0.4493, 0.00645, 0.53734, 0.01099, 0.14313, 0.00617, 0.52691, 0.01533]],
      [3, [0.86052, 0.23016, 0.00342, 0.25087, 0.00546, 0.08304, 0.00404, 0.42009, 0.00453]],
      [11, [0.01627, 0.73036, 0.05071, 0.00061, 0.08145, 0.00067, 0.09048, 0.00507, 0.13585]],
    ] as const)
      expected.forEach((value, kind) => expect(said[stroke][kind]).toBeCloseTo(value, 3));
  });

  it('do not depend on the order of the strokes', () => {
    const inputs = strokes(9);
    const turned = new Float32Array(
      rowsOf(inputs, STROKE_INPUTS)
        .reverse()
        .flatMap((row) => [...row]),
    );
    const said = rowsOf(drumsOfStrokes(turned), KINDS).reverse();
    rowsOf(drumsOfStrokes(inputs), KINDS).forEach((row, i) => closely(said[i], row));
  });

  it('depend on the other strokes: the same stroke is named otherwise in other company', () => {
    const inputs = strokes(3);
    const alone = drumsOfStrokes(inputs.slice(0, STROKE_INPUTS));
    const together = drumsOfStrokes(inputs).subarray(0, KINDS);
    expect(Math.max(...alone.map((value, kind) => Math.abs(value - together[kind])))).toBeGreaterThan(0.02);
  });

  it('are judged in the light of strokes on both sides where there are more than are judged at once', () => {
    const byFour = createKitNetwork(weights, 4);
    const inputs = strokes(10);
    const whole = (from: number, to: number) =>
      rowsOf(drumsOfStrokes(inputs.slice(from * STROKE_INPUTS, to * STROKE_INPUTS)), KINDS);
    const said = rowsOf(byFour(inputs), KINDS);
    // Two before and two behind the four.
    closely(said[0], whole(0, 6)[0]);
    closely(said[5], whole(2, 10)[3]);
    closely(said[9], whole(6, 10)[3]);
  });

  it('are none where there are no strokes', () => {
    expect(drumsOfStrokes(new Float32Array(0))).toHaveLength(0);
  });
});
