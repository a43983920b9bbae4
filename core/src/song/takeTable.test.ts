import { describe, expect, it } from 'vitest';
import {
  applyEdit,
  createSong,
  createTimeMap,
  EditError,
  findPassages,
  figuresOfTable,
  FIRST_TAKE_WEIGHTS,
  passageEndTicks,
  placedRecordings,
  placesOfTake,
  planAddTakes,
  planBoundary,
  planChoose,
  planInsertion,
  planMove,
  planPassageRemoval,
  planPhraseCut,
  planSectionCopy,
  planSectionMove,
  planTakeRemoval,
  planTempo,
  planTrim,
  rankTakes,
  soundingSpans,
  takeNames,
  takeTableOf,
  withSpares,
  type Edit,
  type LineNote,
  type RecordingPart,
  type Song,
  type Take,
  type TakeWeights,
} from './index.ts';

const BAR = 3840;
/** A bar at 120 bpm. */
const BAR_SECONDS = 2;

let count = 0;
const createId = () => `id${++count}`;
const strip = { mark: 'LV', colour: 0, levelDb: 0, pan: 0, mute: false, solo: false };
const take = (id: string, line: Take['line'] = null): Take => ({ id, recordingHash: id[0].repeat(64), line });

/** A part that sings from bar 3 to bar 11, and three takes of bars 5 to 9 with half a second before and after. */
function withTakes(lines: Take['line'][] = []): Song {
  const song: Song = {
    ...createSong('song', 'Ferry at Six'),
    parts: [
      {
        ...strip,
        kind: 'recording',
        id: 'lead',
        name: 'Lead voice',
        material: 'voice',
        takes: [take('0')],
        passages: [
          {
            type: 'recording',
            id: 'old',
            takeId: '0',
            startTicks: 2 * BAR,
            offsetSeconds: 1,
            durationSeconds: 8 * BAR_SECONDS,
          },
        ],
      },
    ],
  };
  return done(
    song,
    planAddTakes(
      song,
      'lead',
      ['1', '2', '3'].map((id, i) => ({
        take: take(id, lines[i] ?? null),
        startTicks: 4 * BAR,
        offsetSeconds: 0.5,
        durationSeconds: 4 * BAR_SECONDS,
      })),
      createId,
    ),
  );
}
const done = (song: Song, edit: Edit | undefined): Song => applyEdit(song, edit!).song;
const leadOf = (song: Song) => song.parts[0] as RecordingPart;
const tableOf = (song: Song) => takeTableOf(leadOf(song), createTimeMap(song))!;
/** "3:1 5:3" – from bar 3 take 1, from bar 5 take 3. */
const heard = (song: Song) =>
  soundingSpans(leadOf(song), createTimeMap(song))
    .map(
      ({ takeId, originSeconds, fromSeconds }) =>
        `${(originSeconds + fromSeconds) / BAR_SECONDS + 1}:${takeId}`,
    )
    .join(' ');
const phrasesOf = (song: Song) =>
  tableOf(song).phrases.map(({ startTicks, endTicks, chosenId }) => [
    startTicks / BAR + 1,
    endTicks / BAR + 1,
    chosenId,
  ]);
const cut = (song: Song, ...bars: number[]) =>
  done(
    song,
    planPhraseCut(
      song,
      'lead',
      bars.map((bar) => (bar - 1) * BAR),
      createId,
    ),
  );
const choose = (song: Song, phrase: number, takeId: string | null) =>
  done(song, planChoose(song, 'lead', [{ phrase: tableOf(song).phrases[phrase], takeId }], createId));

describe('takes of a part', () => {
  it('stand beside what was there, and the last is heard', () => {
    const song = withTakes();
    expect(heard(song)).toBe('3:0 5:3 9:0');
    expect(tableOf(song).takes.map(({ id }) => id)).toEqual(['0', '1', '2', '3']);
    expect(phrasesOf(song)).toEqual([[5, 9, '3']]);
    expect(takeNames(leadOf(song), 2)).toEqual(['Take 5', 'Take 6']);
  });

  it('of a new part need nothing beside them', () => {
    const empty: Song = {
      ...createSong('song', 'x'),
      parts: [
        { ...strip, kind: 'recording', id: 'lead', name: 'Lead', material: 'voice', takes: [], passages: [] },
      ],
    };
    const one = { startTicks: BAR, offsetSeconds: 0, durationSeconds: 2 };
    const song = done(empty, planAddTakes(empty, 'lead', [{ take: take('1'), ...one }], createId));
    expect(heard(song)).toBe('2:1');
    expect(takeTableOf(leadOf(song), createTimeMap(song))).toBeUndefined();
    expect(takeNames(leadOf(empty), 1)).toEqual(['Take 1']);
  });

  it('are chosen phrase by phrase; joined again they sound as one', () => {
    const three = cut(withTakes(), 6, 7);
    expect(phrasesOf(three)).toEqual([
      [5, 6, '3'],
      [6, 7, '3'],
      [7, 9, '3'],
    ]);
    // A cut alone is not heard.
    expect(heard(three)).toBe('3:0 5:3 9:0');
    const mixed = choose(choose(three, 0, '1'), 1, '0');
    expect(heard(mixed)).toBe('3:0 5:1 6:0 7:3 9:0');
    expect(phrasesOf(mixed).map(([, , chosen]) => chosen)).toEqual(['1', '0', '3']);
    const back = choose(choose(mixed, 0, '0'), 2, '0');
    // The first take again from end to end, as if nothing had ever been recorded over it.
    expect(heard(back)).toBe('3:0');
    expect(heard(choose(mixed, 1, null))).toBe('3:0 5:1 7:3 9:0');
    expect(planChoose(mixed, 'lead', [{ phrase: tableOf(mixed).phrases[0], takeId: '1' }], createId)).toBe(
      undefined,
    );
  });

  it('show the right moments of their recordings', () => {
    const song = choose(cut(withTakes(), 6), 1, '2');
    const [, , chosen] = placedRecordings(leadOf(song));
    expect(chosen).toMatchObject({
      takeId: '2',
      startTicks: 5 * BAR,
      offsetSeconds: 2.5,
      durationSeconds: 6,
    });
  });

  it('can be taken back step by step, exactly', () => {
    let song = withTakes();
    const before: Song[] = [];
    const inverses: Edit[] = [];
    const step = (edit: Edit | undefined) => {
      before.push(song);
      const applied = applyEdit(song, edit!);
      inverses.push(applied.inverse);
      ({ song } = applied);
    };
    step(planPhraseCut(song, 'lead', [5 * BAR, 6.5 * BAR], createId));
    step(planChoose(song, 'lead', [{ phrase: tableOf(song).phrases[1], takeId: '1' }], createId));
    step(planBoundary(song, 'lead', 5 * BAR, 5.25 * BAR));
    step(planTakeRemoval(leadOf(song), '2'));
    while (inverses.length > 0) {
      song = applyEdit(song, inverses.pop()!).song;
      expect(song).toEqual(before.pop());
    }
  });

  it('another take is cut where the phrases are already', () => {
    const three = cut(withTakes(), 6, 7);
    const more = { take: take('4'), startTicks: 4 * BAR, offsetSeconds: 0, durationSeconds: 4 * BAR_SECONDS };
    const song = done(three, planAddTakes(three, 'lead', [more], createId));
    expect(phrasesOf(song)).toEqual([
      [5, 6, '4'],
      [6, 7, '4'],
      [7, 9, '4'],
    ]);
    expect(tableOf(song).takes).toHaveLength(5);
  });

  it('a boundary is moved for all of them, and not over the next', () => {
    const three = choose(cut(withTakes(), 6, 7), 0, '1');
    const later = done(three, planBoundary(three, 'lead', 5 * BAR, 5.5 * BAR));
    expect(phrasesOf(later)).toEqual([
      [5, 6.5, '1'],
      [6.5, 7, '3'],
      [7, 9, '3'],
    ]);
    expect(heard(later)).toBe('3:0 5:1 6.5:3 9:0');
    const earlier = done(later, planBoundary(later, 'lead', 5.5 * BAR, 4.5 * BAR));
    expect(phrasesOf(earlier)[0]).toEqual([5, 5.5, '1']);
    expect(() => planBoundary(three, 'lead', 5 * BAR, 6 * BAR)).toThrow(EditError);
    expect(planBoundary(three, 'lead', 5 * BAR, 5 * BAR)).toBeUndefined();
  });

  it('say where they are used before they go', () => {
    const song = choose(cut(withTakes(), 6), 0, '1');
    expect(placesOfTake(leadOf(song), '1')).toEqual([4 * BAR]);
    expect(placesOfTake(leadOf(song), '2')).toEqual([]);
    expect(() => applyEdit(song, { type: 'take.remove', partId: 'lead', takeId: '1' })).toThrow(/is used by/);
    const gone = done(song, planTakeRemoval(leadOf(song), '1'));
    expect(heard(gone)).toBe('3:0 6:3 9:0');
    expect(tableOf(gone).takes.map(({ id }) => id)).toEqual(['0', '2', '3']);
  });
});

describe('a take table', () => {
  const byHand = (
    passages: [takeId: string, fromBar: number, toBar: number, spare?: true][],
  ): RecordingPart => ({
    ...strip,
    kind: 'recording',
    id: 'lead',
    name: 'Lead voice',
    material: 'voice',
    takes: ['1', '2', '3'].map((id) => take(id)),
    passages: passages.map(([takeId, from, to, spare], i) => ({
      type: 'recording',
      id: `p${i}`,
      takeId,
      startTicks: (from - 1) * BAR,
      offsetSeconds: (from - 1) * BAR_SECONDS,
      durationSeconds: (to - from) * BAR_SECONDS,
      ...(spare && { spare }),
    })),
  });
  const phrases = (part: RecordingPart) =>
    takeTableOf(part, createTimeMap(withTakes()))?.phrases.map(({ startTicks, endTicks, chosenId }) => [
      startTicks / BAR + 1,
      endTicks / BAR + 1,
      chosenId,
    ]);

  it('has phrases only where there is a choice, and says which take sounds where one does', () => {
    expect(
      phrases(
        byHand([
          ['1', 5, 9, true],
          ['2', 5, 7],
        ]),
      ),
    ).toEqual([[5, 7, '2']]);
    expect(
      phrases(
        byHand([
          ['1', 5, 9],
          ['2', 5, 9, true],
        ]),
      ),
    ).toEqual([[5, 9, '1']]);
    // Two that sound at once, or none: nobody was chosen.
    expect(
      phrases(
        byHand([
          ['1', 5, 7],
          ['2', 5, 7],
          ['3', 5, 7, true],
        ]),
      ),
    ).toEqual([[5, 7, undefined]]);
    expect(
      phrases(
        byHand([
          ['1', 5, 7],
          ['2', 5, 7],
          ['1', 7, 9, true],
          ['2', 7, 9, true],
        ]),
      ),
    ).toEqual([[7, 9, undefined]]);
    expect(
      phrases(
        byHand([
          ['1', 5, 9],
          ['2', 5, 9],
        ]),
      ),
    ).toBeUndefined();
    const both = byHand([
      ['1', 5, 9],
      ['2', 5, 6],
      ['2', 6, 9, true],
    ]);
    expect(phrases(both)).toEqual([[6, 9, '1']]);
  });

  it('leaves an edge that was trimmed by hand where it is, without a splinter beside it', () => {
    const song = choose(cut(withTakes(), 6, 7), 1, '1');
    const time = createTimeMap(song);
    const first = placedRecordings(leadOf(song)).find(({ startTicks }) => startTicks === 4 * BAR)!;
    const [found] = findPassages(song, [{ partId: 'lead', passageId: first.id }]);
    const longer = done(song, planTrim(found, 'end', 5 * BAR + 192, time, 60));
    expect(phrasesOf(longer)).toEqual(phrasesOf(song));
    const chosen = choose(longer, 0, '2');
    expect(
      Math.min(...leadOf(chosen).passages.map(({ durationSeconds }) => durationSeconds)),
    ).toBeGreaterThan(1);
  });
});

describe('what else is done to a song, and its takes', () => {
  const chosen = () => choose(cut(withTakes(), 6, 7), 1, '1');
  const spares = (song: Song) => leadOf(song).passages.filter(({ spare }) => spare);

  it('bars put in move the table along', () => {
    const song = done(chosen(), planInsertion(chosen(), 2, 3));
    expect(heard(song)).toBe('6:0 8:3 9:1 10:3 12:0');
    expect(phrasesOf(song).map(([from]) => from)).toEqual([8, 9, 10]);
    // In the middle of a phrase all takes are cut.
    const within = done(chosen(), planInsertion(chosen(), 8, 1));
    expect(phrasesOf(within)).toEqual([
      [5, 6, '3'],
      [6, 7, '1'],
      [7, 8, '3'],
      [9, 10, '3'],
    ]);
  });

  it('another tempo leaves every take where it is beside the others', () => {
    const before = chosen();
    const song = done(before, planTempo(before, 90, 'sound'));
    const time = createTimeMap(song);
    expect(takeTableOf(leadOf(song), time)!.phrases.map(({ chosenId }) => chosenId)).toEqual(['3', '1', '3']);
    const starts = (each: Song) =>
      leadOf(each).passages.map(({ startTicks }) => createTimeMap(each).secondsAt(startTicks));
    starts(song).forEach((seconds, i) => expect(seconds).toBeCloseTo(starts(before)[i], 2));
  });

  it('a section that is moved takes them along, one that is copied only what is heard', () => {
    const section = { id: 's', startTicks: 4 * BAR, endTicks: 8 * BAR, name: 'Verse' };
    const song = done(chosen(), { type: 'song.set', patch: { sections: [section] } });
    const moved = done(song, planSectionMove(song, section, 10 * BAR, createId));
    expect(phrasesOf(moved)).toEqual([
      [11, 12, '3'],
      [12, 13, '1'],
      [13, 15, '3'],
    ]);
    const copied = done(song, planSectionCopy(song, section, 8 * BAR, createId));
    expect(heard(copied).split(' ')).toHaveLength(8);
    expect(spares(copied)).toHaveLength(spares(song).length);
    expect(tableOf(copied).takes.map(({ id }) => id)).toEqual(['0', '1', '2', '3']);
  });

  it('a phrase that is moved has its takes under it, and one that is removed leaves them', () => {
    const song = chosen();
    const time = createTimeMap(song);
    const passage = placedRecordings(leadOf(song)).find(({ takeId }) => takeId === '1')!;
    const found = findPassages(song, [{ partId: 'lead', passageId: passage.id }]);
    const moved = done(song, planMove(withSpares(found, time), 20 * BAR));
    expect(phrasesOf(moved)).toContainEqual([26, 27, '1']);
    const removed = done(song, planPassageRemoval(found));
    expect(phrasesOf(removed)[1]).toEqual([6, 7, undefined]);
    expect(heard(choose(removed, 1, '2'))).toBe('3:0 5:3 6:2 7:3 9:0');
  });

  it('an edge dragged out shows more of its take, which is not shown twice', () => {
    const song = chosen();
    const time = createTimeMap(song);
    const passage = placedRecordings(leadOf(song)).find(({ takeId }) => takeId === '1')!;
    const [found] = findPassages(song, [{ partId: 'lead', passageId: passage.id }]);
    const longer = done(song, planTrim(found, 'end', 6.5 * BAR, time, 60));
    const after = leadOf(longer).passages.find(({ id }) => id === passage.id)!;
    expect(passageEndTicks(after, time)).toBe(6.5 * BAR);
    const earlier = done(
      longer,
      planTrim({ ...found, part: leadOf(longer), passage: after }, 'start', 4.75 * BAR, time, 60),
    );
    expect(leadOf(earlier).passages.find(({ id }) => id === passage.id)).toMatchObject({
      startTicks: 4.75 * BAR,
      offsetSeconds: 0.5 + 0.75 * BAR_SECONDS,
    });
    // What was not chosen still lies where it sounds in the song.
    for (const each of leadOf(earlier).passages)
      if (each.takeId === '1')
        expect(time.secondsAt(each.startTicks) - each.offsetSeconds).toBeCloseTo(4 * BAR_SECONDS - 0.5, 3);
  });
});

const rank = (song: Song, weights: TakeWeights) => {
  const time = createTimeMap(song);
  const table = takeTableOf(leadOf(song), time)!;
  return rankTakes(table, figuresOfTable(table, time), weights);
};

describe('figures of takes', () => {
  const note = (startSeconds: number, midi: number, confidence = 0.95): LineNote => ({
    id: `n${startSeconds}`,
    startSeconds,
    endSeconds: startSeconds + 0.3,
    midi,
    velocity: 80,
    confidence,
  });
  /** Notes on the beats of bar 5, so much sharp and late. */
  const line = (cents: number, ms: number, confidence?: number): Take['line'] => ({
    readingId: 'r',
    tuningCents: 0,
    notes: [0, 1, 2].map((beat) => note(0.5 + beat * 0.5 + ms / 1000, 60 + beat + cents / 100, confidence)),
  });

  it('say how far off, on which side, and rank by the formula', () => {
    const song = withTakes([line(12, 8), line(-4, 30), line(3, 4, 0.5)]);
    const [{ ranking }] = rank(song, FIRST_TAKE_WEIGHTS);
    expect(ranking.map(({ take: { id }, score }) => [id, Math.round(score)])).toEqual([
      ['1', 16],
      ['2', 19],
      ['3', 95],
    ]);
    expect(ranking[1].figures).toMatchObject({
      cents: expect.closeTo(4),
      sideCents: expect.closeTo(-4),
      ms: expect.closeTo(30),
      sideMs: expect.closeTo(30),
      doubtful: 0,
      notes: 3,
    });
    const byTuning = rank(song, { cents: 1, ms: 0, doubtful: 0, missed: 0 });
    expect(byTuning[0].ranking.map(({ take: { id } }) => id)).toEqual(['3', '2', '1']);
  });

  it('count what belongs to the phrase, and nothing of the other ones', () => {
    let song = withTakes([line(0, 0)]);
    const cut = planPhraseCut(song, 'lead', [4 * BAR + 1.5 * 960], createId)!;
    song = applyEdit(song, cut).song;
    const time = createTimeMap(song);
    const figures = figuresOfTable(takeTableOf(leadOf(song), time)!, time).get('1')!;
    expect(figures.map((each) => each?.notes)).toEqual([2, 1]);
  });

  it('leave out takes that are not read', () => {
    const song = withTakes([null, line(5, 5)]);
    const [{ ranking }] = rank(song, FIRST_TAKE_WEIGHTS);
    expect(ranking.map(({ take: { id } }) => id)).toEqual(['2']);
  });
});
