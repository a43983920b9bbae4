import { describe, expect, it } from 'vitest';
import { HOP_SECONDS } from '../melodySettings.ts';
import type { Activations } from './activations.ts';
import { decodeNotes, DEFAULT_SENSITIVITY } from './decodeNotes.ts';
import { KEYS, LOWEST_KEY } from './network.ts';

/** Activations of notes given as [key, start frame, end frame, onset probability]. */
function activationsOf(frames: number, notes: [number, number, number, number][]): Activations {
  const made = {
    frames,
    tuningCents: 0,
    onset: new Uint8Array(frames * KEYS),
    active: new Uint8Array(frames * KEYS),
    level: new Uint8Array(frames * KEYS).fill(150),
    attack: new Uint8Array(frames * KEYS).fill(150),
  };
  for (const [key, start, end, probability] of notes) {
    made.onset[start * KEYS + key] = 255 * probability;
    made.onset[(start - 1) * KEYS + key] = 100 * probability;
    made.onset[(start + 1) * KEYS + key] = 100 * probability;
    for (let frame = start; frame < end; frame++) made.active[frame * KEYS + key] = 230;
  }
  return made;
}

const C4 = 60 - LOWEST_KEY;

describe('notes from activations', () => {
  it('start at the peak and end where the key falls silent', () => {
    const [note] = decodeNotes(activationsOf(200, [[C4, 20, 80, 0.9]]), { sensitivity: 0.5 });
    expect(note.midi).toBe(60);
    expect(note.startSeconds).toBeCloseTo(20 * HOP_SECONDS, 4);
    expect(Math.abs(note.endSeconds / HOP_SECONDS - 80)).toBeLessThan(3);
    expect(note.confidence).toBeGreaterThan(0.7);
  });

  it('do not end in a moment of doubt, after which the key sounds on', () => {
    const activations = activationsOf(300, [[C4, 20, 180, 0.9]]);
    for (let frame = 80; frame < 85; frame++) activations.active[frame * KEYS + C4] = 90;
    const notes = decodeNotes(activations, { sensitivity: 0.5 });
    expect(notes).toHaveLength(1);
    expect(Math.abs(notes[0].endSeconds / HOP_SECONDS - 180)).toBeLessThan(8);
  });

  it('come apart where one key is struck again while it sounds', () => {
    const notes = decodeNotes(
      activationsOf(200, [
        [C4, 20, 60, 0.9],
        [C4, 60, 100, 0.8],
      ]),
      { sensitivity: DEFAULT_SENSITIVITY },
    );
    expect(notes.map((note) => Math.round(note.startSeconds / HOP_SECONDS))).toEqual([20, 60]);
    expect(notes[0].endSeconds).toBeCloseTo(60 * HOP_SECONDS, 4);
  });

  it('that are struck harder have a higher velocity', () => {
    const starts = [20, 60, 100, 140, 180, 220];
    const activations = activationsOf(
      300,
      starts.map((start): [number, number, number, number] => [C4, start, start + 38, 0.9]),
    );
    // Half decibels above the floor: every second stroke is 6 dB louder.
    starts.forEach((start, i) => {
      for (let frame = start; frame < start + 10; frame++) {
        activations.attack[frame * KEYS + C4] = 210 + (i % 2) * 12;
        activations.level[frame * KEYS + C4] = 210 + (i % 2) * 12;
      }
    });
    const velocities = decodeNotes(activations, { sensitivity: 0.5 }).map(({ velocity }) => velocity);
    expect(velocities).toHaveLength(6);
    const soft = velocities.filter((_, i) => i % 2 === 0);
    const hard = velocities.filter((_, i) => i % 2 === 1);
    expect(Math.min(...hard) - Math.max(...soft)).toBeGreaterThan(8);
  });

  it('are more with more sensitivity, and the fainter start is the one that joins', () => {
    const activations = activationsOf(300, [
      [C4, 20, 60, 0.9],
      [C4 + 4, 100, 160, 0.12],
      [C4 + 7, 200, 260, 0.5],
    ]);
    const pitches = (sensitivity: number) =>
      decodeNotes(activations, { sensitivity }).map((note) => note.midi);
    expect(pitches(0)).toEqual([60]);
    expect(pitches(0.5)).toEqual([60, 67]);
    expect(pitches(1)).toEqual([60, 64, 67]);
  });

  it('need a key that sounds: an onset alone is a knock', () => {
    const activations = activationsOf(100, [[C4, 20, 20, 0.9]]);
    expect(decodeNotes(activations, { sensitivity: 0.5 })).toEqual([]);
  });

  it('can be asked for in a span of time only', () => {
    const activations = activationsOf(300, [
      [C4, 20, 60, 0.9],
      [C4, 120, 160, 0.9],
      [C4, 220, 260, 0.9],
    ]);
    const found = decodeNotes(activations, { sensitivity: 0.5, fromSeconds: 1, toSeconds: 2 });
    expect(found.map((note) => Math.round(note.startSeconds / HOP_SECONDS))).toEqual([120]);
  });

  it('lie in the tuning of the recording', () => {
    const activations = { ...activationsOf(100, [[C4, 20, 60, 0.9]]), tuningCents: -30 };
    expect(decodeNotes(activations, { sensitivity: 0.5 })[0].midi).toBeCloseTo(59.7, 5);
  });
});
