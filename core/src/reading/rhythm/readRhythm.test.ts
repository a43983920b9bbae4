import { describe, expect, it } from 'vitest';
import { createRandom, gaussian } from '../../signal/index.ts';
import { playDrums as drums } from '../../test/drums.ts';
import { READING_HZ } from '../melodySettings.ts';
import { beatsNear, bpmOf, readPulse, readRhythm, tempoBinOf } from './index.ts';
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
    ['the same, quicker', { kick: 'x.x.x.x.', hat: '.x.x.x.x' }, 60 / 140 / 2, 2, undefined, false],
    ['the same, slower', { kick: 'x.x.x.x.', hat: '.x.x.x.x' }, 60 / 100 / 2, 2, undefined, false],
    ['a kick alone', { kick: 'x.x.x.x.' }, 60 / 120 / 2, 2, undefined, false],
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

  it('is found at about a tempo that is told, though another speaks more clearly', () => {
    // Eight even strokes in each bar of a hat, a kick on every second.
    const samples = drums({ kick: 'x.x.x.x.', hat: 'xxxxxxxx' }, { stepSeconds: 0.3, bars: 8 });
    const pulse = readPulse(samples);
    expect(bpmOf(pulse.beats)).toBeCloseTo(100, 0);
    for (const told of [96, 104]) {
      const beats = beatsNear(pulse, told);
      expect(bpmOf(beats)).toBeCloseTo(100, 0);
      expect(furthest(beats, 0.4, 0.6)).toBeLessThan(0.035);
    }
    expect(bpmOf(beatsNear(pulse, 190))).toBeCloseTo(200, 0);
    expect(bpmOf(beatsNear(pulse, 50))).toBeCloseTo(50, 0);
    const beside = beatsNear(pulse, 140);
    for (let i = 1; i < beside.length; i++) {
      const bpm = 60 / (beside[i] - beside[i - 1]);
      // Beats are refined by a frame of 20 ms each.
      expect(bpm).toBeGreaterThan(140 / 1.3);
      expect(bpm).toBeLessThan(140 * 1.3);
    }
    // Where nothing sounds they are even: something to move.
    const silent = beatsNear(readPulse(new Float32Array(10 * READING_HZ)), 120);
    expect(bpmOf(silent)).toBeGreaterThan(104);
    expect(bpmOf(silent)).toBeLessThan(138);
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
});
