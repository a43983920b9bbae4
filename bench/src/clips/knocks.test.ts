import { expect, it } from 'vitest';
import { createRandom } from '@plundra/core/signal';
import { addKnocks } from './knocks.ts';

it('adds short sounds and leaves the rest as it was', () => {
  const rateHz = 22050;
  const tone = () =>
    Float32Array.from({ length: 10 * rateHz }, (_, n) => 0.1 * Math.sin((2 * Math.PI * 220 * n) / rateHz));
  const knocked = tone();
  addKnocks(knocked, rateHz, createRandom(3));
  const plain = tone();
  const changed = knocked.filter((value, n) => value !== plain[n]).length / plain.length;
  expect(changed).toBeGreaterThan(0.0005);
  expect(changed).toBeLessThan(0.25);
  expect(knocked.every(Number.isFinite)).toBe(true);
  const loudest = knocked.reduce((most, value, n) => Math.max(most, Math.abs(value - plain[n])), 0);
  expect(loudest).toBeGreaterThan(0.05);
  expect(loudest).toBeLessThan(0.8);
});
