import { describe, expect, it } from 'vitest';
import { createRandom, delayOf, gaussian } from './index.ts';

const click = Float32Array.from({ length: 600 }, (_, i) => Math.sin(i * 0.4) * Math.exp(-i / 90));

function loop(delay: number, gain = 0.3, noise = 0): Float32Array {
  const random = createRandom(5);
  return Float32Array.from({ length: 24_000 }, (_, i) => {
    const at = i - delay;
    const whole = Math.floor(at);
    const [a, b] = [click[whole] ?? 0, click[whole + 1] ?? 0];
    return gain * (a + (b - a) * (at - whole)) + noise * gaussian(random);
  });
}

describe('the delay of a loop', () => {
  it.each([0, 1, 417, 5280, 17_000])(
    'of %i samples is found, through noise and with the sign turned',
    (delay) => {
      for (const [gain, noise] of [
        [0.3, 0],
        [-0.02, 0],
        [0.3, 0.01],
      ]) {
        const found = delayOf(click, loop(delay, gain, noise), 20_000);
        expect(Math.abs(found.samples - delay)).toBeLessThan(1);
        expect(found.likeness).toBeGreaterThan(0.8);
      }
    },
  );

  it('of parts of a sample is found', () => {
    expect(delayOf(click, loop(300.5), 1000).samples).toBeCloseTo(300.5, 0);
  });

  it('is no delay where nothing came back', () => {
    const random = createRandom(9);
    const noise = Float32Array.from({ length: 24_000 }, () => 0.01 * gaussian(random));
    expect(delayOf(click, noise, 20_000).likeness).toBeLessThan(0.5);
    expect(delayOf(click, new Float32Array(24_000), 20_000)).toEqual({ samples: 0, likeness: 0 });
  });
});
