import { describe, expect, it } from 'vitest';
import { createRandom, gaussian } from '../../signal/index.ts';
import { playDrums as drums } from '../../test/drums.ts';
import { READING_HZ } from '../melodySettings.ts';
import { decodeBars, readBars, readRhythm, tempoBinOf } from './index.ts';
import { decodeBeats } from './decodeBeats.ts';
import { RHYTHM_HOP_SECONDS } from './rhythmFeatures.ts';

/** Furthest that a beat lies from where one should. */
function furthest(beats: readonly number[], startSeconds: number, beatSeconds: number): number {
  return Math.max(
    ...beats.map((each) => {
      const place = (each - startSeconds) / beatSeconds;
      return Math.abs(place - Math.round(place)) * beatSeconds;
    }),
  );
}

describe('the pulse of drums', () => {
  it.each([
    ['a rock beat', { kick: 'x...x...', snare: '..x...x.', hat: 'xxxxxxxx' }, 60 / 104 / 2, 2, 4, false],
    ['four on the floor', { kick: 'x.x.x.x.', hat: '.x.x.x.x' }, 60 / 122 / 2, 2, undefined, false],
    ['a waltz', { kick: 'x.....', snare: '..x.x.', hat: 'x.x.x.' }, 60 / 126 / 2, 2, 3, false],
    ['a ballad in 6/8', { kick: 'x.....', snare: '...x..', hat: 'xxxxxx' }, 60 / 58 / 3, 3, 2, true],
  ] as const)('of %s is read with its bars', (_, lines, stepSeconds, stepsInBeat, beatsPerBar, compound) => {
    const beatSeconds = stepSeconds * stepsInBeat;
    const reading = readRhythm(drums(lines, { stepSeconds, bars: 8 }));
    expect(Math.abs(reading.bpm * beatSeconds - 60)).toBeLessThan(0.6);
    expect(furthest(reading.beats, 0.4, beatSeconds)).toBeLessThan(0.035);
    expect(reading.compound).toBe(compound);
    if (beatsPerBar === undefined) return;
    expect(reading.beatsPerBar).toBe(beatsPerBar);
    expect(furthest(reading.downbeats, 0.4, beatSeconds * beatsPerBar)).toBeLessThan(0.035);
  });

  it.each([
    ['quickens', 0.62, 0.992],
    ['slows down', 0.5, 1.008],
  ])('follows a tempo that %s', (_, first, factor) => {
    const out = new Float32Array(20 * READING_HZ);
    const random = createRandom(2);
    const at: number[] = [];
    for (let seconds = 0.5, beat = first; seconds < 19; seconds += beat, beat *= factor) {
      at.push(seconds);
      for (let n = 0; n < 800; n++)
        out[Math.round(seconds * READING_HZ) + n] += 0.4 * gaussian(random) * Math.exp(-n / 120);
    }
    const { beats } = readRhythm(out);
    for (const seconds of at.slice(2))
      expect(Math.min(...beats.map((each) => Math.abs(each - seconds)))).toBeLessThan(0.04);
  });

  it('is none in silence, and an empty recording is borne', () => {
    for (const samples of [new Float32Array(0), new Float32Array(5 * READING_HZ)])
      expect(readRhythm(samples)).toMatchObject({ bpm: 0, beats: [], downbeats: [] });
  });

  it('begins and ends with the sound', () => {
    const lead = new Float32Array(6 * READING_HZ);
    const played = drums(
      { kick: 'x...x...', snare: '..x...x.', hat: 'xxxxxxxx' },
      { stepSeconds: 0.28, bars: 6 },
    );
    const samples = new Float32Array(lead.length + played.length);
    samples.set(played, lead.length);
    expect(readRhythm(samples).beats[0]).toBeGreaterThan(5);
  });
});

describe('beats and bars', () => {
  it('go on where one is not struck', () => {
    const beat = new Float32Array(800).fill(0.02);
    const every = 20;
    for (let t = 10; t < 800; t += every) if (t < 300 || t > 380) beat[t] = 0.9;
    const beats = decodeBeats({ beat, tempi: [new Float32Array(800).fill(1)] });
    expect(beats).toHaveLength(40);
    beats.forEach((seconds, i) =>
      expect(Math.abs(seconds - (10 + i * every) * RHYTHM_HOP_SECONDS)).toBeLessThan(0.03),
    );
  });

  it('are as fast as the network finds the music, where both speeds would do', () => {
    const beat = new Float32Array(800).fill(0.02);
    for (let t = 10; t < 800; t += 20) beat[t] = t % 40 === 10 ? 0.9 : 0.12;
    const countAt = (bpm: number) => {
      const tempi = Array.from({ length: 20 }, (_, bin) =>
        new Float32Array(800).fill(Math.abs(bin - tempoBinOf(bpm)) < 1 ? 0.9 : 0.01),
      );
      return decodeBeats({ beat, tempi }).length;
    };
    const fastBpm = 60 / (20 * RHYTHM_HOP_SECONDS);
    expect(countAt(fastBpm)).toBe(40);
    expect(countAt(fastBpm / 2)).toBe(20);
  });

  it('begin bars where something else says so too', () => {
    const beats = Array.from({ length: 24 }, (_, i) => 0.5 * (i + 1));
    const frames = 600;
    const even = { beat: new Float32Array(frames), downbeat: new Float32Array(frames).fill(0.2) };
    const likelihood = { ...even, compound: new Float32Array(frames), tempi: [] };
    for (const first of [0, 1, 2]) {
      const more = Float64Array.from(beats, (_, i) => (i % 3 === first ? 2 : -1));
      expect(readBars(beats, likelihood, more)).toMatchObject({ beatsPerBar: 3, first, compound: false });
    }
    const dotted = { ...likelihood, compound: new Float32Array(frames).fill(0.75) };
    expect(readBars(beats, dotted).compound).toBe(true);
    // Three dotted beats in a bar are rare beside 3/4 with a cross-rhythm: they must be clear.
    const inThree = Float64Array.from(beats, (_, i) => (i % 3 === 0 ? 4 : -4));
    expect(readBars(beats, dotted, inThree)).toMatchObject({ beatsPerBar: 3, compound: false });
    const clear = { ...likelihood, compound: new Float32Array(frames).fill(0.95) };
    expect(readBars(beats, clear, inThree)).toMatchObject({ beatsPerBar: 3, compound: true });
  });

  it('fall into three where both thirds of beats sound and their halves do not', () => {
    const beats = Array.from({ length: 24 }, (_, i) => 0.5 * (i + 1));
    const frames = 600;
    const compoundWith = (shares: number[]) => {
      const beat = new Float32Array(frames);
      for (const seconds of beats)
        for (const share of shares) beat[Math.round((seconds + 0.5 * share) / RHYTHM_HOP_SECONDS)] = 0.3;
      // The network itself is not sure.
      const compound = new Float32Array(frames).fill(0.35);
      return readBars(beats, { beat, downbeat: new Float32Array(frames), compound, tempi: [] }).compound;
    };
    expect(compoundWith([1 / 3, 2 / 3])).toBe(true);
    expect(compoundWith([1 / 2])).toBe(false);
    // In swing only the last third sounds.
    expect(compoundWith([2 / 3])).toBe(false);
    expect(compoundWith([1 / 3])).toBe(false);
    expect(compoundWith([])).toBe(false);
  });

  it.each([
    [2, 1],
    [3, 2],
    [4, 3],
    [5, 0],
    [7, 4],
  ])('are %i in a bar from beat %i on, where the evidence says so', (beatsPerBar, first) => {
    const evidence = Float64Array.from({ length: 40 }, (_, i) => (i % beatsPerBar === first ? 2 : -2));
    expect(decodeBars(evidence)).toMatchObject({ beatsPerBar, first });
  });

  it('of a dotted quarter are two, three or four in a bar', () => {
    const five = Float64Array.from({ length: 40 }, (_, i) => (i % 5 === 0 ? 2 : -2));
    expect([2, 3, 4]).toContain(decodeBars(five, true).beatsPerBar);
  });

  it('of a dotted quarter are two in a bar unless it is clear that they are four', () => {
    // Every second bar line of 6/8 is weaker: by a little, and by much.
    const withWeaker = (odds: number) =>
      Float64Array.from({ length: 40 }, (_, i) => (i % 4 === 0 ? 0.8 : i % 2 === 0 ? odds : -2));
    expect(decodeBars(withWeaker(-0.5), true).beatsPerBar).toBe(2);
    expect(decodeBars(withWeaker(-1.6), true).beatsPerBar).toBe(4);
  });
});
