// MIDI files as they are found. Source of every layout: Standard MIDI Files 1.0 (MMA RP-001), bytes written out here.
import { describe, expect, it } from 'vitest';
import { createSong, songSchema, TICKS_PER_QUARTER } from '../song/index.ts';
import { isMidiName, MidiFormatError, readMidi, withoutMidiEnding, type MidiContents } from './index.ts';

const ascii = (text: string) => Array.from(text, (char) => char.charCodeAt(0));
const four = (value: number) => [24, 16, 8, 0].map((shift) => (value >> shift) & 0xff);
const chunk = (type: string, body: number[], length = body.length) => [
  ...ascii(type),
  ...four(length),
  ...body,
];
const header = (format: number, tracks: number, division: readonly [number, number]) =>
  chunk('MThd', [0, format, 0, tracks, ...division]);
const track = (...events: number[][]) => chunk('MTrk', [...events.flat(), 0, 0xff, 0x2f, 0]);
const text = (type: number, bytes: number[], after = 0) => [after, 0xff, type, bytes.length, ...bytes];
/** A quarter of 96 ticks. */
const note = (midi: number, ticks = 96) => [0, 0x90, midi, 80, ticks, 0x80, midi, 64];
const program = (number: number) => [0, 0xc0, number];
const BEATS = [0, 96] as const;

function read(bytes: number[]): MidiContents {
  let next = 0;
  const contents = readMidi(Uint8Array.from(bytes), () => `i${next++}`);
  const { title, changed: _, ...rest } = contents;
  songSchema.parse({ ...createSong('s', title ?? 'Song'), ...rest });
  return contents;
}
const notesOf = ({ parts }: MidiContents) =>
  parts.map(({ passages }) => passages.flatMap(({ notes }) => notes));

describe('MIDI files as they are found', () => {
  it('of type 0, with running status and without an end of track', () => {
    const body = [0, 0x90, 60, 80, 96, 60, 0, 0, 64, 80, 96, 64, 0];
    const contents = read([...header(0, 1, BEATS), ...chunk('MTrk', body)]);
    expect(
      notesOf(contents)[0].map(({ midi, startTicks, lengthTicks }) => [midi, startTicks, lengthTicks]),
    ).toEqual([
      [60, 0, TICKS_PER_QUARTER],
      [64, TICKS_PER_QUARTER, TICKS_PER_QUARTER],
    ]);
    expect(contents.changed).toEqual([]);
  });

  it('are left as they are, also where the memory is shared, as a Buffer and its slices share it', () => {
    class Sharing extends Uint8Array<ArrayBuffer> {
      override slice(from?: number, to?: number) {
        return this.subarray(from, to);
      }
    }
    const memory = Uint8Array.from([9, 9, 9, 9, ...header(0, 3, BEATS), ...track(note(60))]);
    const before = memory.slice();
    const { parts } = readMidi(new Sharing(memory.buffer, 4), () => 'i');
    expect(parts).toHaveLength(1);
    expect(memory).toEqual(before);
  });

  it('are named by their first track, unless it is an instrument beside others', () => {
    const named = (name: string, ...events: number[][]) => track(text(3, ascii(name)), ...events);
    const title = (...tracks: number[][]) =>
      read([...header(tracks.length > 1 ? 1 : 0, tracks.length, BEATS), ...tracks.flat()]).title;
    expect(title(named('Harbour light', note(60)))).toBe('Harbour light');
    expect(title(named('Harbour light'), named('Piano', note(60)))).toBe('Harbour light');
    expect(title(named('Piano', note(60)), named('Bass', note(40)))).toBeUndefined();
  });

  it('of type 2 are refused: their pieces do not sound together', () => {
    expect(() => read([...header(2, 2, BEATS), ...track(note(60)), ...track(note(62))])).toThrow(/type 2/);
  });

  it('in a RIFF file, behind another chunk of odd length', () => {
    const midi = [...header(0, 1, BEATS), ...track(note(60))];
    const little = (value: number) => four(value).reverse();
    const riff = [
      ...ascii('RMID'),
      ...[...ascii('DISP'), ...little(3), 1, 2, 3, 0],
      ...[...ascii('data'), ...little(midi.length), ...midi],
    ];
    expect(notesOf(read([...ascii('RIFF'), ...little(riff.length), ...riff]))[0]).toHaveLength(1);
  });

  it('in film frames sound when they should: 25 frames of 40 ticks are a thousand a second', () => {
    const tempo = [0, 0xff, 0x51, 3, 0x03, 0xd0, 0x90];
    // 1,500 ticks are 1.5 s: three quarters at 120 bpm, whatever tempo the file names.
    const late = [0x8b, 0x5c, 0x90, 60, 80, 0x83, 0x74, 0x80, 60, 64];
    const contents = read([...header(1, 1, [0x100 - 25, 40]), ...track(tempo, late)]);
    expect(contents.tempoMap).toEqual([{ startTicks: 0, bpm: 120 }]);
    expect(notesOf(contents)[0]).toMatchObject([
      { startTicks: 3 * TICKS_PER_QUARTER, lengthTicks: TICKS_PER_QUARTER },
    ]);
    expect(contents.changed[0]).toMatch(/film frames/);
  });

  it('of 29 frames have 30 in 1.001 seconds', () => {
    const ticks = [0x81, 0x48];
    const contents = read([
      ...header(1, 1, [0x100 - 29, 10]),
      ...track([0, 0x90, 60, 80, ...ticks, 0x80, 60, 64]),
    ]);
    expect(notesOf(contents)[0][0].lengthTicks).toBe(Math.round((200 * 1.001 * 2 * TICKS_PER_QUARTER) / 300));
  });

  it('that break off are taken as far as they go', () => {
    const body = [...note(60), ...note(62), ...note(64)];
    const contents = read([...header(0, 1, BEATS), ...chunk('MTrk', body.slice(0, 18), body.length)]);
    expect(notesOf(contents)[0].map(({ midi }) => midi)).toEqual([60, 62]);
    expect(contents.changed).toEqual([
      'The file breaks off in the middle of a track; what comes before that was taken.',
    ]);
    const nothing = [...header(0, 1, BEATS), ...chunk('MTrk', [0, 0x90], 400)];
    expect(() => read(nothing)).toThrow(/breaks off before its first note/);
  });

  it('whose sounds change become a part for each sound, and a note keeps the one it began with', () => {
    const contents = read([
      ...header(0, 1, BEATS),
      ...track(
        text(3, ascii('Keys')),
        program(4),
        [0, 0x90, 60, 80, 48, ...program(16).slice(1), 48, 0x80, 60, 64],
        note(62),
        program(4),
        note(64),
      ),
    ]);
    expect(contents.parts.map((part) => [part.name, part.kind === 'notes' && part.program])).toEqual([
      ['Keys', 4],
      ['Keys 2', 16],
    ]);
    expect(notesOf(contents).map((notes) => notes.map(({ midi }) => midi))).toEqual([[60, 64], [62]]);
    expect(contents.changed).toHaveLength(1);
  });

  it('to sing along give their words to the notes below them, and their title', () => {
    const contents = read([
      ...header(1, 2, BEATS),
      // The words of such files stand in a track of their own, with marks of paragraphs and lines.
      ...track(
        text(1, ascii('@KMIDI KARAOKE FILE')),
        text(1, ascii('@TFerry at Six')),
        text(1, ascii('@LENGL')),
        text(1, ascii('\\Fer')),
        text(1, ascii('ry'), 96),
        text(1, ascii(' home'), 96),
        text(1, ascii('/lost'), 48),
      ),
      ...track(note(60, 96), note(62, 96), note(64, 96)),
    ]);
    expect(notesOf(contents)[0].map(({ lyric }) => lyric)).toEqual(['Fer-', 'ry', 'home']);
    expect(contents.title).toBe('Ferry at Six');
    expect(contents.changed).toEqual(['1 syllable stands where no note begins and was left out.']);
  });

  it('with chords give a word to the highest of their notes', () => {
    const chord = [
      0, 0x90, 60, 80, 0, 0x90, 67, 80, 0, 0x90, 64, 80, 96, 0x80, 60, 0, 0, 0x80, 67, 0, 0, 0x80, 64, 0,
    ];
    const contents = read([...header(0, 1, BEATS), ...track(text(5, ascii('sea')), chord)]);
    expect(notesOf(contents)[0].flatMap(({ midi, lyric }) => (lyric ? [midi] : []))).toEqual([67]);
  });

  it('with words in another alphabet read all of them alike', () => {
    // "бо-ро-да" in Windows-1251, in pieces of two letters.
    const pieces = [
      [0xe1, 0xee],
      [0xf0, 0xee],
      [0xe4, 0xe0, 0x20],
    ];
    const contents = read([
      ...header(0, 1, BEATS),
      ...track(...pieces.flatMap((bytes) => [text(5, bytes), note(60)])),
    ]);
    expect(notesOf(contents)[0].map(({ lyric }) => lyric)).toEqual(['бо-', 'ро-', 'да']);
  });

  it('with notes of no length and notes that overlap on one pitch lose none', () => {
    const contents = read([
      ...header(0, 1, BEATS),
      ...track(note(60, 0), [0, 0x90, 62, 80, 48, 0x90, 62, 90, 48, 0x80, 62, 0, 48, 0x80, 62, 0]),
    ]);
    expect(notesOf(contents)[0].map(({ lengthTicks }) => lengthTicks)).toEqual([
      1,
      TICKS_PER_QUARTER,
      TICKS_PER_QUARTER,
    ]);
  });

  it.each([
    ['UTF-8', [0xc3, 0x9c, 0x62, 0x65, 0x72], 'Über'],
    ['Windows-1252', [0x43, 0x61, 0x66, 0xe9], 'Café'],
    ['Windows-1251', [0xc3, 0xe8, 0xf2, 0xe0, 0xf0, 0xe0], 'Гитара'],
    ['Shift JIS', [0x83, 0x81, 0x83, 0x8d, 0x83, 0x66, 0x83, 0x42], 'メロディ'],
    ['UTF-16', [0xff, 0xfe, 0x42, 0x00, 0xe4, 0x00], 'Bä'],
    ['zeros at its end', [0x50, 0x61, 0x64, 0, 0], 'Pad'],
  ])('with a name in %s', (_, bytes, name) => {
    const contents = read([...header(1, 1, BEATS), ...track(text(3, bytes), note(60))]);
    expect(contents.parts[0].name).toBe(name);
  });

  it('are known by their names', () => {
    expect(['a.mid', 'B.MIDI', 'c.kar', 'd.rmi', 'e.wav', 'mid'].map(isMidiName)).toEqual([
      true,
      true,
      true,
      true,
      false,
      false,
    ]);
    expect(withoutMidiEnding('Ferry at Six.rmi')).toBe('Ferry at Six');
  });

  it('that are none say so', () => {
    for (const bytes of [[], ascii('MThd'), ascii('RIFF....RMID'), header(0, 1, [0, 0])])
      expect(() => read(bytes)).toThrow(MidiFormatError);
  });
});
