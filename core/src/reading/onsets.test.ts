import { describe, expect, it } from 'vitest';
import { createRandom, gaussian } from '../signal/index.ts';
import { createOnsetReader, keptOnsets, type FoundOnset } from './onsets.ts';

const RATE = 44100;
const SECONDS = 6;

function read(samples: Float32Array, pieces = 1): FoundOnset[] {
  const reader = createOnsetReader(RATE);
  const size = Math.ceil(samples.length / pieces);
  for (let at = 0; at < samples.length; at += size) reader.push(samples.subarray(at, at + size));
  return reader.finish();
}

/** Chords of three notes with eight harmonics each that ring into each other, every second one soft; faint noise. */
function strummed(starts: number[]): Float32Array {
  const random = createRandom(5);
  const out = Float32Array.from({ length: RATE * SECONDS }, () => 0.0004 * gaussian(random));
  starts.forEach((start, k) => {
    const root = [110, 98, 130.8, 87.3][k % 4];
    for (const hz of [root, root * 1.5, root * 2.52]) {
      for (let i = Math.round(start * RATE); i < out.length; i++) {
        const t = i / RATE - start;
        const gain = (k % 2 === 0 ? 0.1 : 0.04) * Math.min(1, t / 0.003) * Math.exp(-3 * t);
        for (let h = 1; h <= 8; h++) out[i] += (gain / h) * Math.sin(2 * Math.PI * hz * h * t);
      }
    }
  });
  return out;
}

describe('onsets', () => {
  // The true onsets are those the sound was made with.
  const starts = [0.5, 1.1, 1.62, 2.3, 2.84, 3.5, 4.06, 4.75];
  const chords = strummed(starts);

  it('of ringing chords are found once each, soft ones too, to 8 ms', () => {
    const found = keptOnsets(read(chords), 0.65);
    expect(found).toHaveLength(starts.length);
    found.forEach(({ seconds }, i) => expect(Math.abs(seconds - starts[i])).toBeLessThan(0.008));
  });

  it('of hits are found to 4 ms, also in fast rolls', () => {
    const random = createRandom(9);
    const hits = Array.from({ length: 40 }, (_, i) => 0.4 + i * 0.1);
    const samples = new Float32Array(RATE * SECONDS);
    for (const start of hits)
      for (let i = Math.round(start * RATE); i < Math.min(samples.length, (start + 0.5) * RATE); i++)
        samples[i] += 0.3 * gaussian(random) * Math.exp(-45 * (i / RATE - start));
    const found = keptOnsets(read(samples), 0.6);
    expect(found).toHaveLength(hits.length);
    found.forEach(({ seconds }, i) => expect(Math.abs(seconds - hits[i])).toBeLessThan(0.004));
  });

  it('grow in number with the sensitivity', () => {
    const all = read(chords);
    const counts = [0, 0.2, 0.4, 0.6, 0.8, 1].map((sensitivity) => keptOnsets(all, sensitivity).length);
    expect([...counts].sort((a, b) => a - b)).toEqual(counts);
    expect(counts[0]).toBeGreaterThan(0);
    expect(keptOnsets(all, 1)).toEqual(all);
  });

  it('are the same in pieces as at once', () => {
    expect(read(chords, 37)).toEqual(read(chords));
  });

  it('are none in silence, in nothing and in what is not a number', () => {
    expect(read(new Float32Array(RATE))).toEqual([]);
    expect(read(new Float32Array(0))).toEqual([]);
    expect(read(new Float32Array(RATE).fill(NaN))).toEqual([]);
    expect(read(new Float32Array(1))).toEqual([]);
  });
});
