import { describe, expect, it } from 'vitest';
import {
  applyEdit,
  createSong,
  type ChordEntry,
  type Follows,
  type NotePart,
  type RecordingPart,
  type Song,
} from '../song/index.ts';
import { chordSymbol, parseChord, pitchClassesOf, type Chord, type Key } from '../theory/index.ts';
import { followedSong, followNote, type FollowSettings } from './index.ts';
import { clashes } from './follow.ts';

const read = (text: string) => (parseChord(text) as { chord: Chord }).chord;
const C: Key = { fifths: 0, mode: 'major' };
const root: FollowSettings = { aim: 'chord', way: 'root', bassOnBass: false };
const nearest: FollowSettings = { aim: 'chord', way: 'nearest', bassOnBass: false };
const go = (
  notes: number[],
  from: string | undefined,
  to: string,
  settings: FollowSettings,
  key: Key | null = C,
) =>
  notes.map((midi) => followNote(midi, from === undefined ? undefined : read(from), read(to), key, settings));

describe('following the chords', () => {
  it('travels with the root and adapts the quality: A major to C minor (common practice)', () => {
    // A C♯ E A → C E♭ G C: all +3, then the major third one semitone down.
    expect(go([57, 61, 64, 69], 'A', 'Cm', root)).toEqual([60, 63, 67, 72]);
  });

  it('takes the shorter way', () => {
    expect(go([60, 64, 67], 'C', 'G', root)).toEqual([55, 59, 62]);
    expect(go([60, 64, 67], 'C', 'F', root)).toEqual([65, 69, 72]);
  });

  it('steps to the nearest note of the chord', () => {
    expect(go([60, 64, 67], 'C', 'Am', nearest)).toEqual([60, 64, 69]);
    expect(go([60, 64, 67], 'C', 'F', nearest)).toEqual([60, 65, 65]);
  });

  it('keeps passing notes passing notes', () => {
    // D over C leads through the scale; over Am it may stay, over D♭ it bends to the chord.
    expect(go([62], 'C', 'Am', nearest)).toEqual([62]);
    expect(go([62], 'C', 'F', root)).toEqual([67]);
    expect(go([62], 'C', 'Fm', nearest)).toEqual([62]);
  });

  it('aims at the scale when asked to', () => {
    const scale: FollowSettings = { ...nearest, aim: 'scale' };
    // E would rub against the F of D minor.
    expect(go([60, 64, 67], 'C', 'Dm', scale)).toEqual([60, 65, 67]);
    // Over C minor the scale of C bends to E♭.
    expect(go([64], 'C', 'Cm', scale)).toEqual([63]);
  });

  it('puts the bass on the bass', () => {
    const bass: FollowSettings = { ...nearest, bassOnBass: true };
    expect(go([36], 'C', 'G/B', bass)).toEqual([35]);
    expect(go([36], 'C', 'Am7/G', bass)).toEqual([31]);
    // As far as a tritone, downwards.
    expect(go([36], 'C', 'Gb', bass)).toEqual([30]);
  });

  it('only steps to the nearest where the old chord is not known', () => {
    expect(go([57, 61, 64], undefined, 'Cm', root)).toEqual([55, 60, 63]);
  });

  it('lands on notes of the chord from notes of a chord, and holds none against it: all pairs of chords and keys', () => {
    const qualities = ['', 'm', '7', 'maj7', 'm7', 'm7b5', 'dim7', 'sus4', 'sus2', '6', 'm6', '9', 'aug'];
    const chords = ['C', 'Gb'].flatMap((name) => qualities.map((quality) => read(name + quality)));
    chords.push(read('Db/F'), read('C/D'), read('Am7/G'));
    const keys: (Key | null)[] = [C, { fifths: -5, mode: 'major' }, null];
    let tried = 0;
    for (const from of [...chords, undefined])
      for (const to of chords)
        for (const key of keys)
          for (const aim of ['chord', 'scale'] as const)
            for (const way of ['root', 'nearest'] as const) {
              if (from && chordSymbol(from) === chordSymbol(to)) continue;
              for (let midi = 60; midi < 72; midi++) {
                const goes = followNote(midi, from, to, key, { aim, way, bassOnBass: false });
                const ownNote = from && pitchClassesOf(from).includes(midi % 12);
                const lands = pitchClassesOf(to).includes(((goes % 12) + 12) % 12);
                tried++;
                if (clashes(goes, to) || (ownNote && aim === 'chord' && !lands))
                  throw new Error(
                    `${midi} over ${from ? chordSymbol(from) : 'nothing'} to ${chordSymbol(to)}: ${goes} (${aim}, ${way})`,
                  );
              }
            }
    expect(tried).toBeGreaterThan(100_000);
  }, 120_000);

  it('moves what used to be held against the chord', () => {
    const Db: Key = { fifths: -5, mode: 'major' };
    // C over G♭ went to G♭ over D♭/F; C over F minor stayed over A7.
    expect(go([60], 'Gb', 'Db/F', root, Db)[0] % 12).not.toBe(6);
    expect(go([60], 'Fm', 'A7', { ...nearest, aim: 'scale' }, Db)).not.toEqual([60]);
    // A short note may pass there.
    expect(followNote(60, read('Gb'), read('Db/F'), Db, root, false) % 12).toBe(6);
  });

  it('changes nothing where the chord is the same or there is none', () => {
    expect(go([61], 'C', 'C', nearest)).toEqual([61]);
    expect(followNote(61, read('C'), null, C, nearest)).toBe(61);
    expect(followNote(61, read('C'), undefined, C, nearest)).toBe(61);
  });
});

describe('a song whose parts follow', () => {
  const BAR = 3840;
  const change = (id: string, startTicks: number, symbol: string): ChordEntry => ({
    id,
    startTicks,
    chord: read(symbol),
  });
  const writtenOver = [change('a', 0, 'C'), change('b', BAR, 'F')];
  const follows: Follows = { ...root, writtenOver };
  const strip = { name: 'Part', mark: 'PA', colour: 0, levelDb: 0, pan: 0, mute: false, solo: false };
  const note = (id: string, startTicks: number, midi: number) => ({
    id,
    startTicks,
    lengthTicks: 900,
    midi,
    velocity: 80,
  });
  const part: NotePart = {
    ...strip,
    kind: 'notes',
    id: 'n',
    program: 0,
    follows,
    passages: [
      {
        type: 'notes',
        id: 'p',
        startTicks: 0,
        lengthTicks: 2 * BAR,
        notes: [note('x', 0, 64), note('y', BAR - 60, 69)],
      },
    ],
  };
  const voice: RecordingPart = {
    ...strip,
    kind: 'recording',
    id: 'v',
    material: 'voice',
    follows,
    takes: [
      {
        id: 't',
        recordingHash: 'a'.repeat(64),
        line: {
          readingId: 'r',
          tuningCents: 0,
          notes: [{ id: 'l', startSeconds: 0, endSeconds: 1, midi: 64.2, velocity: 80, confidence: 1 }],
        },
      },
    ],
    passages: [
      { type: 'recording', id: 'q', takeId: 't', startTicks: 0, offsetSeconds: 0, durationSeconds: 4 },
    ],
  };
  const song: Song = {
    ...createSong('s', 'Song'),
    key: C,
    parts: [part, voice],
    changes: [change('a', 0, 'Cm'), change('b', BAR, 'F')],
  };
  const midis = (made: Song) =>
    made.parts.flatMap((each) =>
      each.kind === 'recording'
        ? each.takes.flatMap(({ line }) => line!.notes.map(({ target }) => target?.midi))
        : each.passages.flatMap(({ notes }) => notes.map(({ midi }) => midi)),
    );

  it('sounds where its notes fit, notes and recordings, and holds what was played', () => {
    // The note just before bar 2 belongs to the chord there, which did not change.
    expect(midis(followedSong(song))).toEqual([63, 69, 63]);
    expect(midis(song)).toEqual([64, 69, undefined]);
  });

  it('bends to the scale of the key of its place', () => {
    // From G to C: B is in C major, in F major it is B flat.
    const scale = { aim: 'scale' as const, way: 'nearest' as const, bassOnBass: false };
    const over = { ...scale, writtenOver: [change('a', 0, 'G')] };
    const notes = [note('x', 0, 71), note('y', 2 * BAR, 71)];
    const one: NotePart = {
      ...part,
      follows: over,
      passages: [{ ...part.passages[0], lengthTicks: 4 * BAR, notes }],
    } as NotePart;
    const modulating: Song = {
      ...song,
      parts: [one],
      changes: [change('b', 0, 'C')],
      keyChanges: [{ startTicks: 2 * BAR, key: { fifths: -1, mode: 'major' } }],
    };
    const [before, after] = midis(followedSong(modulating));
    expect([before, after]).toEqual([
      followNote(71, read('G'), read('C'), C, scale, true),
      followNote(71, read('G'), read('C'), { fifths: -1, mode: 'major' }, scale, true),
    ]);
    expect(after).not.toBe(before);
  });

  it('follows the chord where each passage lies', () => {
    const [passage] = voice.passages;
    const note = voice.takes[0].line!.notes[0];
    const line = {
      ...voice.takes[0].line!,
      notes: [note, { ...note, id: 'm', startSeconds: 2, endSeconds: 3 }],
    };
    // The second note lies in bar 1 as well, where C minor sounds now, and not in bar 2, over F.
    const apart: RecordingPart = {
      ...voice,
      takes: [{ ...voice.takes[0], line }],
      passages: [
        { ...passage, durationSeconds: 2 },
        { ...passage, id: 's', startTicks: 0, offsetSeconds: 2, durationSeconds: 2 },
      ],
    };
    expect(midis(followedSong({ ...song, parts: [apart] }))).toEqual([63, 63]);
    const whole = { ...apart, passages: [passage] };
    expect(midis(followedSong({ ...song, parts: [whole] }))).not.toEqual([63, 63]);
  });

  it('lets a short sung note pass where a held one may not stand', () => {
    const [take] = voice.takes;
    const [note] = take.line!.notes;
    const notes = [
      { ...note, midi: 60 },
      { ...note, id: 's', midi: 60, startSeconds: 1, endSeconds: 1.1 },
    ];
    const over: RecordingPart = {
      ...voice,
      follows: { ...root, writtenOver: [change('w', 0, 'Gb')] },
      takes: [{ ...take, line: { ...take.line!, notes } }],
    };
    const flats: Song = { ...song, key: { fifths: -5, mode: 'major' }, changes: [change('x', 0, 'Db/F')] };
    const [held, short] = midis(followedSong({ ...flats, parts: [over] }));
    expect(held! % 12).not.toBe(6);
    expect(short! % 12).toBe(6);
  });

  it.each([20, 50, -50])('keeps the tuning of a recording that follows: %i cents', (tuningCents) => {
    const [take] = voice.takes;
    const line = take.line!;
    const notes = line.notes.map((note) => ({ ...note, midi: note.midi + tuningCents / 100 }));
    const tuned = { ...voice, takes: [{ ...take, line: { ...line, notes, tuningCents } }] };
    const [rail] = midis(followedSong({ ...song, parts: [tuned] }));
    expect(rail).toBeCloseTo(63 + tuningCents / 100);
  });

  it('is as written when following is off, and follows by an edit that can be taken back', () => {
    const off = applyEdit(song, { type: 'song.set', patch: { followOff: true } });
    expect(followedSong(off.song)).toBe(off.song);
    expect(midis(followedSong(applyEdit(off.song, off.inverse).song))).toEqual([63, 69, 63]);
    const none = applyEdit(song, { type: 'part.follow', partId: 'n', follows: null });
    expect(midis(followedSong(none.song))).toEqual([64, 69, 63]);
    expect(applyEdit(none.song, none.inverse).song).toEqual(song);
  });
});
