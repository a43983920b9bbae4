import { describe, expect, it } from 'vitest';
import { recordingPart, songWith } from '../test/songs.ts';
import {
  addOnset,
  applyEdit,
  createTimeMap,
  emptyStretch,
  heardAt,
  moveOnset,
  pullOnsets,
  removeOnset,
  resetOnsets,
  type RecordingPart,
  type Stretch,
} from './index.ts';

const part = recordingPart(null);
const [passage] = part.passages;
const song = songWith(part);
const time = createTimeMap(song);
const beat = time.secondsAt(960);
/** Played a little beside the beats. */
const played = [beat + 0.02, 2 * beat - 0.015, 3 * beat + 0.12];
const stretch: Stretch = {
  ...emptyStretch('keys'),
  onsets: played.map((seconds, i) => ({ id: `o${i}`, seconds: seconds + passage.offsetSeconds })),
};
const pull = { grid: '1/4', pull: 1, swing: 0, leaveAloneBeyondSeconds: null } as const;
const heard = (made: Stretch) => made.onsets.map(heardAt);

describe('onsets of a recording', () => {
  it('are added in order, once, and removed', () => {
    const more = addOnset(stretch, 'new', 1.5 * beat);
    expect(more.onsets.map((onset) => onset.id)).toEqual(['o0', 'new', 'o1', 'o2']);
    expect(addOnset(more, 'again', 1.5 * beat + 0.005)).toBe(more);
    expect(removeOnset(more, 'new')).toEqual(stretch);
  });

  it('are moved as far as their neighbours, and go back to what was played', () => {
    const moved = moveOnset(stretch, 'o1', 10);
    expect(heardAt(moved.onsets[1])).toBeLessThan(heardAt(moved.onsets[2]));
    expect(heardAt(moved.onsets[1])).toBeGreaterThan(heardAt(moved.onsets[2]) - 0.02);
    expect(heardAt(moveOnset(stretch, 'o0', -3).onsets[0])).toBe(0);
    expect(resetOnsets(moved)).toEqual(stretch);
    expect(moveOnset(stretch, 'gone', 1)).toBe(stretch);
  });

  it('are pulled to the grid, all or those named, with a report', () => {
    const all = pullOnsets(passage, stretch, pull, time);
    heard(all.stretch).forEach((at, i) => expect(at).toBeCloseTo((i + 1) * beat, 6));
    expect(all.report).toMatchObject({ moving: 3, total: 3 });
    expect(all.report.furthestMs).toBeCloseTo(120, 3);
    const one = pullOnsets(passage, stretch, pull, time, new Set(['o1']));
    expect(one.report).toMatchObject({ moving: 1, total: 1 });
    expect(one.stretch.onsets[0]).toEqual(stretch.onsets[0]);
    const near = pullOnsets(passage, stretch, { ...pull, leaveAloneBeyondSeconds: 0.05 }, time);
    expect(near.stretch.onsets[2]).toEqual(stretch.onsets[2]);
  });

  it('are one edit that can be taken back; hits are cut apart by default', () => {
    const edit = { type: 'take.stretch', partId: part.id, takeId: passage.takeId, stretch } as const;
    const { song: made, inverse } = applyEdit(song, edit);
    expect((made.parts[0] as RecordingPart).takes[0].stretch).toEqual(stretch);
    expect(applyEdit(made, inverse).song).toEqual(song);
    expect(emptyStretch('drums').how).toBe('slice');
  });
});
