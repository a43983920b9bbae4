import { describe, expect, it } from 'vitest';
import {
  createPeakCollector,
  createRandom,
  createTransform,
  decodePeaks,
  encodePeaks,
  FINEST_FRAMES_PER_PAIR,
  gaussian,
  hannWindow,
  median,
  quantile,
  weightedMedian,
} from './index.ts';

describe('statistics', () => {
  it('interpolates quantiles', () => {
    expect(quantile([1, 2, 3, 4], 0.5)).toBe(2.5);
    expect(quantile([10], 0.9)).toBe(10);
    expect(median([3, 1, 2])).toBe(2);
    expect(quantile([], 0.5)).toBeNaN();
  });

  it('weighs the median', () => {
    expect(weightedMedian([1, 2, 100], [1, 1, 5])).toBe(100);
    expect(weightedMedian([1, 2, 3], [0, 0, 0])).toBeNaN();
  });
});

describe('random numbers', () => {
  it('repeat with their seed and spread as they should', () => {
    const a = createRandom(9);
    const b = createRandom(9);
    const values = Array.from({ length: 4000 }, () => a());
    expect(values.slice(0, 5)).toEqual(Array.from({ length: 5 }, () => b()));
    expect(values.reduce((sum, value) => sum + value, 0) / values.length).toBeCloseTo(0.5, 1);
    const normal = Array.from({ length: 4000 }, () => gaussian(a));
    const variance = normal.reduce((sum, value) => sum + value * value, 0) / normal.length;
    expect(variance).toBeGreaterThan(0.9);
    expect(variance).toBeLessThan(1.1);
  });
});

describe('transform', () => {
  it('finds a cosine in its bin and comes back by its inverse', () => {
    const transform = createTransform(64);
    const input = transform.createComplex();
    for (let i = 0; i < 64; i++) input[2 * i] = Math.cos((2 * Math.PI * 5 * i) / 64);
    for (let i = 0; i < 64; i++) input[2 * i + 1] = 0;
    const spectrum = transform.createComplex();
    const back = transform.createComplex();
    transform.forward(spectrum, input);
    expect(spectrum[10]).toBeCloseTo(32);
    expect(spectrum[12]).toBeCloseTo(0);
    transform.inverse(back, spectrum);
    expect(back[2 * 17]).toBeCloseTo(input[2 * 17]);
  });

  it('windows from 0 over 1 back towards 0', () => {
    const window = hannWindow(8);
    expect(window[0]).toBeCloseTo(0);
    expect(window[4]).toBeCloseTo(1);
  });
});

describe('waveform peaks', () => {
  it('holds lowest and highest of each span at every level', () => {
    const collector = createPeakCollector();
    const samples = new Float32Array(FINEST_FRAMES_PER_PAIR * 20);
    samples[FINEST_FRAMES_PER_PAIR * 9 + 3] = 1;
    samples[FINEST_FRAMES_PER_PAIR * 9 + 7] = -0.5;
    collector.push(samples.subarray(0, 100));
    collector.push(samples.subarray(100));
    const levels = decodePeaks(encodePeaks(collector.finish()).buffer as ArrayBuffer);
    expect(levels[0].pairs[18]).toBe(-63);
    expect(levels[0].pairs[19]).toBe(127);
    expect(levels[0].pairs[20]).toBe(0);
    expect(levels[1].pairs[2]).toBe(-63);
    expect(levels[1].pairs[3]).toBe(127);
    expect(levels.length).toBe(4);
  });

  it('has no pairs for no samples', () => {
    expect(createPeakCollector().finish()[0].pairs.length).toBe(0);
  });
});
