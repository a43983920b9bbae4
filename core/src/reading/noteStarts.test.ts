import { describe, expect, it } from 'vitest';
import { createRandom, gaussian } from '../signal/index.ts';
import { readMelody } from './readMelody.ts';
import { attackStart } from './noteStarts.ts';
import { ENVELOPE_HOP_SAMPLES, READING_HZ } from './melodySettings.ts';

const RATE = 44100;

/** Plucked tones of eight harmonics over faint noise; `rings`: each sounds on under the next. */
function pluck(starts: number[], hz: number, rings: boolean): Float32Array {
  const random = createRandom(11);
  const out = Float32Array.from({ length: RATE * 4 }, () => 0.0005 * gaussian(random));
  starts.forEach((start, k) => {
    const first = Math.round(start * RATE);
    const last = rings ? out.length : Math.round(((starts[k + 1] ?? 4) - 0.06) * RATE);
    for (let i = first; i < last; i++) {
      const t = (i - first) / RATE;
      const fade = Math.min(1, t / 0.002, (last - i) / (0.01 * RATE));
      for (let h = 1; h <= 8; h++)
        out[i] += (0.2 / h) * fade * Math.exp(-3 * t) * Math.sin(2 * Math.PI * hz * h * t);
    }
  });
  return out;
}

describe('starts of notes', () => {
  // The true starts are those the sound was made with.
  const starts = [0.3, 0.813, 1.377, 1.921, 2.65, 3.214];

  it.each([98, 220, 660])('are found to 3 ms after silence, at %i Hz', (hz) => {
    const { notes } = readMelody(pluck(starts, hz, false), RATE, 'guitar');
    expect(notes).toHaveLength(starts.length);
    notes.forEach((note, i) => expect(Math.abs(note.startSeconds - starts[i])).toBeLessThan(0.003));
    notes.forEach((note, i) => expect(note.endSeconds).toBeLessThanOrEqual(starts[i + 1] ?? 4));
  });

  it('are found to 6 ms where the note before rings on', () => {
    const { notes } = readMelody(pluck(starts, 220, true), RATE, 'guitar');
    expect(notes).toHaveLength(starts.length);
    notes.forEach((note, i) => expect(Math.abs(note.startSeconds - starts[i])).toBeLessThan(0.006));
  });

  it('are left to the evidence where the envelope shows no attack', () => {
    const steady = new Float32Array(400).fill(0.3);
    expect(attackStart(steady, 200 * ENVELOPE_HOP_SAMPLES, READING_HZ / 220)).toBeUndefined();
    expect(attackStart(new Float32Array(400), 200 * ENVELOPE_HOP_SAMPLES, 100)).toBeUndefined();
    expect(attackStart(new Float32Array(0), 0, 100)).toBeUndefined();
    // A rise that lies further from the evidence than it can err belongs to something else.
    const late = Float32Array.from({ length: 400 }, (_, i) => (i < 217 ? 0 : 0.3));
    expect(attackStart(late, 200 * ENVELOPE_HOP_SAMPLES, 100)).toBeUndefined();
    expect(attackStart(late, 213 * ENVELOPE_HOP_SAMPLES, 100)! / ENVELOPE_HOP_SAMPLES).toBeCloseTo(216.5, 0);
  });
});

describe('a swell', () => {
  it('has its start where it comes within 15 dB of its peak, as far behind the evidence as is allowed', () => {
    // 2.9 ms a value: silence, then 0.15 s of even growth from nothing to 1.
    const swell = Float32Array.from({ length: 200 }, (_, i) => Math.min(1, Math.max(0, (i - 50) / 52)));
    const near = 50 * 64;
    // −15 dB is 0.178 of the peak: 9 values after the first sound, 27 ms; the evidence may be far earlier.
    const at = attackStart(swell, near - 0.06 * 22050, 100, 0.12)!;
    expect(Math.abs(at / 22050 - (near / 22050 + 0.027))).toBeLessThan(0.006);
    expect(attackStart(swell, near - 0.06 * 22050, 100)).toBeUndefined();
  });
});
