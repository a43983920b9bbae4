import { describe, expect, it } from 'vitest';
import { createRandom, gaussian } from '../signal/index.ts';
import { createLivePitch, createTuner, stringOf, VOICE_RANGE } from './index.ts';

/** A string or a voice: harmonics that fall by the square root of their number, with a little noise. */
function tone(hz: number, seconds: number, rateHz: number, harmonics = 8): Float32Array {
  const random = createRandom(1);
  return Float32Array.from({ length: seconds * rateHz }, (_, i) => {
    let sum = 0.001 * gaussian(random);
    for (let h = 1; h <= harmonics && h * hz < rateHz / 2; h++)
      sum += (0.1 / Math.sqrt(h)) * Math.sin((2 * Math.PI * h * hz * i) / rateHz + h);
    return sum;
  });
}
const cents = (a: number, b: number) => 1200 * Math.log2(a / b);

describe('a tuner', () => {
  // By the equal temperament of ISO 16 (A4 = 440 Hz), from below a five-string bass to the top of a guitar.
  it.each([25, 30.87, 41.2, 55, 82.41, 110, 146.83, 196, 246.94, 329.63, 440, 659.26, 987.77, 1318.5, 1600])(
    'shows %f Hz within a cent after 0.2 s, and stands still',
    (hz) => {
      for (const rate of [44_100, 48_000])
        for (const off of [-7.3, 0, 12.6]) {
          const played = hz * 2 ** (off / 1200);
          const tuner = createTuner(rate, () => 440);
          const sound = tone(played, 0.5, rate);
          const shown: number[] = [];
          for (let at = 0; at < sound.length; at += 1024) {
            const reading = tuner.push(sound.subarray(at, at + 1024));
            if (at + 1024 >= 0.2 * rate) {
              expect(reading, `${hz} Hz at ${at / rate} s`).toBeDefined();
              shown.push(cents(reading!.hz, played));
            }
          }
          expect(Math.max(...shown.map(Math.abs))).toBeLessThan(1);
        }
    },
  );

  it('goes by the reference', () => {
    const shown = (a4Hz: number) => {
      const tuner = createTuner(44_100, () => a4Hz);
      return tuner.push(tone(432, 0.5, 44_100))!;
    };
    expect(shown(432)).toMatchObject({ midi: 69, cents: expect.closeTo(0, 0) });
    expect(shown(440).cents).toBeCloseTo(cents(432, 440), 0);
    expect(shown(466)).toMatchObject({ midi: 68 });
  });

  it('shows nothing for silence, noise, or a new note that is just beginning', () => {
    const random = createRandom(3);
    const tuner = createTuner(44_100, () => 440);
    expect(tuner.push(new Float32Array(20_000))).toBeUndefined();
    expect(tuner.push(Float32Array.from({ length: 20_000 }, () => 0.1 * gaussian(random)))).toBeUndefined();
    expect(tuner.push(tone(110, 0.4, 44_100))?.midi).toBe(45);
    const changed = tuner.push(tone(220, 0.2, 44_100).subarray(0, 6000));
    expect([undefined, 45]).toContain(changed?.midi);
  });

  it('knows the open strings', () => {
    // Standard tunings of guitar (E A D G B E) and bass (B E A D G): common practice.
    expect([40, 45, 50, 55, 59, 64].map(stringOf).every((name) => name?.startsWith('guitar'))).toBe(true);
    expect([23, 28, 33, 38, 43].map(stringOf).every((name) => name?.startsWith('bass'))).toBe(true);
    expect(stringOf(60)).toBeUndefined();
  });
});

describe('the pitch of what is sung', () => {
  it('follows a slide, and is known within 50 ms of sounding', () => {
    const rate = 48_000;
    let phase = 0;
    const midiAt = (seconds: number) => 57 + 7 * Math.min(1, seconds);
    const sound = Float32Array.from({ length: 1.5 * rate }, (_, i) => {
      phase += (2 * Math.PI * 440 * 2 ** ((midiAt(i / rate) - 69) / 12)) / rate;
      return 0.2 * Math.sin(phase) + 0.1 * Math.sin(2 * phase) + 0.05 * Math.sin(3 * phase);
    });
    const stream = createLivePitch(rate, VOICE_RANGE);
    let last = 0;
    let heard = 0;
    for (let at = 0; at < sound.length; at += 1024)
      for (const { seconds, midi } of stream.push(sound.subarray(at, at + 1024))) {
        heard++;
        expect((at + 1024) / rate - seconds).toBeLessThan(0.08);
        if (midi !== undefined) expect(Math.abs(midi - midiAt(seconds))).toBeLessThan(0.2);
        last = seconds;
      }
    expect(heard).toBeGreaterThan(110);
    expect(last).toBeGreaterThan(1.43);
  });
});
