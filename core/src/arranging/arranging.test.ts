import { describe, expect, it } from 'vitest';
import { createSong, createTimeMap, type ChordEntry, type ChordSpanOfSong } from '../song/index.ts';
import { chordSymbol, mod12, parseChord, type Chord, type Key } from '../theory/index.ts';
import { chordNotes, suggestChords, type ChordNotesSettings } from './index.ts';

const read = (text: string) => (parseChord(text) as { chord: Chord }).chord;
const time = createTimeMap(createSong('s', 'Song'));
const BAR = 3840;
const spans = (...symbols: string[]): ChordSpanOfSong[] =>
  symbols.map((symbol, i) => {
    const change: ChordEntry = { id: `c${i}`, startTicks: i * BAR, chord: read(symbol) };
    return { change, startTicks: i * BAR, endTicks: (i + 1) * BAR };
  });
const ids = () => {
  let next = 0;
  return () => `n${next++}`;
};
const settings: ChordNotesSettings = {
  voicing: 'close',
  octaves: 0,
  withBass: false,
  rhythm: 'held',
  joinEqual: false,
  velocity: 80,
};
const make = (more: Partial<ChordNotesSettings>, ...symbols: string[]) =>
  chordNotes(spans(...symbols), { ...settings, ...more }, time, ids());

describe('chords as notes', () => {
  it('are held for as long as they stand', () => {
    const notes = make({}, 'C', 'F');
    expect(notes).toHaveLength(6);
    expect(notes.every(({ lengthTicks }) => lengthTicks === BAR)).toBe(true);
    expect(new Set(notes.slice(3).map(({ midi }) => mod12(midi)))).toEqual(new Set([5, 9, 0]));
  });

  it('join notes that stay, when asked to', () => {
    const notes = make({ joinEqual: true }, 'C', 'Am');
    // C and E stay: C E G → C E A.
    expect(notes.filter(({ lengthTicks }) => lengthTicks === 2 * BAR).map(({ midi }) => mod12(midi))).toEqual(
      expect.arrayContaining([0, 4]),
    );
    expect(notes).toHaveLength(4);
  });

  it('are struck on every beat', () => {
    const starts = new Set(make({ rhythm: 'beats' }, 'C').map(({ startTicks }) => startTicks));
    expect([...starts]).toEqual([0, 960, 1920, 2880]);
  });

  it('are strummed down on beats and up between, the upper strings only', () => {
    const notes = make({ rhythm: 'strum', voicing: 'guitar' }, 'Em');
    const downs = notes.filter(({ startTicks }) => startTicks < 480);
    expect(downs.map(({ midi }) => midi)).toEqual([40, 47, 52, 55, 59, 64]);
    const ups = notes.filter(({ startTicks }) => startTicks >= 480 && startTicks < 960);
    expect(ups.map(({ midi }) => midi)).toEqual([64, 59, 55, 52]);
    // Down-strokes are stronger, most of all on the first beat; inner strings are lighter.
    const lowest = (ticks: number) =>
      notes.find(({ startTicks, midi }) => startTicks === ticks && midi === 40)!;
    expect(lowest(0).velocity).toBeGreaterThan(lowest(960).velocity);
    expect(ups[0].velocity).toBeLessThan(lowest(960).velocity);
    expect(downs[0].velocity).toBeGreaterThan(downs[2].velocity);
    expect(downs.at(-1)!.velocity).toBe(downs[0].velocity);
  });

  it('move in eighths in 6/8, and on every beat means the dotted quarter', () => {
    const compound = createTimeMap({
      ...createSong('s', 'Song'),
      metreMap: [{ startTicks: 0, beats: 6, unit: 8 }],
    });
    const bar = [{ ...spans('Em')[0], endTicks: 2880 }];
    const startsOf = (rhythm: 'beats' | 'strum') =>
      chordNotes(bar, { ...settings, voicing: 'guitar', rhythm }, compound, ids());
    expect([...new Set(startsOf('beats').map(({ startTicks }) => startTicks))]).toEqual([0, 1440]);
    const strokes = [0, 480, 960, 1440, 1920, 2400].map((at) =>
      startsOf('strum')
        .filter(({ startTicks }) => startTicks >= at && startTicks < at + 480)
        .map(({ midi }) => midi),
    );
    // Down, down, up; down, down, up.
    expect(strokes.map((midis) => (midis[0] < midis[1] ? 'down' : 'up'))).toEqual([
      'down',
      'down',
      'up',
      'down',
      'down',
      'up',
    ]);
  });

  it('are broken upwards and back', () => {
    const notes = make({ rhythm: 'arpeggio' }, 'C');
    const pitches = notes.map(({ midi }) => midi);
    expect(pitches.slice(0, 4)).toEqual([pitches[0], pitches[1], pitches[2], pitches[1]]);
    expect(pitches).toHaveLength(8);
    // Each rings over the next, and none beyond the chord.
    expect(notes.map(({ lengthTicks }) => lengthTicks)).toEqual([...new Array<number>(7).fill(960), 480]);
  });

  it('follow the rhythm of another part, as a bass line from the kick does', () => {
    const strikes = [0, 1440, 4000].map((startTicks) => ({ startTicks, lengthTicks: 400, velocity: 99 }));
    const notes = make({ rhythm: 'part', voicing: 'bass', strikes }, 'C/E', 'G');
    expect(notes.map(({ startTicks, midi }) => [startTicks, mod12(midi)])).toEqual([
      [0, 4],
      [1440, 4],
      [4000, 7],
    ]);
    expect(notes[0]).toMatchObject({ lengthTicks: 400, velocity: 99 });
    const across = [{ startTicks: BAR - 100, lengthTicks: 400, velocity: 99 }];
    expect(make({ rhythm: 'part', strikes: across }, 'C', 'G').map(({ lengthTicks }) => lengthTicks)).toEqual(
      [100, 100, 100],
    );
  });
});

describe('suggestions', () => {
  const G: Key = { fifths: 1, mode: 'major' };

  it('put the dominant high before the tonic, and say why', () => {
    const found = suggestChords({ key: G, before: read('C'), here: read('Am'), after: read('G') });
    const dominant = found.findIndex(({ chord }) => /^D7?$/.test(chordSymbol(chord)));
    expect(dominant).toBeGreaterThanOrEqual(0);
    expect(dominant).toBeLessThan(3);
    expect(found[dominant].reasons).toContain('leads home');
    expect(found[dominant].does).toBe('leading');
    // What stands there already is no suggestion.
    expect(found.map(({ chord }) => chordSymbol(chord))).not.toContain('Am');
  });

  it('hold borrowed chords, spelled in the key of the song', () => {
    const found = suggestChords({ key: G, before: read('G'), here: null, after: null });
    const borrowed = found.filter(({ reasons }) => reasons.includes('borrowed'));
    expect(borrowed.length).toBeGreaterThan(0);
    expect(borrowed.map(({ chord }) => chord.root)).not.toContain('D#');
    for (let i = 1; i < found.length; i++) expect(found[i].score).toBeLessThanOrEqual(found[i - 1].score);
  });
});
