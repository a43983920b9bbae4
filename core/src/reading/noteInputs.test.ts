import { describe, expect, it } from 'vitest';
import { createFeatureStream } from './frameFeatures.ts';
import { KINDS, READING_HZ } from './melodySettings.ts';
import { NOTE_INPUTS, noteInputs } from './noteInputs.ts';
import { trackPitch } from './pitchTrack.ts';
import { BAND_COUNT, writeBandLevels } from './spectralBands.ts';
import { hannWindow, createRealTransform } from '../signal/index.ts';
import { playTones } from '../test/tones.ts';

const tones = [
  { startSeconds: 0.3, endSeconds: 0.9, midi: 60 },
  { startSeconds: 0.9, endSeconds: 1.5, midi: 62 },
];

function inputsOf(gain: number): Float32Array {
  const stream = createFeatureStream(KINDS.voice);
  stream.push(playTones(tones, 2, READING_HZ, 1e-5).map((value) => value * gain));
  const features = stream.finish();
  return noteInputs(features, trackPitch(features));
}

describe('inputs of the note network', () => {
  const inputs = inputsOf(1);
  const at = (seconds: number) => {
    const frame = Math.round((seconds * READING_HZ) / 256);
    return [...inputs.subarray(frame * NOTE_INPUTS, (frame + 1) * NOTE_INPUTS)];
  };

  it('tell the pitch and where it goes', () => {
    const [, , , , , , , , ...rest] = at(0.85);
    expect(at(0.85)[0]).toBeCloseTo(0, 2);
    expect(at(1.2)[0]).toBeCloseTo(2 / 24, 2);
    // 93 ms ahead (eight frames) lies the tone two semitones higher, and behind is the same tone.
    const [, minus8, , , , , , , plus8] = rest;
    expect(plus8).toBeCloseTo(2, 1);
    expect(minus8).toBeCloseTo(0, 1);
  });

  it('are those of a recording that is louder, too', () => {
    const quiet = inputsOf(0.1);
    const distances = [...inputs].map((value, i) => Math.abs(value - quiet[i])).sort((x, y) => x - y);
    // But for a few frames at the edges, where noise is nearer to the floor of what is measured.
    expect(distances[Math.floor(0.99 * distances.length)]).toBeLessThan(0.1);
    expect(distances[Math.floor(0.5 * distances.length)]).toBeLessThan(0.001);
  });
});

describe('levels of bands', () => {
  it('put a sine at full scale at 0 dB in its own band and far below in others', () => {
    const size = 1024;
    const window = hannWindow(size);
    const hz = 700;
    const frame = window.map((w, i) => w * Math.sin((2 * Math.PI * hz * i) / READING_HZ));
    const bins = createRealTransform(size).forward(frame);
    const amplitude = Float32Array.from({ length: size / 2 }, (_, k) =>
      Math.hypot(bins[2 * k], bins[2 * k + 1]),
    );
    const levels = new Float32Array(BAND_COUNT + 1);
    writeBandLevels(amplitude, size, levels, 1);
    // 550–850 Hz is the fourth band, written one place further on.
    const loudest = levels.indexOf(Math.max(...levels.subarray(1)));
    expect(loudest).toBe(4);
    expect(levels[4]).toBeCloseTo(0, 0);
    expect(levels[7]).toBeLessThan(-60);
  });
});
