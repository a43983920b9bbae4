import { describe, expect, it } from 'vitest';
import {
  applyEdit,
  createSong,
  createTimeMap,
  placedNotes,
  type Note,
  type NotePart,
  type Song,
} from '../song/index.ts';
import type { Chord } from '../theory/index.ts';
import { howPlayed, inRound, notesOfTake, planPlayIn, pressesFrom, soundOfKey } from './index.ts';

const G_MAJOR = { fifths: 1, mode: 'major' as const };
const EM: Chord = { root: 'E', degrees: ['1', 'b3', '5'] };

describe('the note a key sounds', () => {
  it('is itself, or the nearest of the scale or of the chord', () => {
    expect(soundOfKey(61, 'all', G_MAJOR, EM)).toBe(61);
    // G major has F sharp and no F; between two as near, the lower.
    expect([65, 66, 61, 60].map((midi) => soundOfKey(midi, 'scale', G_MAJOR, EM))).toEqual([64, 66, 60, 60]);
    // E minor: E G B.
    expect([64, 65, 66, 69, 70, 62].map((midi) => soundOfKey(midi, 'chord', G_MAJOR, EM))).toEqual([
      64, 64, 67, 67, 71, 64,
    ]);
  });

  it('is itself where there is no key or no chord, and stays within what can be played', () => {
    expect(soundOfKey(61, 'scale', null, null)).toBe(61);
    expect(soundOfKey(61, 'chord', G_MAJOR, null)).toBe(61);
    expect(soundOfKey(0, 'chord', G_MAJOR, EM)).toBe(4);
    expect(soundOfKey(127, 'scale', { fifths: -6, mode: 'major' }, null)).toBeLessThan(127);
  });
});

const time = createTimeMap(createSong('s', 's'));
const press = (startSeconds: number, endSeconds: number) => ({
  startSeconds,
  endSeconds,
  midis: [60],
  velocity: 90,
  chord: undefined,
});

describe('what belongs to a pass', () => {
  it('is what was played from its start on, and what was up to an eighth early', () => {
    // At 120 bpm an eighth lasts 0.25 s.
    const kept = pressesFrom([press(3.7, 3.8), press(3.8, 4.3), press(3.9, 3.95), press(4.5, 5)], 4, time);
    expect(kept.map(({ startSeconds, endSeconds }) => [startSeconds, endSeconds])).toEqual([
      [4, 4.3],
      [4, 4],
      [4.5, 5],
    ]);
  });
});

describe('the pitch wheel', () => {
  it('bends the note it was moved on, from its start where it stood away from its middle', () => {
    const bends = [
      { seconds: 0.9, semitones: 0.5 },
      { seconds: 1.25, semitones: 1 },
      { seconds: 1.4, semitones: 0 },
      // After its end.
      { seconds: 1.6, semitones: 2 },
    ];
    // At 120 bpm a second has 1,920 ticks.
    const [bent, plain] = notesOfTake([{ ...press(1, 1.5), bends }, press(2, 2.5)], 'off', time, () => 'n');
    expect(bent.bends).toEqual([
      { afterTicks: 0, semitones: 0.5 },
      { afterTicks: 480, semitones: 1 },
      { afterTicks: 768, semitones: 0 },
    ]);
    expect(plain).not.toHaveProperty('bends');
  });

  it('goes along with a note that is pulled to the grid', () => {
    const played = [{ ...press(1.04, 1.5), bends: [{ seconds: 1.29, semitones: -1 }] }];
    const [note] = notesOfTake(played, '1/8', time, () => 'n');
    expect([note.startTicks, note.bends]).toEqual([1920, [{ afterTicks: 480, semitones: -1 }]]);
  });
});

describe('how a pass was played', () => {
  it('is how late its notes are in the middle, and how steadily', () => {
    const late = [0.02, 0.03, 0.022, 0.028, 0.025].map((by, i) => press(2 + i / 4 + by, 3));
    const how = howPlayed(late, '1/8', time)!;
    expect(how.notes).toBe(5);
    expect(how.medianSeconds).toBeCloseTo(0.025);
    expect(how.spreadSeconds).toBeCloseTo(0.003);
    const early = howPlayed(
      late.map((each) => ({ ...each, startSeconds: each.startSeconds - 0.05 })),
      '1/8',
      time,
    );
    expect(early!.medianSeconds).toBeCloseTo(-0.025);
    expect(howPlayed(late.slice(0, 3), '1/8', time)).toBeUndefined();
  });
});

describe('what is played in', () => {
  const note = (id: string, startTicks: number, midi = 60): Note => ({
    id,
    startTicks,
    lengthTicks: 480,
    midi,
    velocity: 90,
  });
  const songOf = (passages: NotePart['passages']): Song => ({
    ...createSong('song', 'Ferry at Six'),
    parts: [
      {
        kind: 'notes',
        program: 4,
        id: 'keys',
        name: 'Electric piano',
        mark: 'EP',
        colour: 0,
        levelDb: 0,
        pan: 0,
        mute: false,
        solo: false,
        passages,
      },
    ],
  });
  const partIn = (song: Song) => song.parts[0] as NotePart;
  const played = (song: Song, notes: Note[], replaces?: { fromTicks: number; toTicks: number }) => {
    const edit = planPlayIn(song, partIn(song), notes, replaces, time, () => 'new');
    const applied = applyEdit(song, edit);
    expect(applyEdit(applied.song, applied.inverse).song).toEqual(song);
    return partIn(applied.song);
  };
  const starts = (part: NotePart) =>
    placedNotes(part)
      .map(({ id, startTicks }) => `${id}@${startTicks}`)
      .sort();
  const passage = (id: string, startTicks: number, ...notes: Note[]): NotePart['passages'][number] => ({
    type: 'notes',
    id,
    startTicks,
    lengthTicks: 3840,
    notes,
  });

  it('goes into an empty part as a passage of its own', () => {
    const part = played(songOf([]), [note('a', 4000), note('b', 4800)]);
    // From the start of its bar.
    expect(part.passages).toMatchObject([{ startTicks: 3840, lengthTicks: 1440 }]);
    expect(starts(part)).toEqual(['a@4000', 'b@4800']);
  });

  it('goes into the passage that sounds there, else into one of its own', () => {
    const song = songOf([passage('p', 0, note('x', 0)), passage('q', 7680, note('y', 0))]);
    const inside = played(song, [note('a', 8000)]);
    expect(inside.passages.map(({ notes }) => notes.length)).toEqual([1, 2]);
    const between = played(song, [note('a', 5000)]);
    expect(between.passages.map(({ startTicks, notes }) => [startTicks, notes.length])).toEqual([
      [0, 1],
      [7680, 1],
      [3840, 1],
    ]);
    expect(starts(between)).toEqual(['a@5000', 'x@0', 'y@7680']);
    // It does not reach into the one before, and brings nothing back that was trimmed there.
    const trimmed = passage('p', 960, note('x', 0), note('hidden', 3500));
    const behind = played(songOf([{ ...trimmed, lengthTicks: 3360, offsetTicks: 0 }]), [note('a', 4700)]);
    expect(behind.passages[1]).toMatchObject({ startTicks: 4320, lengthTicks: 860 });
    expect(starts(behind)).toEqual(['a@4700', 'x@960']);
  });

  it('is added to what is there, or replaces it from where to where it was played', () => {
    const song = songOf([passage('p', 0, note('x', 0), note('y', 960), note('z', 1920))]);
    expect(starts(played(song, [note('a', 960, 64)]))).toHaveLength(4);
    expect(starts(played(song, [note('a', 1000)], { fromTicks: 960, toTicks: 1920 }))).toEqual([
      'a@1000',
      'x@0',
      'z@1920',
    ]);
  });
});

describe('a note that is held while a loop goes round', () => {
  // From second 4 to second 8.
  const loop = { startSeconds: 4, endSeconds: 8 };
  const held = (startSeconds: number, startRound: number, endSeconds: number, endRound: number) => {
    const { round, ...span } = inRound({ startSeconds, startRound, endSeconds, endRound }, loop);
    return [span.startSeconds, span.endSeconds, round];
  };

  it('is of the round in which it was played', () => {
    expect(held(5, 0, 6, 0)).toEqual([5, 6, 0]);
    expect(held(5, 3, 6, 3)).toEqual([5, 6, 3]);
  });

  it('lasts to the end of the loop where most of it lies before', () => {
    expect(held(7, 1, 4.5, 2)).toEqual([7, 8, 1]);
    // Held for more than a whole round.
    expect(held(7.9, 1, 5, 3)).toEqual([7.9, 8, 1]);
  });

  it('begins the next round where it was begun just before it', () => {
    expect(held(7.9, 1, 4.5, 2)).toEqual([4, 4.5, 2]);
  });

  it('was played at the end of the round before where a delay is taken off', () => {
    expect(held(3.95, 1, 4.3, 1)).toEqual([4, 4.3, 1]);
    expect(held(3.9, 1, 3.98, 1)).toEqual([7.9, 7.98, 0]);
    // Before the first round there is none.
    expect(held(3.9, 0, 4.5, 0)).toEqual([3.9, 4.5, 0]);
  });

  it('goes on where nothing goes round', () => {
    const straight = { startSeconds: 5, startRound: 0, endSeconds: 6, endRound: 0 };
    expect(inRound(straight, null)).toEqual({ startSeconds: 5, endSeconds: 6, round: 0 });
  });
});
