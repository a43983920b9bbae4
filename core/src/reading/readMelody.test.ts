import { describe, expect, it } from 'vitest';
import { createRandom, gaussian } from '../signal/index.ts';
import { hzToMidi, midiToHz } from '../theory/index.ts';
import { playTones, type Tone } from '../test/tones.ts';
import { createMelodyReader, readMelody } from './index.ts';

const RATE = 44100;
const read = (tones: Tone[], seconds: number, kind: 'voice' | 'guitar' | 'bass' | 'auto' = 'auto') =>
  readMelody(playTones(tones, seconds, RATE), RATE, kind);

interface Sung {
  seconds: number;
  midi: number;
  /** How long the pitch takes from the note before, half of it before the note. */
  slideSeconds?: number;
  /** Soft and dark for so long, as m and n are. */
  murmurSeconds?: number;
}

/** A voice without a break from second 0.3 on: harmonics under two formants, a murmur 12 dB softer with hardly any but the lowest. */
function sung(notes: Sung[]): Float32Array {
  const random = createRandom(8);
  const total = notes.reduce((sum, { seconds }) => sum + seconds, 0);
  const out = new Float32Array(Math.round((total + 0.8) * RATE));
  const starts = notes.map((_, i) => 0.3 + notes.slice(0, i).reduce((sum, { seconds }) => sum + seconds, 0));
  let phase = 0;
  let dark = 0;
  for (let i = 0; i < out.length; i++) {
    out[i] = 1e-4 * gaussian(random);
    const t = i / RATE;
    if (t < 0.3 || t >= 0.3 + total) continue;
    const index = starts.findLastIndex((start) => t >= start);
    let midi = notes[index].midi;
    notes.forEach(({ slideSeconds = 0.03, midi: to }, k) => {
      if (k === 0) return;
      const place = (t - starts[k]) / slideSeconds;
      if (Math.abs(place) < 1)
        midi = notes[k - 1].midi + (to - notes[k - 1].midi) / (1 + Math.exp(-6 * place));
    });
    const goal = t - starts[index] < (notes[index].murmurSeconds ?? 0) ? 1 : 0;
    dark += (goal - dark) / (0.015 * RATE);
    const hz = midiToHz(midi);
    phase += hz / RATE;
    let sum = 0;
    for (let k = 1; k * hz < 8000; k++) {
      const vowel =
        (0.1 + Math.exp(-(((k * hz - 700) / 250) ** 2)) + 0.5 * Math.exp(-(((k * hz - 1200) / 300) ** 2))) /
        k ** 0.6;
      const murmur = 0.25 * Math.exp(-(((k * hz - 250) / 150) ** 2)) + 0.01 / k;
      sum += (vowel * (1 - dark) + murmur * dark) * Math.sin(2 * Math.PI * k * phase);
    }
    out[i] += 0.2 * sum * Math.min(1, (t - 0.3) / 0.02, (0.3 + total - t) / 0.03);
  }
  return out;
}

describe('reading a melody', () => {
  it('keeps apart what may be a note but hardly is: chords read as one line', () => {
    const chords = [0, 1, 2, 3].flatMap((k) =>
      [48, 52, 55, 59].map((midi, i) => ({
        startSeconds: 0.3 + k + 0.02 * i,
        endSeconds: 1.1 + k,
        midi: midi + k,
      })),
    );
    const { notes, faintNotes } = read(chords, 5, 'guitar');
    expect(notes.length).toBeGreaterThan(0);
    expect(faintNotes.length).toBeGreaterThan(0);
    const surest = Math.max(...faintNotes.map(({ confidence }) => confidence));
    expect(Math.min(...notes.map(({ confidence }) => confidence))).toBeGreaterThan(surest);
  });

  it('finds the open strings of a guitar (equal temperament from ISO 16) with their times', () => {
    const strings = [40, 45, 50, 55, 59, 64];
    const tones = strings.map((midi, i) => ({
      startSeconds: 0.3 + i * 0.6,
      endSeconds: 0.75 + i * 0.6,
      midi,
    }));
    const { notes } = read(tones, 4.5, 'guitar');
    expect(notes.map((note) => Math.round(note.midi))).toEqual(strings);
    notes.forEach((note, i) => {
      expect(Math.abs(note.startSeconds - tones[i].startSeconds)).toBeLessThan(0.03);
      expect(Math.abs(note.midi - strings[i]) * 100).toBeLessThan(3);
    });
  });

  it('keeps a vibrato note whole and measures its centre', () => {
    const { notes } = read([{ startSeconds: 0.4, endSeconds: 2.4, midi: 67, vibratoCents: 70 }], 3, 'voice');
    expect(notes).toHaveLength(1);
    expect(Math.abs(notes[0].midi - 67) * 100).toBeLessThan(15);
  });

  it.each([160, 220])('follows a vibrato of ±%i cents of a high voice to its turning points', (cents) => {
    // Wide operatic vibrato reaches a semitone and more to either side (Sundberg 1994, from memory: 50–150 cents are usual).
    const span = { startSeconds: 0.4, endSeconds: 3.4 };
    const { contour } = read([{ ...span, midi: 74, vibratoCents: cents }], 4, 'voice');
    const inside = [...contour.f0Hz].filter((_, i) => {
      const seconds = i * contour.hopSeconds;
      return seconds > span.startSeconds + 0.4 && seconds < span.endSeconds - 0.3;
    });
    const midi = inside.map((hz) => hzToMidi(Math.abs(hz)));
    expect(Math.max(...midi)).toBeGreaterThan(74 + (0.93 * cents) / 100);
    expect(Math.min(...midi)).toBeLessThan(74 - (0.93 * cents) / 100);
  });

  it('takes repeated notes on one pitch apart', () => {
    const tones = [0, 1, 2, 3].map((i) => ({
      startSeconds: 0.3 + i * 0.4,
      endSeconds: 0.66 + i * 0.4,
      midi: 62,
    }));
    const { notes } = read(tones, 2.5);
    expect(notes.map((note) => Math.round(note.midi))).toEqual([62, 62, 62, 62]);
  });

  it('keeps held tones whole when something clicks beside them', () => {
    const random = createRandom(5);
    const samples = playTones(
      [57, 64, 60, 69].map((midi, k) => ({ startSeconds: 0.3 + k, endSeconds: 1.2 + k, midi })),
      4.6,
      RATE,
    );
    for (const seconds of [0.8, 1.7, 1.95, 2.75, 3.7, 3.9])
      for (let i = 0; i < 0.01 * RATE; i++)
        samples[Math.round(seconds * RATE) + i] += 0.15 * gaussian(random) * Math.exp(-i / (0.002 * RATE));
    const { notes } = readMelody(samples, RATE);
    expect(notes.map((note) => Math.round(note.midi))).toEqual([57, 64, 60, 69]);
  });

  it('starts a slurred note where the pitch passes half way', () => {
    const { notes } = readMelody(
      sung([
        { seconds: 1, midi: 60 },
        { seconds: 1, midi: 64, slideSeconds: 0.16 },
      ]),
      RATE,
      'voice',
    );
    expect(notes.map(({ midi }) => Math.round(midi))).toEqual([60, 64]);
    expect(Math.abs(notes[1].startSeconds - 1.3)).toBeLessThan(0.03);
  });

  it('starts a note that begins with a murmur where the murmur takes on its pitch', () => {
    const { notes } = readMelody(
      sung([
        { seconds: 0.8, midi: 60 },
        { seconds: 0.8, midi: 60, murmurSeconds: 0.09 },
        { seconds: 0.8, midi: 63, murmurSeconds: 0.09 },
      ]),
      RATE,
      'voice',
    );
    expect(notes.map(({ midi }) => Math.round(midi))).toEqual([60, 60, 63]);
    // Not at the vowel, 90 ms later.
    expect(Math.abs(notes[2].startSeconds - 1.9)).toBeLessThan(0.05);
  });

  it('measures cents and the tuning of the recording', () => {
    const tones = [60, 64, 67, 72].map((midi, i) => ({
      startSeconds: 0.3 + i * 0.6,
      endSeconds: 0.8 + i * 0.6,
      midi: midi - 0.2,
    }));
    const reading = read(tones, 3);
    expect(reading.tuningCents).toBeGreaterThan(-24);
    expect(reading.tuningCents).toBeLessThan(-16);
    reading.notes.forEach((note, i) => expect(note.midi).toBeCloseTo(tones[i].midi, 1));
  });

  it('lets velocity follow the dynamics', () => {
    const tones = [0.4, 0.1, 0.025].map((level, i) => ({
      startSeconds: 0.3 + i * 0.8,
      endSeconds: 0.9 + i * 0.8,
      midi: 64,
      level,
    }));
    const { notes } = read(tones, 3);
    expect(notes).toHaveLength(3);
    const [loud, middle, soft] = notes.map((note) => note.velocity);
    expect(loud - middle).toBeGreaterThan(12);
    expect(middle - soft).toBeGreaterThan(12);
    expect(soft).toBeGreaterThan(10);
  });

  it('reads a bass on automatic with the range of a bass, and says so', () => {
    const tones = [28, 31, 33, 36].map((midi, i) => ({
      startSeconds: 0.3 + i * 0.6,
      endSeconds: 0.85 + i * 0.6,
      midi,
    }));
    const reading = read(tones, 3);
    expect(reading.kind.kind).toBe('bass');
    expect(reading.kind.reason).toMatch(/bass/);
    expect(reading.notes.map((note) => Math.round(note.midi))).toEqual([28, 31, 33, 36]);
  });

  it('gives a contour whose frames lie on the pitch', () => {
    const { contour } = read([{ startSeconds: 0.5, endSeconds: 1.5, midi: 69 }], 2, 'voice');
    const at = (seconds: number) => contour.f0Hz[Math.round(seconds / contour.hopSeconds)];
    expect(Math.abs(hzToMidi(at(1)) - 69) * 100).toBeLessThan(3);
    expect(at(0.2)).toBe(0);
    expect(at(1.9)).toBe(0);
  });

  it('reads the same in pieces as at once', () => {
    const samples = playTones(
      [
        { startSeconds: 0.3, endSeconds: 1, midi: 60 },
        { startSeconds: 1.1, endSeconds: 1.8, midi: 65 },
      ],
      2.2,
      RATE,
    );
    const reader = createMelodyReader(RATE, 'auto');
    for (let at = 0; at < samples.length; at += 7777) reader.push(samples.subarray(at, at + 7777));
    const pieces = reader.finish();
    const whole = readMelody(samples, RATE, 'auto');
    expect(pieces.notes.length).toBe(2);
    expect(pieces.notes.map((note) => Math.round(note.midi))).toEqual(
      whole.notes.map((note) => Math.round(note.midi)),
    );
  });
});

describe('bad input', () => {
  const quiet = (samples: Float32Array, rate = RATE) => readMelody(samples, rate).notes;

  it.each([
    ['nothing', new Float32Array(0)],
    ['one sample', new Float32Array(1).fill(0.5)],
    ['silence', new Float32Array(RATE)],
    ['a constant', new Float32Array(RATE).fill(0.8)],
    [
      'NaN and infinity',
      Float32Array.from({ length: RATE }, (_, i) => (i % 3 === 0 ? NaN : i % 3 === 1 ? Infinity : -Infinity)),
    ],
  ])('%s gives no notes and no error', (_, samples) => {
    expect(quiet(samples)).toEqual([]);
  });

  it('noise gives few notes, none of them sure', () => {
    const random = createRandom(3);
    const notes = quiet(Float32Array.from({ length: 4 * RATE }, () => gaussian(random) * 0.2));
    expect(notes.length).toBeLessThan(8);
    expect(notes.filter((note) => note.confidence > 0.8)).toEqual([]);
  });

  it.each([8000, 192000])('reads at %i Hz', (rate) => {
    const { notes } = readMelody(
      playTones([{ startSeconds: 0.2, endSeconds: 1, midi: 62 }], 1.3, rate),
      rate,
    );
    expect(notes.map((note) => Math.round(note.midi))).toEqual([62]);
  });
});
