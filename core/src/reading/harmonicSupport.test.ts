import { describe, expect, it } from 'vitest';
import { hzToMidi } from '../theory/index.ts';
import { supportBelow, supportCandidates } from './harmonicSupport.ts';
import { READING_HZ } from './melodySettings.ts';
import { CANDIDATES } from './pitchCandidates.ts';

const SIZE = 1024;

/** A spectrum with peaks of the given amplitudes at the given frequencies. */
function spectrum(peaks: [hz: number, amplitude: number][]): Float32Array {
  const amplitude = new Float32Array(SIZE / 2 + 1).fill(1e-4);
  for (const [hz, value] of peaks) amplitude[Math.round((hz * SIZE) / READING_HZ)] = value;
  return amplitude;
}

/** Probabilities by candidate frequency after the spectrum was asked. */
function support(
  amplitude: Float32Array,
  candidates: [hz: number, probability: number][],
  highestHz = 2000,
  sung = false,
) {
  const midi = new Float32Array(CANDIDATES);
  const probability = new Float32Array(CANDIDATES);
  candidates.forEach(([hz, p], k) => {
    midi[k] = hzToMidi(hz);
    probability[k] = p;
  });
  supportCandidates(amplitude, SIZE, midi, probability, 0, hzToMidi(highestHz), sung);
  if (sung) supportBelow(amplitude, SIZE, midi, probability, 0, true);
  return (hz: number) =>
    probability.reduce((sum, p, k) => sum + (Math.abs(midi[k] - hzToMidi(hz)) < 0.5 ? p : 0), 0);
}

const harmonics = (hz: number, amplitudes: number[]): [number, number][] =>
  amplitudes.map((value, i) => [hz * (i + 1), value]);

describe('harmonic support', () => {
  it('gives the probability of an octave too low to the octave that sounds', () => {
    const at = support(spectrum(harmonics(440, [1, 0.6, 0.4, 0.3, 0.2])), [[220, 0.8]]);
    expect(at(440)).toBeCloseTo(0.8, 5);
    expect(at(220)).toBeCloseTo(0, 5);
  });

  it('the same for a twelfth, and adds to a candidate that is there already', () => {
    const at = support(spectrum(harmonics(660, [1, 0.6, 0.4, 0.3])), [
      [220, 0.5],
      [660, 0.3],
    ]);
    expect(at(660)).toBeCloseTo(0.8, 5);
  });

  it('leaves a pitch alone whose fundamental is missing or whose even harmonics are', () => {
    expect(support(spectrum(harmonics(220, [0, 1, 0.8, 0.6, 0.5])), [[220, 0.8]])(220)).toBeCloseTo(0.8, 5);
    // A stopped pipe has odd harmonics only.
    expect(support(spectrum(harmonics(220, [1, 0, 0.7, 0, 0.4])), [[220, 0.8]])(220)).toBeCloseTo(0.8, 5);
  });

  it('gives the octave above to the pitch whose odd harmonics stand between loud even ones', () => {
    // A dark vowel lifts the second harmonic by 20 dB over its neighbours.
    const vowel = spectrum(harmonics(220, [0.1, 1, 0.1, 0.1, 0.03]));
    const both: [number, number][] = [
      [440, 0.7],
      [220, 0.1],
    ];
    const at = support(vowel, both, 2000, true);
    expect(at(220)).toBeGreaterThan(0.75);
    // Nothing is made up: without a candidate there, and without odd harmonics, the octave above stays.
    expect(support(vowel, [[440, 0.7]], 2000, true)(440)).toBeCloseTo(0.7, 5);
    const plain = support(spectrum(harmonics(440, [1, 0.6, 0.4])), both, 2000, true);
    expect(plain(440)).toBeCloseTo(0.8, 5);
  });

  it('gives a reed its pitch back whose second harmonic is far the loudest', () => {
    // As an oboe's D sharp: the harmonics beside the second 20 and 17 dB down, with nothing between them.
    const reed = spectrum(harmonics(622, [0.1, 1, 0.14, 0.05, 0.05, 0.03]));
    const [midi, probability] = [new Float32Array(CANDIDATES), new Float32Array(CANDIDATES)];
    midi.set([hzToMidi(1244), hzToMidi(622)]);
    probability.set([0.7, 0.1]);
    supportBelow(reed, SIZE, midi, probability, 0);
    expect(probability[1]).toBeCloseTo(0.8, 2);
    // What stands 8 dB above its surroundings is a string that sounds along, or a lower stop of an organ.
    const beside = reed.map((value) => Math.max(value, 0.04 * Math.max(...reed)));
    midi.set([hzToMidi(1244), hzToMidi(622)]);
    probability.set([0.7, 0.1]);
    supportBelow(beside, SIZE, midi, probability, 0);
    expect(probability[0]).toBeCloseTo(0.7, 2);
    supportBelow(beside, SIZE, midi, probability, 0, true);
    expect(probability[1]).toBeGreaterThan(0.4);
  });

  it('leaves a voice its pitch where a vowel lifts the third harmonic, and gives the twelfth back to it', () => {
    const vowel = spectrum(harmonics(330, [0.06, 0.08, 1, 0.1, 0.07, 0.1]));
    expect(support(vowel, [[330, 0.7]], 2000, true)(330)).toBeCloseTo(0.7, 5);
    const both: [number, number][] = [
      [990, 0.6],
      [330, 0.2],
    ];
    expect(support(vowel, both, 2000, true)(330)).toBeGreaterThan(0.75);
    // What is not sung may be a harmonic that sounds alone.
    expect(support(vowel, [[330, 0.7]])(990)).toBeGreaterThan(0.5);
  });

  it('makes no candidate above the range', () => {
    const at = support(spectrum(harmonics(440, [1, 0.6, 0.4])), [[220, 0.8]], 400);
    expect(at(220)).toBeCloseTo(0.8, 5);
  });
});
