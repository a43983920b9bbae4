import { describe, expect, it } from 'vitest';
import { createTimeMap, type TempoEntry, type WarpedWindow } from '../song/index.ts';
import { heardAt, warpedSamples, warpOf, type WarpSpec } from './warp.ts';
import { createWarpRenderer } from './warpSound.ts';

const RATE = 44_100;
const METRE = [{ startTicks: 0, beats: 4, unit: 4 as const }];
const timeOf = (...tempoMap: TempoEntry[]) => createTimeMap({ tempoMap, metreMap: METRE });

const renderWarp = (channels: Float32Array[], rate: number, spec: WarpSpec) =>
  createWarpRenderer(channels, rate).render(spec, 0, warpedSamples(spec, rate));

/** A stroke on a wooden block every beat. */
function strokes(bpm: number, count: number): Float32Array {
  const out = new Float32Array(Math.ceil(((count * 60) / bpm) * RATE));
  for (let k = 0; k < count; k++) {
    const at = Math.round(((k * 60) / bpm) * RATE);
    for (let i = 0; i < 4000 && at + i < out.length; i++)
      out[at + i] +=
        0.5 *
        Math.exp(-i / 500) *
        (Math.sin((2 * Math.PI * 900 * i) / RATE) + 0.5 * Math.sin((2 * Math.PI * 3170 * i) / RATE));
  }
  return out;
}

/** Where strokes begin: the first sample of each that is more than what is left of the one before. */
function startsOf(samples: Float32Array): number[] {
  const starts: number[] = [];
  for (let i = 0; i < samples.length; i++)
    if (Math.abs(samples[i]) > 0.05 && (starts.length === 0 || i / RATE - starts[starts.length - 1] > 0.2))
      starts.push(i / RATE);
  return starts;
}

const window = (durationSeconds: number, bpm: number, startTicks = 0): WarpedWindow => ({
  startTicks,
  offsetSeconds: 0,
  durationSeconds,
  clock: { keeps: 'song', bpm },
});

describe('a passage that follows the tempo', () => {
  it.each(['slice', 'stretch'] as const)('has its strokes on the beats of the song (%s)', (how) => {
    const [recorded, count] = [100, 16];
    const time = timeOf({ startTicks: 0, bpm: 84 });
    const spec = warpOf(window((count * 60) / recorded, recorded), time, how);
    expect(spec.points).toHaveLength(2);
    const found = startsOf(renderWarp([strokes(recorded, count)], RATE, spec)[0]);
    expect(found).toHaveLength(count);
    found.forEach((seconds, k) => expect(Math.abs(seconds - (k * 60) / 84)).toBeLessThan(0.002));
  });

  it('goes along where the tempo changes in its middle', () => {
    const time = timeOf({ startTicks: 0, bpm: 100 }, { startTicks: 8 * 960, bpm: 60 });
    const spec = warpOf(window(16 * 0.6, 100), time, 'slice');
    // As recorded until the change, then slower.
    expect(heardAt(spec.points, 4.8)).toBeCloseTo(4.8, 3);
    expect(heardAt(spec.points, 9.6)).toBeCloseTo(4.8 + 8, 3);
    const found = startsOf(renderWarp([strokes(100, 16)], RATE, spec)[0]);
    const wanted = [...Array(16).keys()].map((k) => (k < 8 ? k * 0.6 : 4.8 + (k - 8)));
    expect(found).toHaveLength(16);
    found.forEach((seconds, k) => expect(Math.abs(seconds - wanted[k])).toBeLessThan(0.003));
  });

  it('keeps its pitch', () => {
    const tone = Float32Array.from(
      { length: 4 * RATE },
      (_, i) => 0.4 * Math.sin((2 * Math.PI * 440 * i) / RATE),
    );
    const spec = warpOf(window(4, 120), timeOf({ startTicks: 0, bpm: 90 }), 'stretch');
    const [made] = renderWarp([tone], RATE, spec);
    let crossings = 0;
    for (let i = RATE; i < 4 * RATE; i++) if (made[i - 1] < 0 && made[i] >= 0) crossings++;
    expect(Math.abs(crossings / 3 - 440)).toBeLessThan(1.5);
    expect(Math.abs(made.length / RATE - (4 * 120) / 90 - 0.05)).toBeLessThan(0.001);
  });

  it('is the recording itself where the song has its tempo', () => {
    const samples = strokes(100, 8);
    const [made] = renderWarp(
      [samples],
      RATE,
      warpOf(window(4.8, 100), timeOf({ startTicks: 0, bpm: 100 }), 'slice'),
    );
    for (let i = 0; i < samples.length; i++) if (made[i] !== samples[i]) throw new Error(`differs at ${i}`);
  });
});
