import { describe, expect, it } from 'vitest';
import { createRandom, gaussian } from '../signal/index.ts';
import { renderStretch, startStretch, type StretchSpec } from './stretchSound.ts';
import { applyPatches } from './render.ts';

const RATE = 44100;
const CHORD_HZ = [110, 164.81, 220, 277.18, 329.63];

/** Chords struck at the times given, each decaying under the next; stereo with every second note to the right. */
function chords(starts: number[], seconds: number, ratio = 1): Float32Array[] {
  const channels = [new Float32Array(seconds * RATE), new Float32Array(seconds * RATE)];
  starts.forEach((start, k) => {
    const end = (starts[k + 1] ?? seconds) * RATE;
    CHORD_HZ.forEach((hz, n) => {
      for (let i = Math.round(start * RATE); i < end; i++) {
        const t = i / RATE - start;
        const fade = Math.min(1, t / 0.002, (end - i) / (0.003 * RATE));
        const value = 0.12 * fade * Math.exp(-1.2 * t) * Math.sin(2 * Math.PI * hz * ratio * t + n);
        channels[0][i] += value * (n % 2 === 0 ? 1 : 0.3);
        channels[1][i] += value * (n % 2 === 0 ? 0.3 : 1);
      }
    });
  });
  return channels;
}

const spec = (moves: [number, number][], rest: Partial<StretchSpec> = {}): StretchSpec => ({
  onsets: moves.map(([fromSeconds, toSeconds], i) => ({ id: `o${i}`, fromSeconds, toSeconds })),
  semitones: 0,
  how: 'stretch',
  fromSeconds: 0,
  toSeconds: 1e6,
  ...rest,
});

function render(channels: Float32Array[], what: StretchSpec) {
  const result = renderStretch(channels, RATE, what);
  return { ...result, out: applyPatches(channels, result.patches) };
}

/** Amplitude of a frequency around an instant (Goertzel over a Hann window of 0.2 s). */
function amplitudeAt(samples: Float32Array, hz: number, seconds: number): number {
  const half = Math.round(0.1 * RATE);
  const centre = Math.round(seconds * RATE);
  let [re, im] = [0, 0];
  for (let i = -half; i < half; i++) {
    const w = 0.5 + 0.5 * Math.cos((Math.PI * i) / half);
    re += w * (samples[centre + i] ?? 0) * Math.cos((2 * Math.PI * hz * i) / RATE);
    im += w * (samples[centre + i] ?? 0) * Math.sin((2 * Math.PI * hz * i) / RATE);
  }
  return (2 * Math.hypot(re, im)) / half;
}

/** Where two sounds differ first; −1: they are the same. Comparing so many numbers one by one by hand is a hundred times faster. */
const differs = (a: Float32Array, b: Float32Array): number =>
  a.length === b.length ? a.findIndex((value, i) => value !== b[i]) : Math.min(a.length, b.length);

const decibels = (a: number, b: number) => 20 * Math.log10(a / b);

describe('a chordal passage', () => {
  const starts = [0.5, 1.3, 2.1, 2.9];
  const input = chords(starts, 4);

  it('is bit for bit as recorded when nothing moves, and outside what moves', () => {
    expect(render(input, spec(starts.map((at) => [at, at]))).patches).toEqual([]);
    const { patches, out } = render(
      input,
      spec([
        [0.5, 0.5],
        [1.3, 1.2],
        [2.1, 2.1],
        [2.9, 2.9],
      ]),
    );
    const [first, last] = [Math.round((0.5 - 0.006) * RATE), Math.round((2.1 - 0.006) * RATE)];
    expect(patches).toHaveLength(1);
    for (const c of [0, 1]) {
      expect(differs(out[c].subarray(0, first), input[c].subarray(0, first))).toBe(-1);
      expect(differs(out[c].subarray(last), input[c].subarray(last))).toBe(-1);
    }
  });

  it('lays the attack in as it was recorded, at its new place', () => {
    const { out } = render(
      input,
      spec([
        [0.5, 0.5],
        [1.3, 1.2],
        [2.1, 2.1],
        [2.9, 2.9],
      ]),
    );
    const [from, to] = [Math.round(1.3 * RATE), Math.round(1.2 * RATE)];
    const count = Math.round(0.05 * RATE);
    expect(differs(out[0].subarray(to, to + count), input[0].subarray(from, from + count))).toBe(-1);
  });

  it('keeps pitch, level and place in stereo of what is stretched', () => {
    const { out } = render(
      input,
      spec([
        [0.5, 0.5],
        [1.3, 1.55],
        [2.1, 2.1],
        [2.9, 2.9],
      ]),
    );
    // Half of what lies between attacks is heard a quarter earlier or later; it decays 1.2 neper a second.
    for (const [at, source] of [
      [1.2, 0.5 + 0.06 + ((1.2 - 0.56) * 0.734) / 0.984],
      [1.9, 1.36 + (0.29 * 0.734) / 0.484],
    ]) {
      for (const [n, hz] of CHORD_HZ.entries()) {
        const loud = n % 2;
        const change = decibels(amplitudeAt(out[loud], hz, at), amplitudeAt(input[loud], hz, source));
        expect(Math.abs(change)).toBeLessThan(1.5);
        const sides = decibels(amplitudeAt(out[0], hz, at), amplitudeAt(out[1], hz, at));
        expect(sides).toBeCloseTo(n % 2 === 0 ? 10.46 : -10.46, 0);
      }
    }
  });

  it('is transposed by its interval, starts where they were', () => {
    const { out } = render(
      input,
      spec(
        starts.map((at) => [at, at]),
        { semitones: 5 },
      ),
    );
    const wanted = chords(starts, 4, 2 ** (5 / 12));
    for (const hz of CHORD_HZ) {
      const raised = hz * 2 ** (5 / 12);
      expect(
        Math.abs(decibels(amplitudeAt(out[0], raised, 1.7), amplitudeAt(wanted[0], raised, 1.7))),
      ).toBeLessThan(2);
    }
    const level = (samples: Float32Array, at: number) =>
      Math.hypot(...samples.subarray(Math.round(at * RATE), Math.round((at + 0.01) * RATE)));
    // 10 ms after the onset is far louder than 30 ms before it, as in the recording.
    for (const at of starts)
      expect(decibels(level(out[0], at + 0.005), level(out[0], at - 0.03))).toBeGreaterThan(
        0.5 * Math.min(20, decibels(level(input[0], at + 0.005), level(input[0], at - 0.03) + 1e-6)),
      );
  });

  it('has no click where pieces meet', () => {
    const { out } = render(
      input,
      spec([
        [0.5, 0.46],
        [1.3, 1.42],
        [2.1, 2.02],
        [2.9, 2.9],
      ]),
    );
    const steps = (samples: Float32Array) => {
      let most = 0;
      for (let i = 1; i < samples.length; i++) most = Math.max(most, Math.abs(samples[i] - samples[i - 1]));
      return most;
    };
    expect(steps(out[0])).toBeLessThan(steps(input[0]) * 1.3);
  });

  it('says what cannot go where it should, and keeps the order', () => {
    const { limited } = render(
      input,
      spec([
        [0.5, 0.5],
        [1.3, 2.6],
        [2.1, 2.1],
        [2.9, 2.9],
      ]),
    );
    expect(limited).toEqual(['o1']);
    expect(render(input, spec([[0.5, -2]])).limited).toEqual(['o0']);
  });

  it('gives the same samples again, and bears silence and an empty recording', () => {
    const moved = spec([[1.3, 1.4]]);
    const again = render(input, moved).out;
    render(input, moved).out.forEach((channel, c) => expect(differs(channel, again[c])).toBe(-1));
    const silent = render([new Float32Array(RATE * 2)], spec([[1, 1.1]], { semitones: -3 }));
    expect(silent.out[0].every((value) => value === 0)).toBe(true);
    expect(render([new Float32Array(0)], spec([[1, 1.1]], { semitones: 2 })).patches).toEqual([]);
  });
});

describe('hits', () => {
  const random = createRandom(3);
  const starts = [0.3, 0.8, 1.21, 1.8];
  const hits = new Float32Array(RATE * 3);
  for (const start of starts)
    for (let i = Math.round(start * RATE); i < hits.length; i++)
      hits[i] += 0.4 * gaussian(random) * Math.exp((-18 * (i - start * RATE)) / RATE);

  it('are moved as slices: the same samples elsewhere', () => {
    const { out, patches } = render(
      [hits],
      spec(
        [
          [0.3, 0.3],
          [0.8, 0.8],
          [1.21, 1.25],
          [1.8, 1.8],
        ],
        { how: 'slice' },
      ),
    );
    const [from, to] = [Math.round(1.21 * RATE), Math.round(1.25 * RATE)];
    const count = Math.round(0.4 * RATE);
    expect(out[0].subarray(to, to + count)).toEqual(hits.subarray(from, from + count));
    expect(patches).toHaveLength(1);
    // What was moved apart is filled: the slice before goes on, and fades.
    const filled = out[0].subarray(from + 100, to - Math.round(0.008 * RATE));
    expect(filled.every((value) => value === 0)).toBe(false);
    expect(out[0].subarray(Math.round(1.8 * RATE))).toEqual(hits.subarray(Math.round(1.8 * RATE)));
  });

  it('may come closer than a stretch could bring them', () => {
    const { out, limited } = render(
      [hits],
      spec(
        [
          [0.3, 0.3],
          [0.8, 0.4],
          [1.21, 1.21],
          [1.8, 1.8],
        ],
        { how: 'slice' },
      ),
    );
    expect(limited).toEqual([]);
    const from = Math.round(0.8 * RATE);
    expect(out[0].subarray(Math.round(0.4 * RATE), Math.round(0.45 * RATE))).toEqual(
      hits.subarray(from, from + Math.round(0.45 * RATE) - Math.round(0.4 * RATE)),
    );
  });
});

describe('a span that is stretched little by little', () => {
  const [left, right] = chords([0, 4], 8);
  const span = { from: 100, to: 7 * RATE, outFrom: 0, outTo: 8 * RATE };
  const whole = startStretch([left, right], span, RATE).upTo(8 * RATE);

  it('is the same to the sample, and takes room only as far as it is made', () => {
    const bit = startStretch([left, right], span, RATE);
    const [first] = bit.upTo(5000);
    expect(first.length).toBeLessThan(RATE);
    expect(bit.heldSamples()).toBeLessThan(8 * RATE);
    expect(first.slice(0, 5000)).toEqual(whole[0].slice(0, 5000));
    for (const samples of [5001, 40_000, 41_000, 2 * RATE, 8 * RATE]) {
      const [one, other] = bit.upTo(samples);
      expect(differs(one.slice(0, samples), whole[0].slice(0, samples))).toBe(-1);
      expect(differs(other.slice(0, samples), whole[1].slice(0, samples))).toBe(-1);
    }
    expect(bit.upTo(8 * RATE)[0]).toHaveLength(8 * RATE);
  });

  it('turns both channels by the phases of their sum', () => {
    const most = (a: Float32Array, b: Float32Array) =>
      a.reduce((so, value, i) => Math.max(so, Math.abs(value - b[i])), 0);
    const [alone] = startStretch([left], span, RATE).upTo(8 * RATE);
    const [one, other] = startStretch([left, left], span, RATE).upTo(8 * RATE);
    expect(most(one, alone)).toBeLessThan(0.005);
    expect(most(other, alone)).toBeLessThan(0.005);
    // A sound that is only on one side leads there, too.
    const silent = new Float32Array(left.length);
    const [, onTheRight] = startStretch([silent, left], span, RATE).upTo(8 * RATE);
    expect(most(onTheRight, alone)).toBeLessThan(0.005);
  });
});
