import { describe, expect, it } from 'vitest';
import { lineNote, notePart, recordingPart, songWith } from '../test/songs.ts';
import { keyNamed, type Key } from '../theory/index.ts';
import { applyEdit, planTranspose, semitonesBetween, type NotePart } from './index.ts';

const key = (tonic: string, mode: Key['mode'] = 'major') => keyNamed(tonic, mode)!;
const keys = notePart([{ id: 'a', startTicks: 0, lengthTicks: 480, midi: 60, velocity: 80 }], {
  id: 'keys',
  name: 'Keys',
});
const drums = { ...keys, kind: 'drums', id: 'drums', name: 'Hand drums' } as NotePart;

describe('transposing a song', () => {
  it('goes the shorter way (F up to B flat is +5)', () => {
    expect(semitonesBetween(key('F'), key('Bb'))).toBe(5);
    expect(semitonesBetween(key('C'), key('G'))).toBe(-5);
    expect(semitonesBetween(key('C'), key('A', 'minor'))).toBe(0);
    expect(semitonesBetween(key('F#'), key('Gb'))).toBe(0);
    expect(semitonesBetween(key('C'), key('C#'))).toBe(1);
    expect(semitonesBetween(key('B'), key('Db'))).toBe(2);
  });

  it('moves notes, lines and whole recordings in one edit, leaves drums, and can be undone', () => {
    const voice = recordingPart([lineNote('n', 1, 1.5, 60.2)]);
    const unread = { ...recordingPart(null), id: 'pad', name: 'Pad' };
    const hits = { ...recordingPart(null), id: 'hits', name: 'Hits', material: 'drums' as const };
    const song = { ...songWith(voice, keys, drums, unread, hits), key: key('F') };
    const plan = planTranspose(song, key('Bb'), 5);
    expect(plan.moving.map((each) => [each.name, each.notes, each.recording])).toEqual([
      [voice.name, 1, true],
      ['Keys', 1, false],
      ['Pad', 0, true],
    ]);
    expect(plan.staying).toEqual([
      { name: 'Hand drums', reason: 'drums have no key' },
      { name: 'Hits', reason: 'drums have no key' },
    ]);
    const { song: moved, inverse } = applyEdit(song, plan.edit);
    expect(moved.key).toEqual(key('Bb'));
    expect(moved.parts[0]).toMatchObject({
      takes: [{ line: { notes: [{ midi: 60.2, target: { midi: 65 } }] } }],
    });
    expect(moved.parts[1].passages[0]).toMatchObject({ notes: [{ midi: 65 }] });
    expect(moved.parts[2]).toEqual(drums);
    expect(moved.parts[3]).toMatchObject({ takes: [{ stretch: { semitones: 5, onsets: [] } }] });
    expect(applyEdit(moved, inverse).song).toEqual(song);
  });
});
