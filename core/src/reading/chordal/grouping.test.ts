import { describe, expect, it } from 'vitest';
import type { LineNote } from '../../song/index.ts';
import { proposeChordal } from './proposals.ts';
import { groupStrokes, splitByRegister } from './strokes.ts';

let count = 0;
const note = (startSeconds: number, midi: number, more: Partial<LineNote> = {}): LineNote => ({
  id: `n${count++}`,
  startSeconds,
  endSeconds: startSeconds + 0.5,
  midi,
  velocity: 90,
  confidence: 0.95,
  ...more,
});

describe('strokes', () => {
  // The open G chord; a stroke down runs from the low string to the high one (common practice).
  const G = [43, 47, 50, 55, 59, 67];

  it('group what one movement struck, with its direction and spread', () => {
    const down = G.map((midi, i) => note(1 + i * 0.006, midi));
    const up = [...G].reverse().map((midi, i) => note(2 + i * 0.008, midi));
    const strokes = groupStrokes([...down, ...up]);
    expect(strokes.map(({ direction, ids }) => [direction, ids.length])).toEqual([
      ['down', 6],
      ['up', 6],
    ]);
    expect(strokes[0].spreadSeconds).toBeCloseTo(0.03, 6);
    expect(strokes[1].startSeconds).toBe(2);
  });

  it('hear no direction in a block chord, and no stroke in a melody', () => {
    expect(groupStrokes([60, 64, 67].map((midi) => note(1, midi)))[0].direction).toBe('together');
    expect(groupStrokes([60, 62, 64, 65].map((midi, i) => note(i * 0.2, midi)))).toEqual([]);
  });

  it('end where a string is struck again', () => {
    const notes = [43, 50, 55, 43, 50, 55].map((midi, i) => note(1 + i * 0.02, midi));
    expect(groupStrokes(notes).map(({ ids }) => ids.length)).toEqual([3, 3]);
  });
});

describe('registers', () => {
  it('part two hands where the gap between them is widest', () => {
    const notes: LineNote[] = [];
    for (let i = 0; i < 12; i++) {
      notes.push(note(i * 0.5, [36, 43, 40][i % 3]));
      notes.push(note(i * 0.5 + 0.01, [67, 71, 74][i % 3]), note(i * 0.5 + 0.02, 64));
    }
    const { upper, lower } = splitByRegister(notes);
    const pitch = new Map(notes.map(({ id, midi }) => [id, midi]));
    expect(lower.length).toBe(12);
    expect(Math.max(...lower.map((id) => pitch.get(id)!))).toBe(43);
    expect(Math.min(...upper.map((id) => pitch.get(id)!))).toBe(64);
  });

  it('lose and double no note', () => {
    const notes = Array.from({ length: 60 }, (_, i) => note(i * 0.1, 40 + ((i * 17) % 45)));
    const { upper, lower } = splitByRegister(notes);
    expect([...upper, ...lower].sort()).toEqual(notes.map(({ id }) => id).sort());
  });
});

describe('proposals for several notes at once', () => {
  it('drop a doubtful harmonic of a louder note, and leave a sure octave', () => {
    const low = note(1, 48);
    const harmonic = note(1.01, 60, { confidence: 0.4, velocity: 60 });
    const twelfth = note(1.01, 67, { confidence: 0.35, velocity: 50 });
    const octave = note(3, 60);
    const { remove } = proposeChordal('doubles', [low, harmonic, twelfth, note(3, 48), octave], 50);
    expect(remove).toEqual([harmonic.id, twelfth.id]);
  });

  it('drop short, soft, unsure notes; with more amount more of them', () => {
    const sure = [48, 52, 55, 60].map((midi) => note(1, midi));
    const ghost = note(2, 77, { endSeconds: 2.05, velocity: 30, confidence: 0.3 });
    const soft = note(3, 79, { endSeconds: 3.1, velocity: 60, confidence: 0.8 });
    const dropped = (amount: number) =>
      proposeChordal('ghosts', [...sure, ghost, soft], amount).remove.sort();
    expect(dropped(0)).toEqual([]);
    expect(dropped(50)).toEqual([ghost.id]);
    expect(dropped(85)).toEqual([ghost.id, soft.id].sort());
  });

  it('join a key that was found again while it faded, not one that was struck again', () => {
    const first = note(1, 60, { endSeconds: 1.5 });
    const rest = note(1.55, 60, { endSeconds: 2.2, confidence: 0.4 });
    const again = note(2.3, 60);
    const proposal = proposeChordal('join', [first, rest, again], 50);
    expect(proposal.remove).toEqual([rest.id]);
    expect(proposal.put).toMatchObject([{ id: first.id, startSeconds: 1, endSeconds: 2.2, confidence: 1 }]);
  });

  it('drop the less sure of two on one key at once', () => {
    const a = note(1, 60, { confidence: 0.6 });
    const b = note(1.01, 60, { confidence: 0.9 });
    expect(proposeChordal('duplicates', [a, b, note(1.01, 64)], 50).remove).toEqual([a.id]);
  });
});
