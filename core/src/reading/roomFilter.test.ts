import { describe, expect, it } from 'vitest';
import { createRandom } from '../signal/index.ts';
import { midiToHz } from '../theory/index.ts';
import { READING_HZ } from './melodySettings.ts';
import { createRoomFilter, ROOM_HOP } from './roomFilter.ts';

/** Half a second each of several pitches with eight harmonics, ending in 20 ms. */
function line(pitches: number[]): Float32Array {
  const length = READING_HZ / 2;
  const out = new Float32Array(pitches.length * length);
  pitches.forEach((midi, i) => {
    for (let n = 0; n < length; n++) {
      const fade = Math.min(1, n / 200, (length - n) / 440);
      for (let h = 1; h <= 8; h++)
        out[i * length + n] +=
          (0.1 / h) * fade * Math.sin((2 * Math.PI * midiToHz(midi) * h * n) / READING_HZ);
    }
  });
  return out;
}

/** What a hall adds: noise that fades by 60 dB in 1.6 s (the common model of late reverberation, Polack 1988). */
function inHall(dry: Float32Array): Float32Array {
  const random = createRandom(3);
  const taps = Array.from({ length: 400 }, () => {
    const seconds = 0.03 + 0.9 * random();
    return {
      delay: Math.round(seconds * READING_HZ),
      gain: (random() - 0.5) * 0.09 * 10 ** ((-3 * seconds) / 1.6),
    };
  });
  const wet = dry.slice();
  for (const { delay, gain } of taps)
    for (let n = delay; n < wet.length; n++) wet[n] += gain * dry[n - delay];
  return wet;
}

function filtered(samples: Float32Array): { clean: Float32Array; hall: number } {
  const filter = createRoomFilter();
  const clean = new Float32Array(samples.length);
  for (let at = 0; at + filter.latencySamples <= samples.length; at += ROOM_HOP)
    filter.frame(samples, at, clean);
  return { clean, hall: filter.hall() };
}

/** Level in dB of a frequency over 60 ms. */
function levelOf(samples: Float32Array, hz: number, atSeconds: number): number {
  let [re, im] = [0, 0];
  const count = Math.round(0.06 * READING_HZ);
  for (let i = 0; i < count; i++) {
    const value =
      samples[Math.round(atSeconds * READING_HZ) + i] * (0.5 - 0.5 * Math.cos((2 * Math.PI * i) / count));
    re += value * Math.cos((2 * Math.PI * hz * i) / READING_HZ);
    im += value * Math.sin((2 * Math.PI * hz * i) / READING_HZ);
  }
  return 10 * Math.log10(re * re + im * im + 1e-12);
}

const PITCHES = [60, 67, 64, 71, 62, 69, 65, 72, 60, 66, 63, 70];

describe('the tail of a room', () => {
  it('is told from a dry voice, which is left as it is', () => {
    const dry = line(PITCHES);
    const { clean, hall } = filtered(dry);
    expect(hall).toBe(0);
    let [energy, lost] = [0, 0];
    for (let n = ROOM_HOP; n < dry.length - 2 * ROOM_HOP; n++) {
      energy += dry[n] ** 2;
      lost += (dry[n] - clean[n]) ** 2;
    }
    expect(10 * Math.log10(lost / energy)).toBeLessThan(-40);
  });

  it('of a hall is taken off the note after', () => {
    const wet = inHall(line(PITCHES));
    const { clean, hall } = filtered(wet);
    expect(hall).toBeGreaterThan(0.5);
    // From the fifth note on: what rings of the one before, beside the start of the new one, is less.
    const ringing = (samples: Float32Array) => {
      let sum = 0;
      for (let i = 4; i < PITCHES.length; i++) {
        const at = i * 0.5 + 0.005;
        sum += levelOf(samples, midiToHz(PITCHES[i - 1]), at) - levelOf(samples, midiToHz(PITCHES[i]), at);
      }
      return sum / (PITCHES.length - 4);
    };
    expect(ringing(clean)).toBeLessThan(ringing(wet) - 3);
  });
});
