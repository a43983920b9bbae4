import { writeMidi, type MidiEvent } from 'midi-file';
import { describe, expect, it } from 'vitest';
import { createSong, createTimeMap, MAX_NOTES_IN_SONG, MAX_PARTS, songSchema } from '../song/index.ts';
import { readMidi, type MidiContents } from './index.ts';
import { markOf } from '../song/index.ts';

type Event = Record<string, unknown> & { type: string };

/** A file of one track of events at distances in ticks, after a first track with these. */
function fileOf(conductor: [number, Event][], ...tracks: [number, Event][][]): Uint8Array {
  const track = (events: [number, Event][]) =>
    [...events, [0, { type: 'endOfTrack', meta: true }] as [number, Event]].map(
      ([deltaTime, event]) => ({ deltaTime, ...event }) as unknown as MidiEvent,
    );
  return Uint8Array.from(
    writeMidi({
      header: { format: 1, numTracks: tracks.length + 1, ticksPerBeat: 960 },
      tracks: [conductor, ...tracks].map(track),
    }),
  );
}
const meta = (event: Event): Event => ({ meta: true, ...event });
const metre = (numerator: number, denominator: number) =>
  meta({ type: 'timeSignature', numerator, denominator, metronome: 24, thirtyseconds: 8 });
const tempo = (bpm: number) => meta({ type: 'setTempo', microsecondsPerBeat: Math.round(60e6 / bpm) });
/** Text travels as UTF-8, a byte a character. */
const name = (text: string) =>
  meta({ type: 'trackName', text: String.fromCharCode(...new TextEncoder().encode(text)) });
const note = (noteNumber = 60): [number, Event][] => [
  [0, { type: 'noteOn', channel: 0, noteNumber, velocity: 80 }],
  [10, { type: 'noteOff', channel: 0, noteNumber, velocity: 0 }],
];

/** What was read, as a song that can be stored. */
function read(bytes: Uint8Array, room?: { parts: number; notes: number }): MidiContents {
  let next = 0;
  const contents = readMidi(bytes, () => `i${next++}`, room);
  const { title, changed, ...rest } = contents;
  songSchema.parse({ ...createSong('s', title ?? 'Song'), ...rest });
  expect(changed.every((sentence) => sentence.endsWith('.'))).toBe(true);
  return contents;
}

describe('a MIDI file that holds what a song cannot', () => {
  it('with very long names is taken with shorter ones', () => {
    const { parts, title, changed } = read(
      fileOf([[0, name('T'.repeat(300))]], [[0, name(`${'n'.repeat(118)}😀😀`)], ...note()]),
    );
    expect(title).toBe(`${'T'.repeat(199)}…`);
    expect(parts[0].name).toBe(`${'n'.repeat(118)}…`);
    expect(changed).toEqual([
      'Names of more than 120 letters were cut.',
      'Names of more than 200 letters were cut.',
    ]);
  });

  it.each([
    ['ßß', 'SS'],
    ['ß', 'SS'],
    ['Σigma Δelta', 'ΣΔ'],
    ['𝒜𝒷', '𝒜'],
    ['!!!', '?'],
    ['lead voice', 'LV'],
    ["Ship's bell", 'SB'],
    ['O’Hara', 'OH'],
  ])('%s gets the mark %s', (text, mark) => expect(markOf(text)).toBe(mark));

  it('with a bend range of 24 is taken to the end of the wheel', () => {
    const controller = (controllerType: number, value: number): [number, Event] => [
      0,
      { type: 'controller', channel: 0, controllerType, value },
    ];
    const bend = (value: number): [number, Event] => [5, { type: 'pitchBend', channel: 0, value }];
    const { parts } = read(
      fileOf(
        [],
        [
          controller(101, 0),
          controller(100, 0),
          controller(6, 24),
          bend(-8192),
          ...note(),
          bend(8191),
          ...note(),
        ],
      ),
    );
    const bends = parts[0].passages[0].notes.flatMap((each) => each.bends ?? []);
    expect(bends.map(({ semitones }) => semitones)).toEqual([-24, 24]);
  });

  it('with metres that cannot be counted keeps the one before, and halves those it can', () => {
    const { metreMap, changed } = read(
      fileOf([
        [0, metre(3, 4)],
        [2880, metre(33, 4)],
        [2880, metre(4, 64)],
        [960, metre(34, 8)],
        [9600, metre(0, 4)],
      ]),
    );
    expect(metreMap).toEqual([
      { startTicks: 0, beats: 3, unit: 4 },
      { startTicks: 5760, beats: 2, unit: 32 },
      { startTicks: 6720, beats: 17, unit: 4 },
    ]);
    expect(changed).toEqual([
      'The metre 33/4 cannot be counted here; the one before it was kept.',
      'The metre 4/64 was written as 2/32.',
      'The metre 34/8 was written as 17/4.',
      'The metre 0/4 cannot be counted here; the one before it was kept.',
    ]);
  });

  it('with 20,000 tempi joins neighbours, and what comes after them still comes in time', () => {
    // Distances of a byte: the library that writes the file is slow with longer ones.
    const STEP = 120;
    const bpms = Array.from({ length: 20_001 }, (_, i) => 60 + (i % 90));
    const { tempoMap, changed } = read(fileOf(bpms.map((bpm, i) => [i === 0 ? 0 : STEP, tempo(bpm)])));
    expect(tempoMap.length).toBeLessThanOrEqual(10_000);
    expect(changed[0]).toMatch(/^Of 20,001 tempi neighbours were joined/);
    const seconds = bpms.slice(0, -1).reduce((sum, bpm) => sum + ((STEP / 960) * 60) / bpm, 0);
    const time = createTimeMap({ tempoMap, metreMap: [{ startTicks: 0, beats: 4, unit: 4 }] });
    expect(time.secondsAt(20_000 * STEP)).toBeCloseTo(seconds, 2);
  });

  it('with tempi beyond what is counted says what was done', () => {
    const { tempoMap, changed } = read(fileOf([[0, tempo(5)]]));
    expect(tempoMap).toEqual([{ startTicks: 0, bpm: 10 }]);
    expect(changed).toEqual(['Tempi beyond 10 and 400 bpm were set to the nearest of these.']);
  });

  it('with 250,000 notes in a track puts them into passages, each where it was', () => {
    const many = Array.from({ length: 250_000 }, (_, i) => note(i % 128)).flat();
    const { parts, changed } = read(fileOf([], many));
    const starts = parts[0].passages.flatMap(({ startTicks, notes }) =>
      notes.map((each) => startTicks + each.startTicks),
    );
    expect(parts[0].passages).toHaveLength(2);
    expect(starts).toHaveLength(250_000);
    expect(starts.every((start, i) => start === i * 10)).toBe(true);
    expect(changed).toEqual(['Tracks of very many notes were put into several passages.']);
  });

  it('with more tracks or notes than there is room for takes what fits', () => {
    const tracks = Array.from({ length: MAX_PARTS + 3 }, () => note());
    const { parts, changed } = read(fileOf([], ...tracks));
    expect(parts).toHaveLength(MAX_PARTS);
    expect(changed).toEqual(['3 of 503 tracks were left out: a song holds no more parts.']);
    const few = read(fileOf([], [...note(), ...note(), ...note()], note()), { parts: 5, notes: 2 });
    expect(few.parts.map(({ passages }) => passages[0].notes.length)).toEqual([2]);
    expect(few.changed).toEqual(['2 notes were left out: a song holds no more.']);
    expect(MAX_NOTES_IN_SONG).toBeGreaterThan(250_000);
  });

  it('leaves out what comes after the end of all songs', () => {
    const { parts, changed } = read(
      fileOf(
        [],
        [
          ...note(),
          [2 ** 28 - 1, name('x')],
          [2 ** 28 - 1, name('x')],
          [2 ** 28 - 1, name('x')],
          [2 ** 28 - 1, name('x')],
          ...note(),
        ],
      ),
    );
    expect(parts[0].passages[0].notes).toHaveLength(1);
    expect(changed[0]).toMatch(/left out/);
  });

  it('with a damaged track is taken up to the damage, and read in no time', () => {
    const bytes = fileOf([], [...note(60), ...note(62), ...note(64)]);
    // The length of the second event's time never ends.
    const track = bytes.length - (4 + 6 * 4);
    const spoiled = bytes.slice();
    spoiled.fill(0xff, track + 8, track + 13);
    const { parts, changed } = read(spoiled);
    expect(parts[0].passages[0].notes.map(({ midi }) => midi)).toEqual([60]);
    expect(changed).toEqual(['A track is damaged; it was taken up to the damage.']);
  });

  it('whose header counts other tracks than there are is taken with those', () => {
    const bytes = fileOf([], note());
    bytes[11] = 200;
    expect(read(bytes).parts).toHaveLength(1);
  });

  it('that fits says nothing', () => {
    expect(
      read(
        fileOf(
          [
            [0, metre(6, 8)],
            [0, tempo(92)],
          ],
          note(),
        ),
      ).changed,
    ).toEqual([]);
  });
});
