import { expect, it } from 'vitest';
import { createRandom } from '@plundra/core/signal';
import { SYLLABLE_RATE_HZ, type SpokenSyllable } from './spokenSyllables.ts';
import { analyseSyllable, singSyllables, withMurmur } from './syllableSinger.ts';

const HARMONICS = 20;

/** Spoken at a pitch, its loudness a share of the loudest after so many seconds. */
function spoken(hz: number, start: SpokenSyllable['start'], loudness: (s: number) => number): SpokenSyllable {
  const samples = Float32Array.from({ length: 0.5 * SYLLABLE_RATE_HZ }, (_, n) => {
    const seconds = n / SYLLABLE_RATE_HZ;
    let sum = 0;
    for (let k = 1; k <= HARMONICS; k++) sum += Math.cos(2 * Math.PI * k * hz * seconds) / k;
    return 0.1 * sum * loudness(seconds);
  });
  return { text: 'a', start, samples };
}

/** Louder at first, and half as loud before it ends. */
const fading = (seconds: number) =>
  seconds < 0.05 || seconds > 0.4 ? 0 : Math.max(0.4, 1 - 2 * (seconds - 0.05));

it('takes a deep voice apart as well as a high one', () => {
  for (const hz of [66, 72, 200]) expect(analyseSyllable(spoken(hz, 'vowel', fading), 1)).toBeDefined();
});

it('holds a vowel that was spoken fading', () => {
  const syllable = analyseSyllable(spoken(140, 'vowel', fading), 1)!;
  const note = {
    startSeconds: 0.1,
    endSeconds: 2,
    loudness: 0.8,
    legato: false,
    consonantStretch: 1,
    syllable,
  };
  const { samples } = singSyllables([note], () => 220, { breath: 0, growl: 0 }, 2.2, createRandom(1));
  const levels: number[] = [];
  for (let from = 0.3; from < 1.8; from += 0.05) {
    let energy = 0;
    const first = Math.round(from * SYLLABLE_RATE_HZ);
    for (let n = first; n < first + 1000; n++) energy += samples[n] ** 2 / 1000;
    levels.push(10 * Math.log10(energy));
  }
  expect(Math.max(...levels) - Math.min(...levels)).toBeLessThan(3);
});

it('brings a murmur nearer to its vowel', () => {
  const opening = (seconds: number) =>
    seconds < 0.05 || seconds > 0.4 ? 0 : Math.min(1, 0.2 + 8 * Math.max(0, seconds - 0.12));
  const syllable = analyseSyllable(spoken(140, 'murmur', opening), 1)!;
  const distance = ({ frames, pitched, vowelFrom }: typeof syllable) =>
    Math.abs(frames[pitched].cepstrum[0] - frames[vowelFrom].cepstrum[0]);
  expect(distance(syllable)).toBeGreaterThan(0.5);
  expect(distance(withMurmur(syllable, 0.5))).toBeCloseTo(distance(syllable) / 2, 5);
});
