import { describe, expect, it } from 'vitest';
import { chordSymbol, parseChord } from '../theory/index.ts';
import {
  applyEdit,
  chordEntriesOf,
  createSong,
  insertTime,
  moveChords,
  planTranspose,
  putSection,
  removeTime,
  songSchema,
  wholeRecording,
  type ChordEntry,
  type ChordEntriesChange,
  type RecordingPart,
  type Song,
} from './index.ts';

const BAR = 3840;
const change = (id: string, bar: number, symbol: string): ChordEntry => {
  const parsed = parseChord(symbol);
  if ('error' in parsed) throw new Error(parsed.error);
  return { id, startTicks: bar * BAR, chord: parsed.chord };
};
const changes = [change('a', 0, 'G'), change('b', 1, 'C'), change('c', 2, 'D7'), change('d', 3, 'G')];
const song: Song = { ...createSong('s', 'Song'), key: { fifths: 1, mode: 'major' }, changes };
const ids = () => {
  let next = 0;
  return () => `new${next++}`;
};
const after = ({ remove, put }: ChordEntriesChange) =>
  chordEntriesOf(applyEdit(song, { type: 'changes.put', remove, put }).song).map(
    ({ startTicks, chord }) => `${startTicks / BAR}:${chordSymbol(chord)}`,
  );

describe('moving chords', () => {
  it('starts them earlier or later and leaves the others', () => {
    expect(after(moveChords(changes, new Set(['b']), 960))).toEqual(['0:G', '1.25:C', '2:D7', '3:G']);
    expect(after(moveChords(changes, new Set(['b', 'c']), -BAR / 2))).toEqual([
      '0:G',
      '0.5:C',
      '1.5:D7',
      '3:G',
    ]);
  });

  it('replaces a chord on which one lands, and passes others', () => {
    expect(after(moveChords(changes, new Set(['b']), BAR))).toEqual(['0:G', '2:C', '3:G']);
    expect(after(moveChords(changes, new Set(['b']), 1.5 * BAR))).toEqual(['0:G', '2:D7', '2.5:C', '3:G']);
    // Two that move together never replace each other.
    expect(after(moveChords(changes, new Set(['a', 'b']), BAR))).toEqual(['1:G', '2:C', '3:G']);
  });

  it('never starts one before the song, and says nothing when nothing moves', () => {
    expect(after(moveChords(changes, new Set(['b']), -3 * BAR))).toEqual(['0:C', '2:D7', '3:G']);
    expect(moveChords(changes, new Set(['a']), -960)).toEqual({ remove: [], put: [] });
    expect(moveChords(changes, new Set(), 960)).toEqual({ remove: [], put: [] });
  });

  it('is undone as one step', () => {
    const { remove, put } = moveChords(changes, new Set(['b']), BAR);
    const moved = applyEdit(song, { type: 'changes.put', remove, put });
    expect(applyEdit(moved.song, moved.inverse).song).toEqual(song);
  });
});

describe('bars of chords', () => {
  const sections = [
    { id: 'v', startTicks: 0, name: 'Verse' },
    { id: 'w', startTicks: 2 * BAR, name: 'Chorus' },
  ];

  it('are put in: the chord before holds on', () => {
    const shifted = insertTime(changes, sections, 2 * BAR, BAR);
    expect(after(shifted.changes)).toEqual(['0:G', '1:C', '3:D7', '4:G']);
    expect(shifted.sections.map(({ startTicks }) => startTicks / BAR)).toEqual([0, 3]);
  });

  it('are taken out with what starts in them; a section keeps the rest of its bars', () => {
    const shifted = removeTime(changes, sections, 2 * BAR, BAR, ids());
    expect(after(shifted.changes)).toEqual(['0:G', '1:C', '2:G']);
    expect(shifted.sections).toEqual(sections);
    // The verse has only the bars that go.
    const verse = removeTime(changes, sections, 0, 2 * BAR, ids());
    expect(verse.sections).toEqual([{ id: 'w', startTicks: 0, name: 'Chorus' }]);
  });

  it('keep the chord that goes on behind them', () => {
    const long = [change('a', 0, 'G'), change('b', 1.5, 'C')];
    const { changes: made } = removeTime(long, [], BAR, BAR, ids());
    const next = applyEdit({ ...song, changes: long }, { type: 'changes.put', ...made }).song;
    expect(
      chordEntriesOf(next).map(({ startTicks, chord }) => [startTicks / BAR, chordSymbol(chord)]),
    ).toEqual([
      [0, 'G'],
      [1, 'C'],
    ]);
  });
});

describe('sections', () => {
  it('are named, renamed and taken away', () => {
    const one = putSection([], BAR, ' Verse ', ids());
    expect(one).toEqual([{ id: 'new0', startTicks: BAR, name: 'Verse' }]);
    const two = putSection(putSection(one, 0, 'Intro', ids()), BAR, 'Chorus', ids());
    expect(two.map(({ id, name }) => [id, name])).toEqual([
      ['new0', 'Intro'],
      ['new0', 'Chorus'],
    ]);
    expect(putSection(two, 0, '', ids()).map(({ name }) => name)).toEqual(['Chorus']);
  });
});

describe('changes of a recording of its own', () => {
  const part: RecordingPart = {
    kind: 'recording',
    id: 'p',
    name: 'Guitar',
    mark: 'GU',
    colour: 0,
    levelDb: 0,
    pan: 0,
    mute: false,
    solo: false,
    material: 'guitar',
    ...wholeRecording({ hash: 'a'.repeat(64), durationSeconds: 8 }, 0, () => 'q'),
  };
  const withPart: Song = { ...song, parts: [part] };
  const chords = [{ startSeconds: 0.1, chord: changes[0].chord, confidence: 0.9 }];

  it('are kept and taken away again by an edit', () => {
    const edit = { type: 'take.chords' as const, partId: 'p', takeId: 'q', chords };
    const kept = applyEdit(withPart, edit);
    expect(songSchema.parse(kept.song).parts[0]).toMatchObject({ takes: [{ chords }] });
    expect(applyEdit(kept.song, kept.inverse).song).toEqual(withPart);
  });
});

describe('another key', () => {
  it('takes chord keys along, and what a part was written over', () => {
    const follows = { aim: 'chord', way: 'root', bassOnBass: false, writtenOver: changes } as const;
    const full: Song = {
      ...song,
      chordKeys: [{ chord: changes[2].chord!, inversion: 1 }, null],
      parts: [
        {
          kind: 'notes',
          id: 'n',
          name: 'Line',
          mark: 'LI',
          colour: 0,
          levelDb: 0,
          pan: 0,
          mute: false,
          solo: false,
          program: 0,
          follows: { ...follows, writtenOver: [...changes] },
          passages: [],
        },
      ],
    };
    const { edit } = planTranspose(full, { fifths: 3, mode: 'major' }, 2);
    const moved = applyEdit(full, edit).song;
    expect(moved.chordKeys?.map((key) => key && chordSymbol(key.chord))).toEqual(['E7', null]);
    const [line] = moved.parts;
    expect(line.kind === 'notes' && line.follows?.writtenOver.map(({ chord }) => chordSymbol(chord))).toEqual(
      ['A', 'D', 'E7', 'A'],
    );
  });
});
