import { describe, expect, it } from 'vitest';
import { emptyStretch, type Note, type Song } from '../song/index.ts';
import { keyName } from '../theory/index.ts';
import { notePart, recordingPart, songWith } from '../test/songs.ts';
import { keptItemOf } from './keep.ts';

const BAR = 3840;
const framed = (...parts: Song['parts']): Song => ({
  ...songWith(...parts),
  key: { fifths: 1, mode: 'major' },
  tempoMap: [{ startTicks: 0, bpm: 96 }],
});
/** Bars at 96 bpm last 2.5 s. */
const recorded = (startTicks: number, durationSeconds: number, more: object = {}): Song => {
  const part = recordingPart(null);
  return framed({
    ...part,
    passages: [{ ...part.passages[0], startTicks, durationSeconds, offsetSeconds: 1, ...more }],
  });
};
const kept = (song: Song) => {
  const [part] = song.parts;
  return keptItemOf(song, { part, passage: part.passages[0] })!;
};

describe('keeping a passage on the shelf', () => {
  it('takes key, tempo and metre from its place in the song', () => {
    expect(kept(recorded(BAR, 5, { name: 'Verse' }))).toMatchObject({
      name: 'Verse',
      kind: 'loop',
      material: 'voice',
      key: { fifths: 1, mode: 'major' },
      bpm: 96,
      metre: { beats: 4, unit: 4 },
      fromSong: 'Ferry at Six',
      sound: { type: 'recording', offsetSeconds: 1, durationSeconds: 5, upbeatSeconds: 0 },
    });
  });

  it('is a loop where it holds whole bars, else a recording', () => {
    expect(kept(recorded(0, 2.5)).kind).toBe('loop');
    expect(kept(recorded(0, 2.6)).kind).toBe('recording');
    expect(kept(recorded(0, 55)).kind).toBe('recording');
  });

  it('that begins before a bar has an upbeat', () => {
    const { sound } = kept(recorded(BAR - 480, 5));
    expect(sound.type === 'recording' && sound.upbeatSeconds).toBeCloseTo(0.3125, 9);
  });

  it('says the tempo it was recorded at, not that of the song it sounds in', () => {
    expect(kept(recorded(0, 5, { clock: { keeps: 'song', bpm: 100 } }))).toMatchObject({
      bpm: 100,
      kind: 'recording',
    });
    expect(kept(recorded(0, 9.6, { clock: { keeps: 'song', bpm: 100 } })).kind).toBe('loop');
    expect(kept(recorded(0, 5, { clock: { keeps: 'own', speed: 1.2 } })).bpm).toBeCloseTo(80, 3);
  });

  it('is as many bars long as were played, where the tempo of the song follows how it was played', () => {
    const played = {
      ...recorded(BAR - 480, 5.5),
      tempoMap: [
        { startTicks: 0, bpm: 120 },
        { startTicks: BAR, bpm: 100 },
        { startTicks: 1.5 * BAR, bpm: 90 },
        { startTicks: 2 * BAR, bpm: 100 },
      ],
    };
    const whole = recorded(BAR, 5 - 1 / 15);
    // Two quarters of 0.6 s and two of 2/3 s, then four of 0.6 s: two bars in 4.933 s.
    expect(kept({ ...whole, tempoMap: played.tempoMap })).toMatchObject({ kind: 'loop', bpm: 97.297 });
    // An eighth of 0.25 s before the bar.
    const { sound } = kept(played);
    expect(sound.type === 'recording' && sound.upbeatSeconds).toBeCloseTo(0.25, 9);
  });

  it('says the key of the recording as it was played, before it was transposed', () => {
    const song = recorded(0, 5, { key: { fifths: 1, mode: 'major' } });
    const [part] = song.parts;
    if (part.kind !== 'recording') throw new Error('no recording');
    const moved = {
      ...part,
      takes: [{ ...part.takes[0], stretch: { ...emptyStretch('bass'), semitones: 2 } }],
    };
    expect(keyName(kept({ ...song, parts: [moved] }).key!)).toBe('F major');
    expect(kept({ ...song, parts: [{ ...moved, material: 'drums' }] }).key).toBeNull();
  });

  it('keeps the notes that a window shows, from its start on', () => {
    const note = (id: string, startTicks: number, lengthTicks = 480): Note => ({
      id,
      startTicks,
      lengthTicks,
      midi: 60,
      velocity: 80,
    });
    const part = notePart([note('a', 0), note('b', 960), note('c', 1900, 2000), note('d', 1000)]);
    const passage = {
      ...part.passages[0],
      startTicks: BAR,
      offsetTicks: 960,
      lengthTicks: 1920,
      notes: part.passages[0].notes.map((each) =>
        each.id === 'd' ? { ...each, muted: true as const } : each,
      ),
    };
    const { notes, sound, kind } = kept(framed({ ...part, passages: [passage] }));
    expect(kind).toBe('phrase');
    expect(notes!.map(({ startTicks, lengthTicks }) => [startTicks, lengthTicks])).toEqual([
      [0, 480],
      [940, 980],
    ]);
    expect(sound).toMatchObject({ program: 73, lengthTicks: 1920, noteCount: 2 });
  });

  it('is nothing where nothing sounds', () => {
    const song = framed(notePart([]));
    expect(keptItemOf(song, { part: song.parts[0], passage: song.parts[0].passages[0] })).toBeUndefined();
  });
});
