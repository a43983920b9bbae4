import { parseMidi } from 'midi-file';
import { describe, expect, it } from 'vitest';
import { createRandom } from '../signal/index.ts';
import { notePart, recordingPart, songWith } from '../test/songs.ts';
import type { Note, Song } from '../song/index.ts';
import { MidiFormatError, readMidi, writeSongMidi } from './index.ts';
import { createTimeMap, markOf } from '../song/index.ts';

const ids = () => {
  let next = 0;
  return () => `id${next++}`;
};

/** Chunks of a file as the standard lays them out: four letters, a length, a body. */
function chunks(bytes: Uint8Array): { type: string; body: Uint8Array }[] {
  const found = [];
  const view = new DataView(bytes.buffer, bytes.byteOffset);
  for (let at = 0; at < bytes.length;) {
    const size = view.getUint32(at + 4);
    found.push({
      type: String.fromCharCode(...bytes.subarray(at, at + 4)),
      body: bytes.subarray(at + 8, at + 8 + size),
    });
    at += 8 + size;
  }
  return found;
}

function manyNotes(count: number): Note[] {
  const random = createRandom(12);
  return Array.from({ length: count }, (_, i) => ({
    id: `n${i}`,
    startTicks: i * 501 + Math.floor(random() * 400),
    lengthTicks: 1 + Math.floor(random() * 480),
    midi: 21 + Math.floor(random() * 88),
    velocity: 1 + Math.floor(random() * 127),
  })).sort((a, b) => a.startTicks - b.startTicks);
}

const song: Song = {
  ...songWith(
    notePart(manyNotes(400)),
    {
      ...notePart([{ id: 'k', startTicks: 3, lengthTicks: 10, midi: 36, velocity: 100 }], {
        id: 'drums',
        name: 'Hand drum · Łódź',
      }),
      kind: 'drums',
    } as Song['parts'][0],
    notePart([{ id: 'b', startTicks: 0, lengthTicks: 960, midi: 55, velocity: 64 }], {
      id: 'bass',
      name: 'Bass',
      program: 33,
      levelDb: -6,
      pan: -0.5,
    } as never),
  ),
  title: 'Ferry at Six',
  key: { fifths: 1, mode: 'major' },
  keyChanges: [{ startTicks: 11520, key: { fifths: -4, mode: 'minor' } }],
  tempoMap: [
    { startTicks: 0, bpm: 92 },
    { startTicks: 9600, bpm: 87.5 },
  ],
  metreMap: [
    { startTicks: 0, beats: 4, unit: 4 },
    { startTicks: 15360, beats: 6, unit: 8 },
  ],
};

it('tracks of many thousands of notes are written whole', () => {
  const notes = manyNotes(6000);
  const written = writeSongMidi(songWith(notePart(notes)));
  const [part] = readMidi(written, ids()).parts;
  const plain = (note: Note) => [note.startTicks, note.lengthTicks, note.midi, note.velocity];
  expect(part.passages[0].notes.map(plain)).toEqual(
    [...notes].sort((a, b) => a.startTicks - b.startTicks || a.midi - b.midi).map(plain),
  );
  expect(chunks(written).map(({ type }) => type)).toEqual(['MThd', 'MTrk', 'MTrk']);
});

describe('MIDI out', () => {
  it('is a format 1 file at 960 ticks (Standard MIDI Files 1.0: header chunk)', () => {
    const [header, ...tracks] = chunks(writeSongMidi(song));
    expect(header.type).toBe('MThd');
    expect([...header.body]).toEqual([0, 1, 0, 4, 0x03, 0xc0]);
    expect(tracks.map((track) => track.type)).toEqual(['MTrk', 'MTrk', 'MTrk', 'MTrk']);
    for (const { body } of tracks) expect([...body.subarray(-3)]).toEqual([0xff, 0x2f, 0]);
  });

  it('writes 120 bpm as FF 51 03 07 A1 20 (Standard MIDI Files 1.0)', () => {
    const bytes = [...writeSongMidi(songWith(notePart([])))];
    const at = bytes.findIndex((_, i) => bytes[i] === 0xff && bytes[i + 1] === 0x51);
    expect(bytes.slice(at, at + 6)).toEqual([0xff, 0x51, 0x03, 0x07, 0xa1, 0x20]);
  });

  it.each([
    [0x40, [0x40]],
    [0x7f, [0x7f]],
    [0x80, [0x81, 0x00]],
    [0x2000, [0xc0, 0x00]],
    [0x3fff, [0xff, 0x7f]],
    [0x4000, [0x81, 0x80, 0x00]],
    [0x1fffff, [0xff, 0xff, 0x7f]],
    [0x200000, [0x81, 0x80, 0x80, 0x00]],
  ])(
    'writes a delta of %i as the standard tables it (Standard MIDI Files 1.0, variable-length quantities)',
    (ticks, wanted) => {
      const file = writeSongMidi(
        songWith(notePart([{ id: 'n', startTicks: ticks, lengthTicks: 7, midi: 60, velocity: 99 }])),
      );
      const track = [...chunks(file)[2].body];
      const at = track.findIndex((_, i) => track[i] === 0x90 && track[i + 1] === 60 && track[i + 2] === 99);
      expect(track.slice(at - wanted.length, at)).toEqual(wanted);
    },
  );

  it('carries names, programs and drums on channel 10, read by an independent parser', () => {
    const file = parseMidi(writeSongMidi(song));
    const names = file.tracks.map((track) => track.find((event) => event.type === 'trackName'));
    expect(names.map((event) => event?.type === 'trackName' && event.text.slice(0, 5))).toEqual([
      'Ferry',
      'Flute',
      'Hand ',
      'Bass',
    ]);
    const drums = file.tracks[2].filter((event) => event.type === 'noteOn');
    expect(drums.every((event) => event.type === 'noteOn' && event.channel === 9)).toBe(true);
    expect(file.tracks[3].find((event) => event.type === 'programChange')).toMatchObject({
      programNumber: 33,
      channel: 1,
    });
  });

  it('leaves recordings out', () => {
    expect(parseMidi(writeSongMidi(songWith(recordingPart([])))).tracks).toHaveLength(1);
  });
});

describe('a ramp of the tempo', () => {
  it('becomes steps that take as long, and notes come back to the tick', () => {
    const slowing: Song = {
      ...song,
      tempoMap: [
        { startTicks: 0, bpm: 300 },
        { startTicks: 3840, bpm: 120, ramp: true },
        { startTicks: 12_000, bpm: 20 },
      ],
    };
    const back = readMidi(writeSongMidi(slowing), ids());
    const [written, read] = [createTimeMap(slowing), createTimeMap(back)];
    for (const ticks of [0, 3840, 4080, 7680, 12_000, 40_000])
      expect(Math.abs(read.secondsAt(ticks) - written.secondsAt(ticks))).toBeLessThan(0.001);
    const starts = (parts: readonly { passages: readonly { startTicks: number; notes: Note[] }[] }[]) =>
      parts.flatMap(({ passages }) =>
        passages.flatMap((each) => each.notes.map((note) => each.startTicks + note.startTicks)),
      );
    expect(starts(back.parts)).toEqual(starts(slowing.parts.filter((part) => part.kind !== 'recording')));
  });
});

describe('MIDI in', () => {
  it('brings back words, syllable by syllable', () => {
    const lyrics = ['Fer-', 'ry', 'at', 'six,', undefined, 'o-', 'ver'];
    const notes = lyrics.map((lyric, i) => ({
      id: `w${i}`,
      startTicks: i * 960,
      lengthTicks: 900,
      midi: 60 + i,
      velocity: 80,
      ...(lyric && { lyric }),
    }));
    const back = readMidi(writeSongMidi(songWith(notePart(notes))), ids());
    expect(back.parts[0].passages[0].notes.map(({ lyric }) => lyric)).toEqual(lyrics);
    expect(back.changed).toEqual([]);
  });

  it('brings back at 960 ticks what was written, without loss', () => {
    const back = readMidi(writeSongMidi(song), ids());
    expect(back).toMatchObject({
      title: song.title,
      key: song.key,
      keyChanges: song.keyChanges,
      tempoMap: song.tempoMap,
      metreMap: song.metreMap,
    });
    const plain = (notes: Note[]) =>
      notes.map(({ startTicks, lengthTicks, midi, velocity }) => ({
        startTicks,
        lengthTicks,
        midi,
        velocity,
      }));
    back.parts.forEach((part, i) => {
      const original = song.parts[i];
      expect(part).toMatchObject({ kind: original.kind, name: original.name, pan: original.pan });
      expect(part.levelDb).toBeCloseTo(original.levelDb, 0);
      if (original.kind !== 'recording')
        expect(plain(part.passages[0].notes)).toEqual(plain(original.passages[0].notes));
    });
    expect(back.parts[2]).toMatchObject({ program: 33 });
  });

  it('brings pitch bend back within a cent', () => {
    const part = notePart([{ id: 'n', startTicks: 0, lengthTicks: 960, midi: 60, velocity: 80 }]);
    const bends = [0.1, 0.25, -0.4, 1.5].map((semitones, i) => ({ afterTicks: i * 100, semitones }));
    const [note] = part.passages[0].notes;
    const straight = { ...note, id: 'm', startTicks: 960, midi: 62 };
    const bent = notePart([{ ...note, bends }, straight]);
    const back = readMidi(writeSongMidi(songWith(bent)), ids()).parts[0].passages[0].notes;
    expect(back[0].bends!.map(({ afterTicks }) => afterTicks)).toEqual([0, 100, 200, 300]);
    back[0].bends!.forEach(({ semitones }, i) => {
      expect(Math.abs(semitones - bends[i].semitones)).toBeLessThan(0.01);
    });
    // The next note is as it was, not bent as the one before it ended.
    expect(back[1].bends).toBeUndefined();
    const [plain] = readMidi(writeSongMidi(songWith(bent), { bends: false }), ids()).parts[0].passages[0]
      .notes;
    expect(plain.bends).toBeUndefined();
  });

  it('scales files of another resolution', () => {
    const header = [0x4d, 0x54, 0x68, 0x64, 0, 0, 0, 6, 0, 0, 0, 1, 0, 96];
    const events = [0, 0x90, 60, 64, 96, 0x80, 60, 0, 0, 0xff, 0x2f, 0];
    const bytes = Uint8Array.from([...header, 0x4d, 0x54, 0x72, 0x6b, 0, 0, 0, events.length, ...events]);
    const [part] = readMidi(bytes, ids()).parts;
    expect(part.passages[0].notes[0]).toMatchObject({
      startTicks: 0,
      lengthTicks: 960,
      midi: 60,
      velocity: 64,
    });
  });

  it('ends a note that was never ended, and a second note on the same pitch ends in order', () => {
    const header = [0x4d, 0x54, 0x68, 0x64, 0, 0, 0, 6, 0, 0, 0, 1, 3, 0xc0];
    const events = [0, 0x90, 60, 64, 10, 0x90, 60, 65, 10, 0x80, 60, 0, 10, 0xb0, 7, 100, 0, 0xff, 0x2f, 0];
    const bytes = Uint8Array.from([...header, 0x4d, 0x54, 0x72, 0x6b, 0, 0, 0, events.length, ...events]);
    const { notes } = readMidi(bytes, ids()).parts[0].passages[0];
    expect(notes.map((note) => [note.startTicks, note.lengthTicks])).toEqual([
      [0, 20],
      [10, 20],
    ]);
  });

  it.each([
    ['nothing', new Uint8Array(0)],
    ['text', new TextEncoder().encode('not a song')],
  ])('refuses %s with a sentence', (_, bytes) => {
    expect(() => readMidi(bytes, ids())).toThrow(MidiFormatError);
  });
});

describe('marks', () => {
  it('are two letters', () => {
    expect(markOf('Lead voice')).toBe('LV');
    expect(markOf('bass')).toBe('BA');
    expect(markOf('···')).toBe('?');
  });
});
