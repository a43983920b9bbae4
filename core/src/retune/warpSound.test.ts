import { describe, expect, it } from 'vitest';
import { createOnsetReader } from '../reading/index.ts';
import { createOnsetBlocks } from './onsetBlocks.ts';
import { warpedSamples, type WarpSpec } from './warp.ts';
import { createWarpRenderer } from './warpSound.ts';

const RATE = 44_100;

/** Plucked strings at uneven times over a held low note. */
function plucked(seconds: number): Float32Array {
  const out = Float32Array.from(
    { length: seconds * RATE },
    (_, i) => 0.05 * Math.sin((2 * Math.PI * 98 * i) / RATE),
  );
  let at = 0.1;
  for (let k = 0; at < seconds; k++) {
    const first = Math.round(at * RATE);
    for (let i = 0; first + i < out.length && i < RATE; i++)
      out[first + i] += 0.4 * Math.exp(-i / 9000) * Math.sin((2 * Math.PI * (220 + 30 * (k % 5)) * i) / RATE);
    at += 0.21 + 0.13 * (k % 3);
  }
  return out;
}

/** As recorded, then slower, then as recorded but later, then faster. */
const changing = (how: WarpSpec['how']): WarpSpec => ({
  how,
  points: [
    { fromSeconds: 0.5, toSeconds: 0 },
    { fromSeconds: 2, toSeconds: 1.5 },
    { fromSeconds: 5, toSeconds: 5.5 },
    { fromSeconds: 7, toSeconds: 7.5 },
    { fromSeconds: 11, toSeconds: 10 },
  ],
});

describe('the sound of a passage at another speed', () => {
  it.each(['slice', 'stretch'] as const)(
    'is the same to the sample whichever stretches are asked for, in any order (%s)',
    (how) => {
      const recorded = [plucked(11.5), plucked(11.5).map((x, i) => 0.5 * x + 0.1 * Math.sin(i / 90))];
      const spec = changing(how);
      const length = warpedSamples(spec, RATE);
      const whole = createWarpRenderer(recorded, RATE).render(spec, 0, length);
      expect(whole.map((channel) => channel.length)).toEqual([length, length]);
      const pieces = createWarpRenderer(recorded, RATE);
      const edges = [0, 1, 17_003, 66_150, 66_151, 150_000, 151_234, 290_001, 331_000, 400_000, length];
      const order = [4, 0, 9, 7, 1, 2, 8, 3, 6, 5];
      for (const k of order) {
        const made = pieces.render(spec, edges[k], edges[k + 1]);
        made.forEach((channel, c) => {
          expect(channel.length).toBe(edges[k + 1] - edges[k]);
          const differs = channel.findIndex((x, i) => x !== whole[c][edges[k] + i]);
          expect(differs, `channel ${c} from ${edges[k]}`).toBe(-1);
        });
      }
    },
  );

  it('is the same also where stretches meet in a fade', () => {
    const recorded = [plucked(11.5)];
    const spec = changing('slice');
    const renderer = createWarpRenderer(recorded, RATE);
    const [whole] = renderer.render(spec, 66_150, 110_250);
    for (let from = 66_150; from < 110_250; from += 100) {
      const [made] = renderer.render(spec, from, from + 100);
      const differs = made.findIndex((x, i) => x !== whole[from - 66_150 + i]);
      expect(differs, `from ${from}`).toBe(-1);
    }
  });

  it('is the same also where it ends in the recording as it is', () => {
    // Slower, then faster, so that after four seconds everything is where it was recorded.
    const spec: WarpSpec = {
      how: 'stretch',
      points: [
        { fromSeconds: 0, toSeconds: 0 },
        { fromSeconds: 2, toSeconds: 2.4 },
        { fromSeconds: 4, toSeconds: 4 },
        { fromSeconds: 8, toSeconds: 8 },
      ],
    };
    const renderer = createWarpRenderer([plucked(9)], RATE);
    const [first, end] = [Math.round(3.9 * RATE), Math.round(4.1 * RATE)];
    const [whole] = renderer.render(spec, first, end);
    for (let from = first; from < end; from += 70) {
      const [made] = renderer.render(spec, from, from + 70);
      const differs = made.findIndex((x, i) => from + i < end && x !== whole[from - first + i]);
      expect(differs, `from ${from}`).toBe(-1);
    }
  });

  it('of what is held begins where one begins to listen: at its pitch and level, and as in the whole from the next attack on', () => {
    // Struck once, held for five seconds, struck again; with a little noise, as in any recording.
    let seed = 1;
    const noise = () => (seed = (seed * 16_807) % 2_147_483_647) / 2 ** 30 - 1;
    const held = Float32Array.from({ length: 8 * RATE }, (_, i) => {
      const since = i < 5 * RATE ? i : i - 5 * RATE;
      return (
        (0.3 + 0.5 * Math.exp(-since / 1000)) * Math.sin((2 * Math.PI * 220 * i) / RATE) + 0.003 * noise()
      );
    });
    const spec: WarpSpec = {
      how: 'stretch',
      points: [
        { fromSeconds: 0, toSeconds: 0 },
        { fromSeconds: 7.5, toSeconds: 9 },
      ],
    };
    const renderer = createWarpRenderer([held], RATE);
    const begun = 4 * RATE;
    const [whole] = renderer.render(spec, 0, 9 * RATE);
    const [first] = renderer.render(spec, begun, begun + 4410, begun);
    const [next] = renderer.render(spec, begun + 4410, 9 * RATE, begun);
    const made = Float32Array.from([...first, ...next]);
    let crossings = 0;
    for (let i = 1; i < RATE; i++) if (made[i - 1] < 0 && made[i] >= 0) crossings++;
    expect(Math.abs(crossings - 220)).toBeLessThanOrEqual(1);
    const level = (samples: Float32Array, from: number) =>
      Math.sqrt(samples.subarray(from, from + RATE).reduce((sum, x) => sum + x * x, 0) / RATE);
    expect(level(made, 0) / level(whole, begun)).toBeCloseTo(1, 1);
    // The second attack comes at six seconds; what leads up to it fades into it.
    const attack = Math.round(6.1 * RATE);
    const differs = made.subarray(attack - begun).findIndex((x, i) => x !== whole[attack + i]);
    expect(differs).toBe(-1);
    // It begins as the recording sounds there, with nothing of what lies before it.
    const near = Math.round(begun / 1.2);
    const starts = Array.from({ length: 101 }, (_, i) => near - 50 + i);
    expect(starts.some((from) => first.subarray(0, 100).every((x, i) => x === held[from + i]))).toBe(true);
    // It was not made from the first attack on, and whoever begins there hears the same.
    expect(first.some((x, i) => Math.abs(x - whole[begun + i]) > 0.01)).toBe(true);
    const own = createWarpRenderer([held], RATE).render(spec, begun, begun + 4410, begun);
    expect(own[0].every((x, i) => x === first[i])).toBe(true);
  });

  it('may end behind the recording', () => {
    const spec: WarpSpec = {
      how: 'slice',
      points: [
        { fromSeconds: 1, toSeconds: 0 },
        { fromSeconds: 3, toSeconds: 4 },
      ],
    };
    const [made] = createWarpRenderer([plucked(3)], RATE).render(spec, 0, warpedSamples(spec, RATE));
    expect(made.every((x) => Number.isFinite(x))).toBe(true);
    expect(made.subarray(3 * RATE, 3.9 * RATE).some((x) => Math.abs(x) > 0.01)).toBe(true);
  });

  it('asks for nothing that was measured before its correction was changed elsewhere', () => {
    const before = [plucked(25)];
    const first = createWarpRenderer(before, RATE);
    while (first.onsets.prepare(0, 25));
    expect(first.onsets.measured.size).toBe(3);
    const changed = [before[0].slice()];
    changed[0][Math.round(12 * RATE)] += 0.2;
    expect([...createWarpRenderer(changed, RATE, first).onsets.measured.keys()]).toEqual([0, 2]);
  });
});

describe('onsets of a window', () => {
  it('are those of the whole recording', () => {
    const recorded = plucked(25);
    const reader = createOnsetReader(RATE);
    reader.push(recorded);
    const whole = reader.finish();
    const found = createOnsetBlocks([recorded], RATE).between(0, 25);
    expect(found).toHaveLength(whole.length);
    found.forEach(({ seconds, salience }, i) => {
      // Where a block begins is known to half a sample.
      expect(Math.abs(seconds - whole[i].seconds)).toBeLessThan(0.0005);
      expect(salience).toBeCloseTo(whole[i].salience, 2);
    });
  });

  it('are none outside it', () => {
    const recorded = plucked(25);
    const blocks = createOnsetBlocks([recorded], RATE);
    const all = blocks.between(0, 25).map(({ seconds }) => seconds);
    const inside = blocks.between(9.7, 21.3).map(({ seconds }) => seconds);
    expect(inside.length).toBeGreaterThan(20);
    const wanted = all.filter((seconds) => seconds >= 9.7 && seconds <= 21.3);
    expect(inside).toHaveLength(wanted.length);
    inside.forEach((seconds, i) => expect(Math.abs(seconds - wanted[i])).toBeLessThan(1e-6));
  });
});
