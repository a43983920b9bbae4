import { describe, expect, it } from 'vitest';
import { createResampler, resample } from './resample.ts';

const sine = (hz: number, rate: number, count: number) =>
  Float32Array.from({ length: count }, (_, i) => Math.sin((2 * Math.PI * hz * i) / rate));

function rms(values: Float32Array): number {
  return Math.sqrt(values.reduce((sum, value) => sum + value * value, 0) / values.length);
}

describe('resampling', () => {
  it.each([
    [44100, 22050],
    [48000, 22050],
    [8000, 22050],
    [192000, 22050],
  ])('keeps a 1 kHz tone from %i to %i Hz where it was', (from, to) => {
    const out = resample(sine(1000, from, from), from, to);
    const wanted = sine(1000, to, to);
    expect(out.length).toBe(to);
    const error = out.subarray(500, to - 500).map((value, i) => value - wanted[i + 500]);
    expect(20 * Math.log10(rms(error) / rms(wanted))).toBeLessThan(-60);
  });

  it('removes what lies above the new Nyquist frequency', () => {
    const out = resample(sine(15000, 44100, 44100), 44100, 22050);
    expect(20 * Math.log10(rms(out.subarray(500, 21000)))).toBeLessThan(-70);
  });

  it('gives the same samples in pieces as at once', () => {
    const input = sine(440, 44100, 20000);
    const whole = resample(input, 44100, 22050);
    const resampler = createResampler(44100, 22050);
    const pieces = [1, 7, 1000, 3, 9000, 9989].reduce<{ at: number; out: number[] }>(
      ({ at, out }, size) => ({
        at: at + size,
        out: [...out, ...resampler.push(input.subarray(at, at + size))],
      }),
      { at: 0, out: [] },
    );
    const joined = [...pieces.out, ...resampler.finish()];
    expect(joined.length).toBe(whole.length);
    expect(Math.max(...joined.map((value, i) => Math.abs(value - whole[i])))).toBeLessThan(1e-6);
  });

  it('keeps a constant constant and takes nothing without complaint', () => {
    const out = resample(new Float32Array(5000).fill(0.5), 44100, 22050);
    expect(out[1200]).toBeCloseTo(0.5, 5);
    expect(resample(new Float32Array(0), 44100, 22050).length).toBe(0);
    expect(() => createResampler(0, 22050)).toThrow(RangeError);
  });
});
