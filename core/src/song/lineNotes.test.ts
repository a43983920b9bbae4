import { describe, expect, it } from 'vitest';
import { lineNote, songWith } from '../test/songs.ts';
import {
  createPassageTime,
  createTimeMap,
  namedMidi,
  nearestNote,
  playedCentsOff,
  railMidi,
  renamed,
  soundingCentsOff,
  soundingMidi,
} from './index.ts';

describe('line notes', () => {
  it('have their rails in the tuning of the recording', () => {
    const flat = lineNote('a', 0, 1, 59.78);
    expect(railMidi(flat, -20)).toBeCloseTo(59.8);
    expect(playedCentsOff(flat, -20)).toBeCloseTo(-2);
    expect(playedCentsOff(flat, 0)).toBeCloseTo(-22);
    expect(nearestNote(59.45, -20)).toBe(60);
    expect(railMidi({ ...flat, target: { midi: 62 } }, -20)).toBe(62);
  });

  it('say of another name that this is the note it was: nothing that sounds changes', () => {
    const sharp = lineNote('a', 0, 1, 60.6);
    expect(playedCentsOff(sharp, 0)).toBeCloseTo(-40);
    const named = renamed(sharp, 60, 0);
    expect(named).toEqual({ ...sharp, namedMidi: 60 });
    expect(railMidi(named, 0)).toBe(60);
    expect(playedCentsOff(named, 0)).toBeCloseTo(60);
    expect(soundingMidi(named, 0)).toBeCloseTo(60.6);
    // The name of the nearest note says nothing more.
    expect(renamed(named, 61, 0)).toEqual(sharp);
    const pulled = { ...named, target: { centre: 0.5 } };
    expect(soundingMidi(pulled, 0)).toBeCloseTo(60.3);
    expect(soundingCentsOff(pulled, 0)).toBeCloseTo(30);
  });

  it('take what they should be along to another name', () => {
    const tuned = lineNote('a', 0, 1, 60.1, { target: { midi: 64, centre: 1 } });
    const named = renamed(tuned, 63, 0);
    expect(namedMidi(named, 0)).toBe(59);
    expect(railMidi(named, 0)).toBe(63);
    expect(soundingMidi(named, 0)).toBe(63);
  });

  it('are placed by passage and offset', () => {
    const time = createTimeMap(songWith());
    const placed = createPassageTime({ startTicks: 1920, offsetSeconds: 0.25 }, time);
    expect(placed.toSong(0)).toBeCloseTo(0.75);
    expect(placed.toTicks(0.25)).toBeCloseTo(1920);
    expect(placed.toSeconds(1920)).toBeCloseTo(0.25);
  });
});
