import { describe, expect, it } from 'vitest';
import { lineNote, recordingPart, songWith } from '../test/songs.ts';
import { centsOff, createPassageTime, createTimeMap, nearestNote, notesFromLine, railMidi } from './index.ts';

describe('line notes', () => {
  it('have their rails in the tuning of the recording', () => {
    const flat = lineNote('a', 0, 1, 59.78);
    expect(railMidi(flat, -20)).toBeCloseTo(59.8);
    expect(centsOff(flat, -20)).toBeCloseTo(-2);
    expect(centsOff(flat, 0)).toBeCloseTo(-22);
    expect(nearestNote(59.45, -20)).toBe(60);
    expect(railMidi({ ...flat, target: { midi: 62 } }, -20)).toBe(62);
  });

  it('become whole notes in ticks, from their targets where there are any', () => {
    const part = recordingPart(
      [
        lineNote('a', 0.5, 1, 60.3),
        lineNote('b', 1, 1.5, 62, { target: { startSeconds: 1.25, endSeconds: 1.75, midi: 64 } }),
      ],
      { startTicks: 960 },
    );
    const song = songWith(part);
    let next = 0;
    const notes = notesFromLine(
      part.passages[0].line!,
      part.passages[0],
      createTimeMap(song),
      () => `n${next++}`,
    );
    expect(notes).toEqual([
      { id: 'n0', startTicks: 960, lengthTicks: 960, midi: 60, velocity: 80 },
      { id: 'n1', startTicks: 2400, lengthTicks: 960, midi: 64, velocity: 80 },
    ]);
  });

  it('leave out what lies before the passage, and last at least a tick', () => {
    const part = recordingPart([lineNote('a', 0, 0.4, 60), lineNote('b', 1, 1.0001, 60)]);
    const passage = { ...part.passages[0], offsetSeconds: 0.5 };
    const notes = notesFromLine(passage.line!, passage, createTimeMap(songWith(part)), () => 'x');
    expect(notes).toEqual([{ id: 'x', startTicks: 960, lengthTicks: 1, midi: 60, velocity: 80 }]);
  });

  it('are placed by passage and offset', () => {
    const time = createTimeMap(songWith());
    const placed = createPassageTime({ startTicks: 1920, offsetSeconds: 0.25 }, time);
    expect(placed.originSeconds).toBeCloseTo(0.75);
    expect(placed.toTicks(0.25)).toBeCloseTo(1920);
    expect(placed.toSeconds(1920)).toBeCloseTo(0.25);
  });
});
