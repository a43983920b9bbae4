import { describe, expect, it } from 'vitest';
import { C4, foundNote as found, silentActivations } from '../../test/chordal.ts';
import type { Activations } from './activations.ts';
import { KEYS } from './network.ts';
import { noteEnds } from './noteEnds.ts';

interface Sounding {
  key: number;
  start: number;
  /** How clearly it sounds, 0–1, frames after its start; silence behind the last. */
  active: (frame: number) => number;
  frames: number;
  /** Half decibels that it loses a frame. */
  falls?: number;
  /** Frames after its start from which on it falls fast; where the key stops sounding, by default. */
  damped?: number;
}

function activationsOf(frames: number, notes: readonly Sounding[]): Activations {
  const made = silentActivations(frames);
  for (const { key, start, active, frames: long, falls = 0.2, damped = long } of notes) {
    made.onset[start * KEYS + key] = 230;
    for (let t = 0; start + t < frames; t++) {
      const at = (start + t) * KEYS + key;
      made.active[at] = t < long ? 255 * active(t) : 0;
      // It dies away within a tenth of a second.
      made.level[at] = Math.max(0, 190 - falls * t - (t < damped ? 0 : 8 * (t - damped)));
      made.attack[at] = made.level[at];
    }
  }
  return made;
}

const clear = () => 0.95;

describe('where notes end', () => {
  it('is where the key falls silent', () => {
    const activations = activationsOf(400, [{ key: C4, start: 20, active: clear, frames: 80 }]);
    const [end] = noteEnds([found(20, 100)], activations);
    expect(Math.abs(end - 100)).toBeLessThan(5);
  });

  it('is behind a moment of doubt', () => {
    const doubt = (t: number) => (t > 60 && t < 66 ? 0.3 : 0.95);
    const activations = activationsOf(500, [{ key: C4, start: 20, active: doubt, frames: 200 }]);
    // Found where the key was first in doubt.
    const [end] = noteEnds([found(20, 81)], activations);
    expect(Math.abs(end - 220)).toBeLessThan(8);
  });

  it.each([100, 101])('is before the key is struck again: in frame %i', (again) => {
    const activations = activationsOf(400, [
      { key: C4, start: 20, active: clear, frames: again - 20 },
      { key: C4, start: again, active: clear, frames: 80 },
    ]);
    const ends = noteEnds([found(20, again), found(again, again + 80)], activations);
    expect(ends[0]).toBe(again);
    expect(ends[1]).toBeGreaterThan(again + 70);
  });

  it('may be long after the start', () => {
    const activations = activationsOf(1500, [
      { key: C4, start: 20, active: clear, frames: 1200, falls: 0.01 },
    ]);
    const [end] = noteEnds([found(20, 1220)], activations);
    expect(Math.abs(end - 1220)).toBeLessThan(8);
  });

  it('is where its sound falls away, though the key does not seem silent', () => {
    const doubtful = () => 0.62;
    const endOf = (damped: number) => {
      const note = { key: C4, start: 20, active: doubtful, frames: 200, damped };
      return noteEnds([found(20, 220)], activationsOf(500, [note]))[0];
    };
    expect(Math.abs(endOf(110) - 130)).toBeLessThan(12);
    expect(endOf(200)).toBeGreaterThan(200);
  });

  it('is given for each note, at least a little behind its start and within the recording', () => {
    const activations = activationsOf(60, [{ key: C4, start: 50, active: clear, frames: 100 }]);
    expect(noteEnds([], activations)).toEqual([]);
    const [end] = noteEnds([found(50, 60)], activations);
    expect(end).toBeGreaterThan(53);
    expect(end).toBeLessThanOrEqual(60);
  });
});
