import { describe, expect, it } from 'vitest';
import type { Recording } from '@plundra/contract';
import {
  applyEdit,
  createSong,
  createTimeMap,
  soundingSpans,
  takeTableOf,
  type RecordingPart,
  type Song,
} from '@plundra/core/song';
import { takesEdit, type StoredTake } from './keepTake.ts';
import { takePieces } from './takePieces.ts';

const song: Song = createSong('song', 'Ferry at Six');
const take = (more: Partial<StoredTake> = {}): StoredTake => ({
  id: 't',
  songId: 'song',
  partId: null,
  name: 'Recording 1',
  sampleRateHz: 1000,
  channels: 1,
  startedAt: '',
  startTicks: 3840,
  startFrame: 500,
  frames: 8500,
  ...more,
});
const recording = (hash: string): Recording => ({
  hash: hash.repeat(64),
  name: hash,
  format: 'wav',
  byteLength: 1,
  sampleRateHz: 1000,
  channels: 1,
  durationSeconds: 8.5,
  warnings: [],
});
let count = 0;
const createId = () => `id${++count}`;
const kept = (into: Song, what: StoredTake, hashes: string[], names: string[]) =>
  takesEdit(into, what, takePieces(what), hashes.map(recording), names, createId);
const partIn = (of: Song) => of.parts[0] as RecordingPart;

describe('a take that is kept', () => {
  it('becomes a part where there was none, and begins where it was sung', () => {
    const { label, edit } = kept(song, take(), ['a'], ['Take 1']);
    const after = applyEdit(song, edit).song;
    expect(label).toBe('Record Recording 1');
    expect(partIn(after)).toMatchObject({ name: 'Recording 1', takes: [{ recordingHash: 'a'.repeat(64) }] });
    expect(partIn(after).takes[0].name).toBeUndefined();
    expect(partIn(after).passages).toMatchObject([
      { startTicks: 3840, offsetSeconds: 0.5, durationSeconds: 8 },
    ]);
    expect(applyEdit(after, applyEdit(song, edit).inverse).song).toEqual(song);
  });

  it('of a part that went meanwhile becomes a part as well', () => {
    const { edit, label } = kept(song, take({ partId: 'gone', name: 'Lead voice' }), ['a'], ['Take 3']);
    expect(partIn(applyEdit(song, edit).song).name).toBe('Lead voice');
    expect(label).toBe('Record Lead voice');
  });

  it('of a part stands beside what was there', () => {
    const first = applyEdit(song, kept(song, take(), ['a'], ['Take 1']).edit).song;
    const partId = partIn(first).id;
    const again = take({ partId, name: 'Recording 1', roundSeconds: 4, frames: 9000 });
    const { edit, label, takes } = kept(first, again, ['b', 'c'], ['Take 2', 'Take 3']);
    const after = applyEdit(first, edit).song;
    expect(label).toBe('Record 2 takes of Recording 1');
    expect(takes).toBe(3);
    const time = createTimeMap(after);
    // Two rounds of four seconds: the second is heard, then what was there.
    expect(
      soundingSpans(partIn(after), time).map(({ recordingHash, fromSeconds, toSeconds }) => [
        recordingHash[0],
        fromSeconds,
        toSeconds,
      ]),
    ).toEqual([
      ['c', 2, 6],
      ['a', 4.5, 8.5],
    ]);
    expect(takeTableOf(partIn(after), time)!.takes.map(({ name }) => name)).toEqual([
      'Take 1',
      'Take 2',
      'Take 3',
    ]);
  });
});
