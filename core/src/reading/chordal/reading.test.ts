import { describe, expect, it } from 'vitest';
import { createRandom, gaussian } from '../../signal/index.ts';
import { midiToHz } from '../../theory/index.ts';
import { READING_HZ } from '../melodySettings.ts';
import { computeActivations } from './activations.ts';
import { decodeNotes, DEFAULT_SENSITIVITY } from './decodeNotes.ts';
import { readMelody } from '../readMelody.ts';
import coarseReference from './coarseReference.json' with { type: 'json' };
import { BINS, computeMaps, decimate } from './frontEnd.ts';
import { createNetwork, HEADS, KEYS } from './network.ts';
import { networkWeights } from './networkWeights.ts';
import { createChordalReader } from './readNotes.ts';
import reference from './reference.json' with { type: 'json' };
import { estimateSpectralTuning } from './spectralTuning.ts';

/** Decaying tones with four harmonics, as in training/reference.py. */
function tones(
  notes: [midi: number, startSeconds: number][],
  seconds: number,
  rate = READING_HZ,
): Float32Array {
  const out = new Float32Array(Math.round(seconds * rate));
  for (const [midi, startSeconds] of notes) {
    const first = Math.floor(startSeconds * rate);
    for (let i = first; i < out.length; i++) {
      const t = (i - first) / rate;
      for (let harmonic = 1; harmonic <= 4; harmonic++)
        out[i] += (0.2 / harmonic) * Math.sin(2 * Math.PI * midiToHz(midi) * harmonic * t) * Math.exp(-3 * t);
    }
  }
  return out;
}

const REFERENCE_TONES: [number, number][] = [
  [48.2, 0.25],
  [64.2, 0.75],
  [79.2, 1.25],
];
const read = (samples: Float32Array) => decodeNotes(computeActivations(samples), { sensitivity: 0.5 });

// Source: the same signal through the front end and network in Python (numpy, PyTorch), training/reference.py.
describe('the reader beside its training', () => {
  const samples = tones(REFERENCE_TONES, 2);
  const maps = computeMaps(samples, decimate(samples), 20);

  it('sees the same maps', () => {
    let far = 0;
    let seen = 0;
    reference.frames.forEach((frame, f) =>
      [0, 1].forEach((map) =>
        reference.bins.forEach((bin, b) => {
          const steps = reference.steps[f][map][b];
          // What lies 75 dB below the loudest is not seen by the network.
          if (steps < 80) return;
          seen++;
          if (Math.abs(maps.values[frame * 2 * BINS + map * BINS + bin] - steps) > 2) far++;
        }),
      ),
    );
    expect(seen).toBeGreaterThan(300);
    expect(far / seen).toBeLessThan(0.01);
  });

  it.each([
    { network: 'whole', coarse: false, expected: reference },
    { network: 'coarse', coarse: true, expected: coarseReference },
  ])('says the same of it, up to eight-bit weights: $network network', ({ coarse, expected }) => {
    const loudest = Math.max(...maps.values);
    expect(loudest).toBeGreaterThan(200);
    const { onset, active } = computeActivations(samples, { coarse });
    const errors = expected.frames.flatMap((frame, f) =>
      expected.keys.flatMap((key, k) =>
        [onset, active].map((said, head) => {
          const probability = 1 / (1 + Math.exp(-expected.logits[f][k][head]));
          return Math.abs(said[frame * KEYS + key] / 255 - probability);
        }),
      ),
    );
    expect(errors.length).toBe(2 * expected.frames.length * expected.keys.length);
    expect(Math.max(...errors)).toBeLessThan(0.12);
    expect(errors.reduce((sum, error) => sum + error, 0) / errors.length).toBeLessThan(0.01);
  });

  it('says nearly the same of every other frame alone', () => {
    const whole = computeActivations(samples);
    const coarse = computeActivations(samples, { coarse: true });
    let [far, most] = [0, 0];
    whole.active.forEach((value, i) => {
      far += Math.abs(value - coarse.active[i]) / 255 / whole.active.length;
      most = Math.max(most, coarse.active[i]);
    });
    expect(most).toBeGreaterThan(200);
    // A third of the weights, half of the frames.
    expect(far).toBeLessThan(0.01);
    // What lies between is the mean of its neighbours.
    const at = 61 * KEYS + 64 - 21;
    expect(coarse.active[at]).toBeCloseTo((coarse.active[at - KEYS] + coarse.active[at + KEYS]) / 2, -0.5);
  });

  it('does not depend on where a recording is cut into passes', () => {
    const frames = 1100;
    const random = createRandom(4);
    const map = Float32Array.from({ length: frames * 2 * BINS }, () => random());
    const whole = new Float32Array(frames * KEYS * HEADS);
    const network = createNetwork(networkWeights());
    network.run(
      frames,
      (frame, out) => out.set(map.subarray(frame * 2 * BINS, (frame + 1) * 2 * BINS)),
      (first, logits) => whole.set(logits, first * KEYS * HEADS),
    );
    // The middle of a shorter run sees the same surroundings as that stretch of the long one.
    const from = 400;
    const part = new Float32Array(300 * KEYS * HEADS);
    network.run(
      300,
      (frame, out) => out.set(map.subarray((from + frame) * 2 * BINS, (from + frame + 1) * 2 * BINS)),
      (first, logits) => part.set(logits, first * KEYS * HEADS),
    );
    const size = KEYS * HEADS;
    for (const frame of [60, 112, 150, 239])
      expect(Array.from(part.subarray(frame * size, frame * size + 40))).toEqual(
        Array.from(whole.subarray((from + frame) * size, (from + frame) * size + 40)),
      );
  });
});

describe('tuning before any note is known', () => {
  // Equal temperament on A4 = 440 Hz (ISO 16), moved by known cents.
  it.each([-45, -20, 0, 13, 40])('of %i cents is found within 4', (cents) => {
    const chord = [45, 52, 57, 61].map((midi): [number, number] => [midi + cents / 100, 0.1]);
    expect(Math.abs(estimateSpectralTuning(decimate(tones(chord, 1.5))) - cents)).toBeLessThan(4);
  });

  it('is 0 where nothing sounds', () => {
    expect(estimateSpectralTuning(decimate(new Float32Array(READING_HZ)))).toBe(0);
  });
});

describe('notes of chords', () => {
  // C major: C4, E4, G4 (common practice), pitches of ISO 16.
  it('are those that sound, at their time', () => {
    const notes = read(
      tones(
        [60, 64, 67].map((midi) => [midi, 0.5]),
        2,
      ),
    );
    const sure = notes.filter((note) => note.confidence > 0.6).map((note) => Math.round(note.midi));
    expect(sure.sort()).toEqual([60, 64, 67]);
    for (const note of notes.slice(0, 3)) expect(Math.abs(note.startSeconds - 0.5)).toBeLessThan(0.03);
  });

  it('lie where a recording out of tune has them', () => {
    const notes = read(
      tones(
        [59.65, 63.65, 66.65].map((midi) => [midi, 0.5]),
        2,
      ),
    );
    const sure = notes.filter((note) => note.confidence > 0.6).map((note) => note.midi);
    expect(sure.length).toBe(3);
    sure.sort().forEach((midi, i) => expect(Math.abs(midi - [59.65, 63.65, 66.65][i])).toBeLessThan(0.05));
  });

  it('are as loud as the reader of single lines finds them, from soft to loud', () => {
    // Plucked tones from −36 to −6 dB below full scale, a whole tone apart.
    const samples = new Float32Array(READING_HZ * 7);
    for (let k = 0; k < 6; k++) {
      const hz = 440 * 2 ** ((57 + 2 * k - 69) / 12);
      for (let i = 0; i < 0.8 * READING_HZ; i++) {
        const t = i / READING_HZ;
        let value = 0;
        for (let h = 1; h <= 5; h++) value += Math.sin(2 * Math.PI * hz * h * t) / h;
        const edge = Math.min(1, t / 0.004, (0.8 - t) / 0.02);
        samples[Math.round((k + 0.2) * READING_HZ) + i] +=
          10 ** ((6 * k - 36) / 20) * 0.5 * value * Math.exp(-3 * t) * edge;
      }
    }
    const single = readMelody(samples, READING_HZ, 'guitar').notes;
    const chordal = decodeNotes(computeActivations(samples), { sensitivity: DEFAULT_SENSITIVITY });
    expect(chordal.map(({ midi }) => Math.round(midi))).toEqual([57, 59, 61, 63, 65, 67]);
    expect(single).toHaveLength(6);
    chordal.forEach(({ velocity }, i) => {
      // How hard is judged beside the other notes here, and by the level alone there.
      expect(Math.abs(velocity - single[i].velocity)).toBeLessThanOrEqual(8);
      if (i > 0) expect(velocity).toBeGreaterThan(chordal[i - 1].velocity + 4);
    });
  });

  it('are louder where they are played louder', () => {
    const soft = tones([[60, 0.5]], 1.5).map((value) => value * 0.1);
    const loud = tones([[60, 0.5]], 1.5);
    expect(read(loud)[0].velocity).toBeGreaterThan(read(soft)[0].velocity + 20);
  });

  it('do not depend on the pieces in which the recording arrives, and its rate', () => {
    const samples = tones(
      [
        [55, 0.3],
        [62, 0.3],
        [71, 0.9],
      ],
      2,
      44100,
    );
    const whole = createChordalReader(44100);
    whole.push(samples);
    const pieces = createChordalReader(44100);
    for (let at = 0; at < samples.length; at += 7919) pieces.push(samples.subarray(at, at + 7919));
    const expected = decodeNotes(whole.finish(), { sensitivity: 0.5 });
    expect(decodeNotes(pieces.finish(), { sensitivity: 0.5 })).toEqual(expected);
    expect(expected.length).toBeGreaterThanOrEqual(3);
  });
});

describe('what holds no chord', () => {
  const random = createRandom(9);
  const noise = (level: number) =>
    Float32Array.from({ length: 3 * READING_HZ }, () => level * gaussian(random));

  it.each([
    ['nothing at all', new Float32Array(0)],
    ['silence', new Float32Array(2 * READING_HZ)],
    ['the faintest noise', noise(1e-6)],
  ])('%s has no notes', (_, samples) => {
    expect(read(samples)).toEqual([]);
  });

  it('noise is not taken for playing', () => {
    const sure = read(noise(0.2)).filter((note) => note.confidence > 0.6);
    expect(sure.length).toBeLessThanOrEqual(3);
  });

  it('values that are not finite count as silence', () => {
    const samples = tones([[60, 0.5]], 1.5);
    samples[100] = NaN;
    samples[5000] = Infinity;
    const reader = createChordalReader(READING_HZ);
    reader.push(samples);
    const notes = decodeNotes(reader.finish(), { sensitivity: 0.5 });
    expect(notes.some((note) => Math.round(note.midi) === 60)).toBe(true);
    expect(notes.every((note) => Number.isFinite(note.startSeconds + note.midi + note.confidence))).toBe(
      true,
    );
  });

  it('a clipped and distorted fifth holds only its own pitch classes', () => {
    const samples = tones(
      [
        [40, 0.4],
        [47, 0.4],
        [52, 0.4],
      ],
      2,
    ).map((value) => Math.tanh(20 * value));
    const sure = read(samples).filter((note) => note.confidence > 0.6);
    expect(sure.length).toBeGreaterThan(0);
    // E and B; distortion adds the difference tone, E an octave lower.
    for (const { midi } of sure) expect([4, 11]).toContain(Math.round(midi) % 12);
  });

  it('one chord that sounds from the first sample on, for twenty seconds, stays a few notes', () => {
    const held = new Float32Array(20 * READING_HZ);
    for (const midi of [48, 55, 64])
      for (let i = 0; i < held.length; i++)
        for (let harmonic = 1; harmonic <= 4; harmonic++)
          held[i] += (0.1 / harmonic) * Math.sin((2 * Math.PI * midiToHz(midi) * harmonic * i) / READING_HZ);
    const notes = read(held);
    expect(notes.length).toBeGreaterThanOrEqual(2);
    expect(notes.length).toBeLessThan(15);
  });
});
