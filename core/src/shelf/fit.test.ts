import { describe, expect, it } from 'vitest';
import { createSong } from '../song/index.ts';
import { keyName } from '../theory/index.ts';
import { bassLoop, pianoPhrase } from '../test/shelf.ts';
import { fitDistance, fitItem, itemBars, songPlace, type SongPlace } from './fit.ts';

const G_MAJOR = { fifths: 1, mode: 'major' } as const;
const place: SongPlace = { key: G_MAJOR, bpm: 92, metre: { beats: 4, unit: 4 } };
const both = { key: true, tempo: true };

describe('how an item fits a song', () => {
  it('a loop in D under a song in E is offered two semitones up', () => {
    const loop = bassLoop({ key: { fifths: 2, mode: 'major' } });
    const fit = fitItem(loop, { ...place, key: { fifths: 4, mode: 'major' } }, both);
    expect(fit.semitones).toBe(2);
    expect(keyName(fit.key!)).toBe('E major');
  });

  it('goes the shorter way, and takes the spelling of the song', () => {
    const key = (fifths: number) => ({ fifths, mode: 'major' as const });
    const to = (from: number, song: number) =>
      fitItem(bassLoop({ key: key(from) }), { ...place, key: key(song) }, both);
    // B under C: up one; C under B: down one.
    expect(to(5, 0).semitones).toBe(1);
    expect(to(0, 5).semitones).toBe(-1);
    // F under a song in G♭ is in G♭ then, not in F♯.
    expect(keyName(to(-1, -6).key!)).toBe('G♭ major');
    expect(keyName(to(-1, 6).key!)).toBe('F♯ major');
  });

  it('stays in the relative key, and says so', () => {
    const fit = fitItem(bassLoop({ key: { fifths: 1, mode: 'minor' } }), place, both);
    expect(fit).toMatchObject({ semitones: 0, relative: true });
    expect(keyName(fit.key!)).toBe('E minor');
  });

  it('never moves drums, whatever key somebody gave them', () => {
    const drums = bassLoop({ material: 'drums' });
    expect(fitItem(drums, place, both)).toMatchObject({ semitones: 0, key: null });
    const kit = pianoPhrase({ sound: { ...pianoPhrase().sound, program: 'drums' } as never });
    expect(fitItem(kit, place, both)).toMatchObject({ semitones: 0, key: null });
  });

  it('says how much longer a recording gets, and that it is heard', () => {
    expect(fitItem(bassLoop(), place, both).longer).toBeCloseTo(100 / 92, 9);
    expect(fitItem(bassLoop(), place, both).heard).toBe(false);
    expect(fitItem(bassLoop({ bpm: 124 }), place, both)).toMatchObject({ countedBpm: 124, heard: true });
    // Notes are not made longer, they are written anew.
    expect(fitItem(pianoPhrase(), place, both)).toMatchObject({ longer: 1, heard: false });
  });

  it('counts a loop at half or double where that is nearer', () => {
    expect(fitItem(bassLoop({ bpm: 180 }), place, both).countedBpm).toBe(90);
    expect(fitItem(bassLoop({ bpm: 45 }), place, both).countedBpm).toBe(90);
    expect(fitItem(bassLoop({ bpm: 70 }), place, both).countedBpm).toBe(70);
  });

  it('leaves alone what is not wanted to fit', () => {
    expect(fitItem(bassLoop(), place, { key: false, tempo: false })).toMatchObject({
      semitones: 0,
      countedBpm: null,
      longer: 1,
      key: { fifths: -1, mode: 'major' },
    });
  });

  it('says when bars do not go together', () => {
    const waltz = bassLoop({ metre: { beats: 3, unit: 4 } });
    expect(fitItem(waltz, place, both).otherMetre).toBe(true);
    expect(fitItem(waltz, { ...place, metre: { beats: 6, unit: 8 } }, both).otherMetre).toBe(true);
    expect(fitItem(bassLoop({ metre: { beats: 2, unit: 4 } }), place, both).otherMetre).toBe(false);
  });

  it('lays beat on beat, whatever note value each is written as', () => {
    // Dotted quarters at 100 under quarters at 92, and the other way round.
    const six = bassLoop({ metre: { beats: 6, unit: 8 }, bpm: 150 });
    expect(fitItem(six, place, both)).toMatchObject({ countedBpm: 100, otherMetre: false });
    expect(fitItem(six, place, both).longer).toBeCloseTo(100 / 92, 9);
    const inSix: SongPlace = { key: G_MAJOR, bpm: 138, metre: { beats: 6, unit: 8 } };
    expect(fitItem(bassLoop(), inSix, both)).toMatchObject({ countedBpm: 150, otherMetre: false });
    expect(fitItem(bassLoop(), inSix, both).longer).toBeCloseTo(100 / 92, 9);
  });

  it('puts first what fits as it is, and last what is counted otherwise', () => {
    const distance = (more: Parameters<typeof bassLoop>[0]) =>
      fitDistance(fitItem(bassLoop(more), place, both));
    const asItIs = distance({ key: G_MAJOR, bpm: 92 });
    expect(asItIs).toBe(0);
    const order = [
      asItIs,
      distance({ key: { fifths: 1, mode: 'minor' }, bpm: 92 }),
      distance({ bpm: 92 }),
      distance({ bpm: 100 }),
      distance({ bpm: 130 }),
      distance({ bpm: 92, metre: { beats: 3, unit: 4 } }),
    ];
    expect(order).toEqual([...order].sort((a, b) => a - b));
    expect(new Set(order).size).toBe(order.length);
  });

  it('asks the key, tempo and metre of the place, not of the start', () => {
    const song = {
      ...createSong('s', 'Song'),
      key: G_MAJOR,
      keyChanges: [{ startTicks: 7680, key: { fifths: 3, mode: 'major' as const } }],
      tempoMap: [
        { startTicks: 0, bpm: 92 },
        { startTicks: 7680, bpm: 60 },
      ],
      metreMap: [
        { startTicks: 0, beats: 4, unit: 4 as const },
        { startTicks: 7680, beats: 3, unit: 4 as const },
      ],
    };
    expect(songPlace(song, 7679)).toEqual(place);
    expect(songPlace(song, 7680)).toEqual({
      key: { fifths: 3, mode: 'major' },
      bpm: 60,
      metre: { beats: 3, unit: 4 },
    });
    const [from, to] = song.tempoMap;
    const slowing = { ...song, tempoMap: [{ ...from, ramp: true as const }, to] };
    expect(songPlace(slowing, 3840).bpm).toBe(76);
  });

  it('counts bars in the metre of the item', () => {
    expect(itemBars(bassLoop())).toBeCloseTo(4, 9);
    // A bar of 6/8 at 99 quarters: 3 quarters.
    const six = bassLoop({ metre: { beats: 6, unit: 8 }, bpm: 99 });
    six.sound = { ...six.sound, durationSeconds: (6 * 60) / 99 } as never;
    expect(itemBars(six)).toBeCloseTo(2, 3);
    expect(itemBars(bassLoop({ bpm: null }))).toBeUndefined();
  });
});
