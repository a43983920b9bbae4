import { describe, expect, it } from 'vitest';
import { planPlayIn } from '../arranging/index.ts';
import { notePart, songWith } from '../test/songs.ts';
import {
  applyEdit,
  createTimeMap,
  EditError,
  figuresOfTable,
  findPassages,
  FIRST_TAKE_WEIGHTS,
  placedNotes,
  placesOfTake,
  planAddNoteTakes,
  planBoundary,
  planChoose,
  planHearTogether,
  planInsertion,
  planJoin,
  planMove,
  planPhraseCut,
  planPrintNotes,
  planTakeName,
  planTakeRemoval,
  rankTakes,
  restsOf,
  soundingNotesOf,
  takeTableOf,
  withSpares,
  type Edit,
  type Note,
  type NotePart,
  type Song,
} from './index.ts';

const BAR = 3840;
const QUARTER = 960;
let count = 0;
const createId = () => `id${++count}`;
const note = (startTicks: number, midi: number, lengthTicks = QUARTER / 2): Note => ({
  id: createId(),
  startTicks,
  lengthTicks,
  midi,
  velocity: 80,
});
/** Quarters of a pitch from a bar on, some of them left out or moved. */
const quarters = (fromTicks: number, midi: number, how: (i: number) => number | null = () => 0, bars = 2) =>
  Array.from({ length: 4 * bars }, (_, i) => i).flatMap((i) => {
    const off = how(i);
    return off === null ? [] : [note(fromTicks + i * QUARTER + off, midi)];
  });

const partOf = (song: Song) => song.parts[0] as NotePart;
const tableOf = (song: Song) => takeTableOf(partOf(song), createTimeMap(song))!;
const heard = (song: Song) =>
  placedNotes(partOf(song))
    .map(({ startTicks, midi }) => [startTicks / BAR, midi] as const)
    .sort((a, b) => a[0] - b[0]);
const pitches = (song: Song) => heard(song).map(([, midi]) => midi);
/** The song after an edit, which must come back whole. */
function after(song: Song, edit: Edit | undefined): Song {
  const applied = applyEdit(song, edit!);
  expect(applyEdit(applied.song, applied.inverse).song).toEqual(song);
  return applied.song;
}
/** Sixteen bars of C in quarters, whose bars 5 and 6 were played three times more: D, E and F. */
function withTakes(): Song {
  const song = songWith(notePart(quarters(0, 60, undefined, 16)));
  return after(
    song,
    planAddNoteTakes(
      song,
      'flute',
      [62, 64, 65].map((midi) => quarters(4 * BAR, midi)),
      { startTicks: 4 * BAR, endTicks: 6 * BAR },
      createId,
    ),
  );
}
const choose = (song: Song, phrase: number, takeId: string) =>
  after(song, planChoose(song, 'flute', [{ phrase: tableOf(song).phrases[phrase], takeId }], createId));

describe('takes of notes', () => {
  it('stand beside what was there: the last is heard, and around them all is as before', () => {
    const song = withTakes();
    const { takes, phrases } = tableOf(song);
    expect(takes).toEqual(['Take 1', 'Take 2', 'Take 3', 'Take 4'].map((name) => ({ id: name, name })));
    expect(phrases.map(({ startTicks, endTicks, chosenId }) => [startTicks, endTicks, chosenId])).toEqual([
      [4 * BAR, 6 * BAR, 'Take 4'],
    ]);
    expect(heard(song).filter(([bar]) => bar >= 4 && bar < 6)).toHaveLength(8);
    expect(new Set(pitches(song).slice(16, 24))).toEqual(new Set([65]));
    expect(pitches(song)).toHaveLength(64);
    expect(new Set([...pitches(song).slice(0, 16), ...pitches(song).slice(24)])).toEqual(new Set([60]));
    expect(soundingNotesOf(partOf(song))).toHaveLength(64);
  });

  it('are chosen phrase by phrase, and are cut where the others are', () => {
    let song = withTakes();
    song = after(song, planPhraseCut(song, 'flute', [5 * BAR], createId));
    song = choose(song, 0, 'Take 1');
    song = choose(song, 1, 'Take 3');
    expect(pitches(song).slice(16, 24)).toEqual([60, 60, 60, 60, 64, 64, 64, 64]);
    expect(placesOfTake(partOf(song), 'Take 3')).toEqual([5 * BAR]);
    expect(placesOfTake(partOf(song), 'Take 2')).toEqual([]);
    // One more is cut where the others are, and both of its phrases can be chosen.
    song = after(
      song,
      planAddNoteTakes(
        song,
        'flute',
        [quarters(4 * BAR, 67)],
        { startTicks: 4 * BAR, endTicks: 6 * BAR },
        createId,
      ),
    );
    expect(tableOf(song).phrases.map(({ chosenId }) => chosenId)).toEqual(['Take 5', 'Take 5']);
    song = choose(song, 1, 'Take 2');
    expect(pitches(song).slice(16, 24)).toEqual([67, 67, 67, 67, 62, 62, 62, 62]);
  });

  it.each([
    ['earlier', 4 * BAR + 3 * QUARTER, [65, 65, 65, 60]],
    ['later', 5 * BAR + QUARTER, [65, 65, 65, 65]],
  ])('take their notes along when a boundary goes %s', (_, toTicks, bar) => {
    let song = withTakes();
    song = after(song, planPhraseCut(song, 'flute', [5 * BAR], createId));
    song = choose(song, 1, 'Take 1');
    expect(pitches(song).slice(16, 24)).toEqual([65, 65, 65, 65, 60, 60, 60, 60]);
    song = after(song, planBoundary(song, 'flute', 5 * BAR, toTicks));
    const later = toTicks > 5 * BAR ? [65, 60, 60, 60] : [60, 60, 60, 60];
    expect(pitches(song).slice(16, 24)).toEqual([...bar, ...later]);
    expect(heard(song).map(([at]) => at)).toEqual(heard(withTakes()).map(([at]) => at));
    // No note of any take is lost on the way.
    expect(partOf(song).passages.reduce((sum, { notes }) => sum + notes.length, 0)).toBe(64 + 24);
    song = after(song, planBoundary(song, 'flute', toTicks, 5 * BAR));
    expect(pitches(song).slice(16, 24)).toEqual([65, 65, 65, 65, 60, 60, 60, 60]);
  });

  it.each([
    ['earlier', 5 * BAR - QUARTER],
    ['later', 5 * BAR + QUARTER],
  ])('also where a take is two passages that each count from their own start: %s', (_, toTicks) => {
    const passage = (id: string, bar: number, midi: number) => ({
      type: 'notes' as const,
      id,
      startTicks: bar * BAR,
      lengthTicks: BAR,
      notes: quarters(0, midi, undefined, 1),
    });
    let song = songWith(notePart([], { passages: [passage('p', 4, 60), passage('q', 5, 61)] }));
    const stretch = { startTicks: 4 * BAR, endTicks: 6 * BAR };
    song = after(song, planAddNoteTakes(song, 'flute', [quarters(4 * BAR, 72)], stretch, createId));
    song = choose(song, 0, 'Take 1');
    song = choose(song, 1, 'Take 1');
    const before = heard(song);
    expect(before.map(([, midi]) => midi)).toEqual([60, 60, 60, 60, 61, 61, 61, 61]);
    song = after(song, planBoundary(song, 'flute', 5 * BAR, toTicks));
    // All is heard where it was, and the boundary is where it was put, in both takes.
    expect(heard(song)).toEqual(before);
    expect(tableOf(song).phrases.map(({ startTicks }) => startTicks)).toEqual([4 * BAR, toTicks]);
    song = choose(song, 1, 'Take 2');
    expect(pitches(song).filter((midi) => midi === 72)).toHaveLength(toTicks < 5 * BAR ? 5 : 3);
  });

  it('leave alone what is of no take, where a take is chosen', () => {
    let song = withTakes();
    const stray = {
      type: 'notes' as const,
      id: 'stray',
      startTicks: 4 * BAR,
      lengthTicks: BAR,
      notes: [note(0, 90)],
    };
    song = after(song, { type: 'passage.add', partId: 'flute', passage: stray });
    song = choose(song, 0, 'Take 2');
    expect(pitches(song).filter((midi) => midi === 90)).toHaveLength(1);
    expect(pitches(song).filter((midi) => midi === 62)).toHaveLength(8);
  });

  it('move with their phrase, and with bars that are put in before them', () => {
    const song = withTakes();
    const time = createTimeMap(song);
    const chosen = partOf(song).passages.find(({ take, spare }) => take === 'Take 4' && !spare)!;
    const places = [{ partId: 'flute', passageId: chosen.id }];
    const moved = after(song, planMove(withSpares(findPassages(song, places), time), BAR));
    const startsOf = (each: Song) =>
      new Set(
        partOf(each)
          .passages.filter(({ take }) => take)
          .map(({ startTicks }) => startTicks / BAR),
      );
    expect(startsOf(moved)).toEqual(new Set([5]));
    expect(startsOf(after(song, planInsertion(song, 1, 4)))).toEqual(new Set([8]));
  });

  it('are heard together, each in a part of its own', () => {
    const song = withTakes();
    const together = applyEdit(song, planHearTogether(song, 'flute', createId)!).song;
    expect(together.parts.map((part) => placedNotes(part as NotePart).length)).toEqual([56, 8, 8, 8, 8]);
  });

  it('are named, and two cannot have one name', () => {
    const song = withTakes();
    const named = after(song, planTakeName(partOf(song), 'Take 2', ' Calm '));
    expect(tableOf(named).takes.map(({ name }) => name)).toEqual(['Take 1', 'Calm', 'Take 3', 'Take 4']);
    expect(() => planTakeName(partOf(named), 'Take 3', 'Calm')).toThrow(EditError);
    expect(planTakeName(partOf(named), 'Calm', 'Calm')).toBeUndefined();
  });

  it('go with all that shows them, and the others stay', () => {
    const song = withTakes();
    const gone = after(song, planTakeRemoval(partOf(song), 'Take 4'));
    expect(tableOf(gone).takes.map(({ name }) => name)).toEqual(['Take 1', 'Take 2', 'Take 3']);
    expect(heard(gone).filter(([bar]) => bar >= 4 && bar < 6)).toEqual([]);
  });

  it('of different takes are not joined, but printed as one', () => {
    const song = withTakes();
    const heardOnes = partOf(song).passages.filter(({ spare }) => !spare);
    const found = heardOnes.map((passage) => ({ part: partOf(song), passage }));
    expect(() => planJoin(found, createTimeMap(song))).toThrow(/different takes/);
    const printed = after(song, planPrintNotes(song, 'flute', 'Flute printed', createId));
    expect(printed.parts.map(({ name, mute }) => [name, mute])).toEqual([
      ['Flute', true],
      ['Flute printed', false],
    ]);
    const copy = printed.parts[1] as NotePart;
    expect(copy.passages).toHaveLength(1);
    expect(placedNotes(copy).map(({ startTicks, midi }) => [startTicks, midi])).toEqual(
      placedNotes(partOf(song))
        .map(({ startTicks, midi }) => [startTicks, midi])
        .sort((a, b) => a[0] - b[0]),
    );
  });

  it('leave alone what is played in afterwards: it goes into what is heard', () => {
    const song = withTakes();
    const more = after(
      song,
      planPlayIn(song, partOf(song), [note(4 * BAR, 72)], undefined, createTimeMap(song), createId),
    );
    expect(pitches(more).filter((midi) => midi === 72)).toHaveLength(1);
    const replaced = after(
      song,
      planPlayIn(
        song,
        partOf(song),
        [note(4 * BAR, 72)],
        { fromTicks: 4 * BAR, toTicks: 6 * BAR },
        createTimeMap(song),
        createId,
      ),
    );
    expect(heard(replaced).filter(([bar]) => bar >= 4 && bar < 6)).toEqual([[4, 72]]);
    const spares = partOf(replaced).passages.filter(({ spare }) => spare);
    expect(spares.map(({ notes }) => notes.length)).toEqual([8, 8, 8]);
  });
});

describe('the figures of takes of notes', () => {
  /** Three takes of bars 1 and 2: late by 20 ms, early by 10 ms, and on time without its third and fifth note. */
  const song = (() => {
    // 120 bpm: 1.92 ticks a millisecond.
    const takes = [
      quarters(0, 60, () => 38),
      quarters(0, 60, (i) => (i === 0 ? 0 : -19)),
      quarters(0, 60, (i) => (i === 2 || i === 4 ? null : 0)),
    ];
    const empty = songWith(notePart([], { passages: [] }));
    return after(
      empty,
      planAddNoteTakes(empty, 'flute', takes, { startTicks: 0, endTicks: 2 * BAR }, createId),
    );
  })();
  const time = createTimeMap(song);
  const figures = figuresOfTable(tableOf(song), time);
  const of = (name: string) => figures.get(name)![0]!;

  it('are milliseconds from the grid with their side, and what most others play', () => {
    expect(of('Take 1').ms).toBeCloseTo(20, 0);
    expect(of('Take 1').sideMs).toBeCloseTo(20, 0);
    expect(of('Take 2').ms).toBeCloseTo(10, 0);
    expect(of('Take 2').sideMs).toBeCloseTo(-10, 0);
    expect(of('Take 3').ms).toBeCloseTo(0, 5);
    expect(['Take 1', 'Take 2', 'Take 3'].map((name) => of(name).missed)).toEqual([0, 0, 2]);
    expect(of('Take 1').cents).toBeUndefined();
  });

  it('rank by time, and by what is missing', () => {
    const order = (weights = FIRST_TAKE_WEIGHTS) =>
      rankTakes(tableOf(song), figures, weights)[0].ranking.map(({ take }) => take.name);
    expect(order()).toEqual(['Take 2', 'Take 1', 'Take 3']);
    expect(order({ ...FIRST_TAKE_WEIGHTS, missed: 0 })).toEqual(['Take 3', 'Take 2', 'Take 1']);
  });

  it('say of two takes that nothing is missing: nobody knows which is right', () => {
    const two = after(song, planTakeRemoval(partOf(song), 'Take 1'));
    const both = figuresOfTable(tableOf(two), time);
    expect([...both.values()].map(([each]) => each!.missed)).toEqual([0, 0]);
  });

  it('count a note that was played twice by one take once for it', () => {
    const base = songWith(notePart([], { passages: [] }));
    // The first two strike it twice: the second stroke is one that most have.
    const twice = () => [note(0, 60, 100), note(200, 60, 100)];
    const three = after(
      base,
      planAddNoteTakes(
        base,
        'flute',
        [twice(), twice(), [note(0, 60)]],
        { startTicks: 0, endTicks: BAR },
        createId,
      ),
    );
    const missed = [...figuresOfTable(tableOf(three), createTimeMap(three)).values()].map(
      ([each]) => each!.missed,
    );
    expect(missed).toEqual([0, 0, 1]);
  });

  it('do not count what is muted', () => {
    const base = songWith(notePart([], { passages: [] }));
    const muted = { ...note(0, 60), muted: true as const };
    const takes = [[note(0, 60)], [note(0, 60)], [muted, note(QUARTER, 70)]];
    const three = after(
      base,
      planAddNoteTakes(base, 'flute', takes, { startTicks: 0, endTicks: BAR }, createId),
    );
    const figures3 = figuresOfTable(tableOf(three), createTimeMap(three));
    expect([...figures3.values()].map(([each]) => [each!.notes, each!.missed])).toEqual([
      [1, 0],
      [1, 0],
      [1, 1],
    ]);
  });
});

describe('the phrases of takes of notes', () => {
  it('end where all takes rest, just before they go on', () => {
    const base = songWith(notePart([], { passages: [] }));
    const phrase = (at: number) => quarters(at, 60, (i) => (i < 6 ? 0 : null));
    const takes = [0, 30].map((late) =>
      [...phrase(0), ...phrase(2 * BAR), ...phrase(4 * BAR)].map((each) => ({
        ...each,
        startTicks: each.startTicks + late,
      })),
    );
    const song = after(
      base,
      planAddNoteTakes(base, 'flute', takes, { startTicks: 0, endTicks: 6 * BAR }, createId),
    );
    expect(tableOf(song).phrases.flatMap(restsOf)).toEqual([2 * BAR - 120, 4 * BAR - 120]);
    // Where one of them plays on, no phrase ends.
    const held = after(
      song,
      planPlayIn(
        song,
        partOf(song),
        [note(BAR + 2 * QUARTER, 62, 3 * QUARTER)],
        undefined,
        createTimeMap(song),
        createId,
      ),
    );
    expect(tableOf(held).phrases.flatMap(restsOf)).toEqual([4 * BAR - 120]);
  });

  it('are a bar long at the least, and a short note over a long one is no rest', () => {
    const phrases = (...notes: Note[]) => {
      const base = songWith(notePart([], { passages: [] }));
      const takes = [notes, notes.map((each) => ({ ...each, id: createId() }))];
      const song = after(
        base,
        planAddNoteTakes(base, 'flute', takes, { startTicks: 0, endTicks: 4 * BAR }, createId),
      );
      return tableOf(song).phrases.flatMap(restsOf);
    };
    const twoBars = 2 * BAR;
    expect(phrases(note(0, 60), note(twoBars, 60))).toEqual([twoBars - 120]);
    // Half a bar after that one, and half a bar before the end.
    expect(phrases(note(0, 60), note(twoBars, 60), note(2.5 * BAR, 60))).toEqual([twoBars - 120]);
    expect(phrases(note(0, 60), note(3.5 * BAR, 60))).toEqual([]);
    expect(phrases(note(0, 60, twoBars), note(QUARTER, 67, 100), note(twoBars, 60))).toEqual([]);
  });
});
