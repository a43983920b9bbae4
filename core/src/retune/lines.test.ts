import { describe, expect, it } from 'vitest';
import type { LineNote } from '../song/index.ts';
import { nearestInScale, scaleStepAway } from '../theory/index.ts';
import {
  correctedNotes,
  isCorrected,
  lockFigures,
  matchLines,
  pitchFigures,
  riskText,
  riskyOnsets,
  risksOf,
  wantsAnotherTake,
  type LockNote,
} from './index.ts';

const note = (
  id: string,
  midi: number,
  target?: LineNote['target'],
  more: Partial<LineNote> = {},
): LineNote => ({
  id,
  startSeconds: 1,
  endSeconds: 1.5,
  midi,
  velocity: 80,
  confidence: 1,
  ...(target && { target }),
  ...more,
});

describe('what a line asks of the sound', () => {
  const asked = (line: LineNote, tuningCents = 0) => correctedNotes({ notes: [line], tuningCents })[0];

  it('is nothing while no target is set', () => {
    expect(asked(note('a', 60.3))).toMatchObject({ toMidi: 60.3, toStartSeconds: 1, toEndSeconds: 1.5 });
    expect(isCorrected({ notes: [note('a', 60.3), note('b', 62, {})], tuningCents: 0 })).toBe(false);
  });

  it('keeps the played distance to the rail until the centre takes it away', () => {
    expect(asked(note('a', 60.3, { midi: 63 })).toMidi).toBeCloseTo(63.3);
    expect(asked(note('a', 60.3, { midi: 63, centre: 0.5 })).toMidi).toBeCloseTo(63.15);
    expect(asked(note('a', 60.3, { centre: 1 })).toMidi).toBeCloseTo(60);
    // In a recording tuned 20 cents low the rails lie 20 cents low.
    expect(asked(note('a', 59.85, { centre: 1 }), -20).toMidi).toBeCloseTo(59.8);
    // Wanted is the neighbour below the nearest: with the full centre it is reached exactly.
    expect(asked(note('a', 60.6, { midi: 60, centre: 1 })).toMidi).toBeCloseTo(60);
  });

  it('names what will be heard', () => {
    const risks = (target: LineNote['target'], confidence = 1) =>
      risksOf(asked(note('a', 60, target, { confidence })));
    expect(risks({ midi: 62 })).toEqual([]);
    expect(risks({ midi: 65 })).toEqual(['large shift']);
    expect(risks({ startSeconds: 1, endSeconds: 1.8 })).toEqual(['long stretch']);
    expect(risks({ startSeconds: 1, endSeconds: 3 })).toEqual(['long stretch', 'limited']);
    expect(risks({ midi: 61 }, 0.4)).toEqual(['doubtful note']);
    expect(risks(undefined, 0.4)).toEqual([]);
  });

  it('names the onsets behind which a stretch will be heard', () => {
    const onset = (id: string, seconds: number, targetSeconds?: number) => ({ id, seconds, targetSeconds });
    const onsets = [onset('a', 0), onset('b', 1, 1.4), onset('c', 2), onset('d', 3)];
    const risky = riskyOnsets({ how: 'stretch', semitones: 0, onsets }, 4);
    expect([...risky]).toEqual([
      ['a', ['long stretch']],
      ['b', ['long stretch']],
    ]);
    expect(riskText(risky.values())).toBe('2 × long stretch');
    // From 1 s to 0.4 s is more than can be done: it is said.
    const crowded = { how: 'stretch' as const, semitones: 0, onsets: [onset('a', 0, 0.6), onset('b', 1)] };
    expect(riskyOnsets(crowded, 2).get('a')).toEqual(['long stretch', 'limited']);
    expect(riskyOnsets({ ...crowded, how: 'slice' }, 2).size).toBe(0);
  });

  it('gives figures before and after', () => {
    const line = {
      tuningCents: 0,
      notes: [note('a', 60.1, { centre: 1 }), note('b', 62.3, { centre: 0.5 }), note('c', 64.2)],
    };
    expect(pitchFigures([line], 'played').medianCents).toBeCloseTo(20);
    expect(pitchFigures([line], 'played').worstCents).toBeCloseTo(30);
    expect(pitchFigures([line], 'sounding').medianCents).toBeCloseTo(15);
    expect(pitchFigures([line], 'sounding').worstCents).toBeCloseTo(20);
  });

  it('says when most of a take wants work', () => {
    const off = Array.from({ length: 10 }, (_, i) => note(`n${i}`, i < 6 ? 60.45 : 60));
    expect(wantsAnotherTake({ notes: off, tuningCents: 0 })).toBe(true);
    expect(wantsAnotherTake({ notes: off.slice(2), tuningCents: 0 })).toBe(false);
    expect(wantsAnotherTake({ notes: off.slice(2), tuningCents: 0 }, [0, 0, 0, 0, 0.09, 0.09])).toBe(true);
    expect(wantsAnotherTake({ notes: off.slice(0, 3), tuningCents: 0 })).toBe(false);
  });
});

describe('two lines', () => {
  const line = (...notes: [start: number, midi: number][]): LockNote[] =>
    notes.map(([startSeconds, midi], i) => ({
      id: `${i}`,
      startSeconds,
      endSeconds: startSeconds + 0.3,
      midi,
    }));
  const ids = (notes: readonly LockNote[]) => notes.map((each) => each.id);

  it('are paired in their order; what has no partner is named', () => {
    const leader = line([0, 60], [0.5, 62], [1, 64], [2, 65]);
    const follower = line([0.06, 60.2], [0.56, 62.2], [1.4, 71], [2.05, 65.1]);
    const match = matchLines(follower, leader);
    expect(match.pairs.map((pair) => [pair.follower.id, pair.leader.id])).toEqual([
      ['0', '0'],
      ['1', '1'],
      ['3', '3'],
    ]);
    expect(ids(match.alone.follower)).toEqual(['2']);
    expect(ids(match.alone.leader)).toEqual(['2']);
    expect(match.pairs[0].lateSeconds).toBeCloseTo(0.06);
    expect(match.pairs[0].offCents).toBeCloseTo(20);
    const figures = lockFigures(match.pairs);
    expect(figures).toMatchObject({ pairs: 3 });
    expect(figures.medianMs).toBeCloseTo(60);
    expect(figures.worstCents).toBeCloseTo(20);
  });

  it('may lie an octave or a third apart', () => {
    const leader = line([0, 60], [0.5, 62], [1, 64]);
    expect(matchLines(line([0, 72.1], [0.5, 74.1], [1, 76.1]), leader)).toMatchObject({
      intervalSemitones: 12,
      alone: { follower: [], leader: [] },
    });
    const third = matchLines(line([0, 64], [0.5, 65], [1, 67]), leader);
    expect(third.pairs).toHaveLength(3);
  });

  it('have no pairs when one is empty', () => {
    expect(matchLines([], line([0, 60]))).toMatchObject({ pairs: [], intervalSemitones: 0 });
    expect(lockFigures([])).toEqual({ pairs: 0, medianMs: 0, worstMs: 0, medianCents: 0, worstCents: 0 });
  });
});

describe('scale steps', () => {
  const G = { fifths: 1, mode: 'major' } as const;
  it('go to the nearest note of the scale', () => {
    expect(nearestInScale(65.2, G)).toBe(66);
    expect(nearestInScale(64.9, G)).toBe(64);
    expect(nearestInScale(67, G)).toBe(67);
  });

  it('make thirds and sixths of the key (common practice: B over G, F♯ over D, octaves kept)', () => {
    expect(scaleStepAway(67, 2, G)).toBe(71);
    expect(scaleStepAway(62, 2, G)).toBe(66);
    expect(scaleStepAway(67, -2, G)).toBe(64);
    expect(scaleStepAway(60, -7, G)).toBe(48);
    expect(scaleStepAway(60, 5, { fifths: 0, mode: 'major' })).toBe(69);
    expect(scaleStepAway(57, 2, { fifths: 0, mode: 'minor' })).toBe(60);
  });
});
