import { describe, expect, it } from 'vitest';
import { C4, foundNote as found, silentActivations as silent } from '../../test/chordal.ts';
import { KEYS } from './network.ts';
import { END_INPUTS, endChoices, type EndChoice } from './noteEndInputs.ts';

/** Columns, in the order in which they are computed. */
const SOUNDS = 0;
const OCTAVE_BELOW_SOUNDS = 1;
const STARTS = 18;
const LEVEL_FALL = 20;
const STRUCK_AGAIN = 26;

/** What is looked at in a frame of the recording. */
const valueAt = ({ firstFrame, inputs }: EndChoice, frame: number, column: number) =>
  inputs[Math.floor((frame - firstFrame) / 2) * END_INPUTS + column];

describe('what tells where a note ends', () => {
  it('lies around where the end was found, and not behind where the key is struck again', () => {
    const [long, next] = endChoices([found(10, 600), found(640, 700)], silent(1000));
    // A second before its end, and what the network sees before that.
    expect(long).toMatchObject({ firstFrame: 514 - 62, fromFrame: 514, toFrame: 640 });
    expect(long.inputs).toHaveLength(((640 + 62 - long.firstFrame) / 2) * END_INPUTS);
    expect(next).toMatchObject({ firstFrame: 640, fromFrame: 644, toFrame: 872 });
    expect(valueAt(long, 638, STRUCK_AGAIN)).toBe(0);
    expect(valueAt(long, 640, STRUCK_AGAIN)).toBe(1);
    // Another key does not matter.
    expect(endChoices([found(10, 600), found(640, 700, C4 + 1)], silent(1000))[0].toFrame).toBe(772);
  });

  it('ends with the recording', () => {
    const [choice] = endChoices([found(10, 95)], silent(101));
    expect(choice.toFrame).toBe(101);
    expect(choice.inputs).toHaveLength(Math.floor((101 - 10) / 2) * END_INPUTS);
  });

  it('is how the key sounds, and the octave below it', () => {
    const activations = silent(200);
    for (let t = 20; t < 60; t++) activations.active[t * KEYS + C4] = 255;
    for (let t = 40; t < 60; t++) activations.active[t * KEYS + C4 - 12] = 51;
    const [choice] = endChoices([found(20, 60)], activations);
    expect(valueAt(choice, 30, SOUNDS)).toBe(1);
    expect(valueAt(choice, 62, SOUNDS)).toBe(0);
    expect(valueAt(choice, 30, OCTAVE_BELOW_SOUNDS)).toBe(0);
    expect(valueAt(choice, 50, OCTAVE_BELOW_SOUNDS)).toBeCloseTo(0.2, 5);
  });

  it('is by how much it is softer than in its beginning', () => {
    const activations = silent(200);
    // Ten decibels in half decibels, ten frames after the start.
    for (let t = 20; t < 120; t++) activations.level[t * KEYS + C4] = t < 30 ? 150 : 130;
    const [choice] = endChoices([found(20, 100)], activations);
    expect(valueAt(choice, 24, LEVEL_FALL)).toBeCloseTo(0, 5);
    expect(valueAt(choice, 60, LEVEL_FALL)).toBeCloseTo(-20 / 80, 5);
  });

  it('is how much starts at a time, six notes at most', () => {
    const activations = silent(200);
    for (const step of [0, 4, 7]) activations.onset[60 * KEYS + C4 + step] = 255;
    activations.onset.fill(255, 80 * KEYS, 81 * KEYS);
    const [choice] = endChoices([found(20, 100)], activations);
    expect(valueAt(choice, 60, STARTS)).toBeCloseTo(3 / 6 / 2, 5);
    expect(valueAt(choice, 80, STARTS)).toBeCloseTo(1 / 2, 5);
  });
});
