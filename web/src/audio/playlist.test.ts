import { describe, expect, it } from 'vitest';
import {
  createSong,
  guessMaterial,
  nameOfFile,
  type NotePart,
  type RecordingPart,
  type Song,
} from '@plundra/core/song';
import { nextColour } from '../song/newParts.ts';
import { playableProgram } from './instruments.ts';
import { warpedSources } from './soundSources.ts';
import {
  blendGains,
  buildTracks,
  type ListenChoice,
  type NoteTrack,
  type RecordingTrack,
} from './playlist.ts';

const strip = { mark: 'XX', colour: 0, levelDb: -3, pan: 0.2, mute: false, solo: false };
const voice: RecordingPart = {
  ...strip,
  kind: 'recording',
  id: 'voice',
  name: 'Voice',
  material: 'voice',
  takes: [
    {
      id: 't',
      recordingHash: 'a'.repeat(64),
      line: {
        readingId: 'r',
        tuningCents: 0,
        notes: [
          {
            id: 'n',
            startSeconds: 1,
            endSeconds: 2,
            midi: 60.3,
            velocity: 77,
            confidence: 1,
            target: { midi: 62 },
          },
        ],
      },
    },
  ],
  passages: [
    { type: 'recording', id: 't', takeId: 't', startTicks: 1920, offsetSeconds: 0.5, durationSeconds: 8 },
  ],
};
const flute: NotePart = {
  ...strip,
  kind: 'notes',
  id: 'flute',
  name: 'Flute',
  program: 73,
  madeFromPartId: 'voice',
  passages: [
    {
      type: 'notes',
      id: 'q',
      startTicks: 0,
      lengthTicks: 9600,
      notes: [{ id: 'm', startTicks: 960, lengthTicks: 960, midi: 70, velocity: 90 }],
    },
  ],
};
const bass: NotePart = { ...flute, id: 'bass', program: 33, madeFromPartId: undefined };
const song: Song = { ...createSong('s', 'Song'), parts: [voice, flute, bass] };
const choice: ListenChoice = {
  mode: 'both',
  blend: 0.5,
  focusPartId: null,
  withOthers: false,
  lineProgram: 4,
  before: false,
  againstPartId: null,
  chords: { how: 'off', program: 4, octaves: 0 },
};
const keys = (more: Partial<ListenChoice>, from = song) =>
  buildTracks(from, { ...choice, ...more }).map((track) => track.key);

describe('what sounds', () => {
  it('in the whole song follows the listen mode', () => {
    expect(keys({})).toEqual(['voice/t', 'flute', 'bass']);
    expect(keys({ mode: 'recording' })).toEqual(['voice/t']);
    expect(keys({ mode: 'notes' })).toEqual(['flute', 'bass']);
    expect(buildTracks(song, { ...choice, mode: 'split' }).map((track) => track.pan)).toEqual([-1, 1, 1]);
  });

  it('of a recording is what its passage takes from it, where that lies in the song', () => {
    const [track] = buildTracks(song, { ...choice, mode: 'recording' });
    // Half a second of it is left out before bar 1.3, which is second 1 at 120 bpm.
    expect(track).toEqual({
      type: 'recording',
      key: 'voice/t',
      strip: 'voice',
      source: 'voice/t',
      levelDb: 0,
      fadeInSeconds: undefined,
      fadeOutSeconds: undefined,
      gainDb: -3,
      pan: 0.2,
      hash: 'a'.repeat(64),
      warped: false,
      originSeconds: 0.5,
      fromSeconds: 0.5,
      toSeconds: 8.5,
      correction: undefined,
    });
  });

  it('at a speed of its own is silent until its sound is made, also where one hears before', () => {
    const slow: Song = {
      ...song,
      parts: [{ ...voice, passages: [{ ...voice.passages[0], clock: { keeps: 'own', speed: 0.5 } }] }],
    };
    expect(buildTracks(slow, choice)).toEqual([]);
    const [{ key }] = warpedSources(slow);
    const made = {
      lengthSamples: 10,
      sampleRateHz: 8000,
      channels: 1,
      ahead: () => Promise.resolve(),
      stream: () => undefined,
    };
    const correction = { version: 1, patches: [], limited: [], made };
    for (const before of [false, true]) {
      const [track] = buildTracks(slow, { ...choice, before }, new Map([[key, correction]]));
      // Its seconds count from its start in the song: twice the eight of its recording.
      expect(track).toMatchObject({
        warped: true,
        correction,
        originSeconds: 1,
        fromSeconds: 0,
        toSeconds: 16,
      });
    }
  });

  it('of several passages of a recording crosses where they meet, and is whole where they were only cut', () => {
    const [passage] = voice.passages;
    const second = { ...passage, id: 'u', offsetSeconds: 4.5, durationSeconds: 4 };
    const tracksOf = (startTicks: number, more: object = {}, ofPart: object = {}) =>
      buildTracks(
        {
          ...song,
          parts: [
            {
              ...voice,
              ...ofPart,
              passages: [
                { ...passage, durationSeconds: 4 },
                { ...second, startTicks, ...more },
              ],
            },
          ],
        },
        { ...choice, mode: 'recording' },
      ) as RecordingTrack[];
    // Four seconds at 120 bpm later it goes on as it was recorded.
    const whole = tracksOf(1920 + 4 * 1920);
    expect(whole).toMatchObject([{ key: 'voice/t', fromSeconds: 0.5, toSeconds: 8.5 }]);
    // Louder, it is another sound: the first goes on a little while the second comes up.
    const louder = tracksOf(1920 + 4 * 1920, { gainDb: 6 });
    expect(louder).toMatchObject([
      { toSeconds: 4.51, fadeOutSeconds: 0.01, levelDb: 0 },
      { key: 'voice/u', fadeInSeconds: 0.01, levelDb: 6 },
    ]);
    // As long as the part says.
    expect(tracksOf(1920 + 4 * 1920, { gainDb: 6 }, { seamSeconds: 0.08 })).toMatchObject([
      { toSeconds: 4.58, fadeOutSeconds: 0.08 },
      { fadeInSeconds: 0.08 },
    ]);
    // What was not chosen among takes is not heard.
    expect(tracksOf(1920 + 4 * 1920, { gainDb: 6, spare: true })).toHaveLength(1);
    // Apart, each only keeps from clicking.
    expect(tracksOf(1920 * 20)).toMatchObject([
      { toSeconds: 4.5, fadeOutSeconds: undefined },
      { fadeInSeconds: undefined },
    ]);
    // Both sound in the strip of their part, and are corrected as one.
    expect(new Set(louder.map(({ strip }) => strip)).size).toBe(1);
    expect(new Set(louder.map(({ source }) => source)).size).toBe(1);
    expect(tracksOf(1920 * 20, { muted: true })).toHaveLength(1);
  });

  it('respects mute and solo', () => {
    expect(keys({}, { ...song, parts: [voice, { ...flute, mute: true }, bass] })).toEqual([
      'voice/t',
      'bass',
    ]);
    expect(keys({}, { ...song, parts: [voice, { ...flute, solo: true }, bass] })).toEqual(['flute']);
  });

  it('goes through the bus of its group, which may be muted', () => {
    const group = { id: 'g', name: 'Backing', colour: 0, levelDb: -4, mute: false, solo: false };
    const [first, ...others] = song.parts;
    const grouped = { ...song, groups: [group], parts: [{ ...first, group: 'g' }, ...others] };
    const busOf = (of: Song) =>
      buildTracks(of, { ...choice, focusPartId: null }).map(({ strip, bus }) => [strip, bus?.gainDb]);
    expect(busOf(grouped)).toContainEqual([first.id, -4]);
    expect(
      busOf(grouped)
        .filter(([strip]) => strip !== first.id)
        .map(([, db]) => db),
    ).not.toContain(-4);
    const muted = { ...grouped, groups: [{ ...group, mute: true }] };
    expect(busOf(muted).map(([strip]) => strip)).not.toContain(first.id);
    expect(busOf(muted)).toHaveLength(busOf(grouped).length - 1);
  });

  it('leaves out muted notes', () => {
    const passages = flute.passages.map((passage) => ({
      ...passage,
      notes: passage.notes.map((note, i) => (i === 0 ? { ...note, muted: true as const } : note)),
    }));
    const count = (parts: Song['parts']) =>
      (buildTracks({ ...song, parts }, choice)[0] as NoteTrack).notes.length;
    expect(count([{ ...flute, passages }])).toBe(count([flute]) - 1);
  });

  it('in an open recording is the recording and its line, with the others only when asked', () => {
    expect(keys({ focusPartId: 'voice' })).toEqual(['voice/t', 'voice/line']);
    expect(keys({ focusPartId: 'voice', mode: 'recording' })).toEqual(['voice/t']);
    expect(keys({ focusPartId: 'voice', withOthers: true })).toEqual([
      'voice/t',
      'voice/line',
      'flute',
      'bass',
    ]);
    const line = buildTracks(song, { ...choice, focusPartId: 'voice' })[1] as NoteTrack;
    expect(line.program).toBe(4);
    // Bar 1 beat 3 at 120 bpm is second 1; the recording is placed from its second 0.5 on.
    expect(line.notes).toEqual([{ startSeconds: 1.5, endSeconds: 2.5, midi: 62, velocity: 77 }]);
    // A note that was begun just before the passage is heard from there on.
    const late = { ...voice, passages: [{ ...voice.passages[0], offsetSeconds: 1.02 }] };
    const tracks = buildTracks({ ...song, parts: [late] }, { ...choice, focusPartId: 'voice' });
    expect((tracks[1] as NoteTrack).notes[0].startSeconds).toBe(1);
  });

  it('plays hits on the drum kit and notes on their sound, though both were read of one part', () => {
    const line = voice.takes[0].line!;
    const takes = [
      ...voice.takes,
      {
        ...voice.takes[0],
        id: 'u',
        line: { ...line, reads: 'hits' as const, notes: [{ ...line.notes[0], midi: 38, target: undefined }] },
      },
    ];
    const passages = [...voice.passages, { ...voice.passages[0], id: 'u', takeId: 'u', startTicks: 19_200 }];
    const tracks = buildTracks(
      { ...song, parts: [{ ...voice, takes, passages }] },
      { ...choice, focusPartId: 'voice', mode: 'notes' },
    ) as NoteTrack[];
    expect(tracks.map(({ key, program, notes }) => [key, program, notes.map(({ midi }) => midi)])).toEqual([
      ['voice/line', 4, [62]],
      ['voice/hits', 'drums', [38]],
    ]);
  });

  it('in an open note part is the part and the recording it was made from', () => {
    expect(keys({ focusPartId: 'flute' })).toEqual(['voice/t', 'flute']);
    expect(keys({ focusPartId: 'flute', mode: 'notes' })).toEqual(['flute']);
    expect(keys({ focusPartId: 'bass', mode: 'recording' })).toEqual(['bass']);
  });

  it('blends from one side to the other with both full in the middle', () => {
    expect(blendGains(0.5)).toEqual({ recordingDb: 0, notesDb: 0 });
    expect(blendGains(0).notesDb).toBeLessThan(-100);
    expect(blendGains(0.75).recordingDb).toBeCloseTo(-6, 0);
  });
});

describe('new parts', () => {
  it('are named, placed and coloured from what is known', () => {
    expect(nameOfFile('lead_voice take 2.wav')).toBe('Lead voice take 2');
    expect(guessMaterial('Finger bass')).toBe('bass');
    expect(guessMaterial('take 3')).toBe('other');
    expect(nextColour(song)).toBe(1);
    expect(playableProgram(0)).toBe(0);
    expect(playableProgram(30)).toBe(27);
  });
});
