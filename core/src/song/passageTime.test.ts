import { describe, expect, it } from 'vitest';
import fc from 'fast-check';
import { notePart, recordingPart, songWith } from '../test/songs.ts';
import {
  applyEdit,
  clockKeeping,
  createPassageTime,
  createTimeMap,
  findPassages,
  passageEndTicks,
  planJoin,
  planSplit,
  planStretch,
  planTempo,
  planTrim,
  soundingSpans,
  type Edit,
  type PassageClock,
  type RecordingPart,
  type RecordingPassage,
  type Song,
} from './index.ts';

const passage = (clock?: PassageClock): RecordingPassage => ({
  type: 'recording',
  id: 'p',
  takeId: 'take',
  startTicks: 3840,
  offsetSeconds: 1,
  durationSeconds: 8,
  ...(clock && { clock }),
});
const songOf = (clock?: PassageClock, tempoMap: Song['tempoMap'] = [{ startTicks: 0, bpm: 120 }]): Song => ({
  ...songWith({ ...recordingPart([]), passages: [passage(clock)] }),
  tempoMap,
});
const partOf = (song: Song) => song.parts[0] as RecordingPart;
const found = (song: Song) =>
  findPassages(
    song,
    partOf(song).passages.map(({ id }) => ({ partId: partOf(song).id, passageId: id })),
  );
const made = (song: Song, edit: Edit | undefined) => applyEdit(song, edit!).song;
const createId = () => 'second';

/** Played at about 90 bpm: slowly at first, then faster. */
const uneven: PassageClock = {
  keeps: 'song',
  bpm: 90,
  played: [
    { seconds: 2, ticks: 0 },
    { seconds: 4, ticks: 1920 },
    { seconds: 5, ticks: 3840 },
    { seconds: 7.5, ticks: 8640 },
  ],
};

const struck = (id: string, startTicks: number, lengthTicks: number) => ({
  id,
  startTicks,
  lengthTicks,
  midi: 60,
  velocity: 80,
});

describe('the time of a passage', () => {
  const clock = fc.oneof(
    fc.constant(undefined),
    fc.record({ keeps: fc.constant('own' as const), speed: fc.double({ min: 0.25, max: 4, noNaN: true }) }),
    fc.record({ keeps: fc.constant('song' as const), bpm: fc.double({ min: 40, max: 240, noNaN: true }) }),
    fc.constant(uneven),
  );
  it('goes there and back', () => {
    const tempoMap = [
      { startTicks: 0, bpm: 90 },
      { startTicks: 7000, bpm: 133 },
    ];
    fc.assert(
      fc.property(clock, fc.double({ min: 0, max: 20, noNaN: true }), (each, seconds) => {
        const time = createPassageTime(passage(each), createTimeMap(songOf(each, tempoMap)));
        expect(time.toRecorded(time.toSong(seconds))).toBeCloseTo(seconds, 8);
        expect(time.toSeconds(time.toTicks(seconds))).toBeCloseTo(seconds, 8);
      }),
    );
  });

  it('that follows the tempo takes as many ticks at any tempo', () => {
    for (const bpm of [60, 120, 200]) {
      const song = songOf({ keeps: 'song', bpm: 100 }, [{ startTicks: 0, bpm }]);
      // 8 s at 100 bpm are 13⅓ quarters.
      expect(passageEndTicks(passage({ keeps: 'song', bpm: 100 }), createTimeMap(song))).toBe(3840 + 12_800);
    }
  });

  it('goes on before and behind what is known of how it was played', () => {
    const time = createPassageTime(passage(uneven), createTimeMap(songOf()));
    // A second before the first point is half as long as the two behind it, and so on behind the last.
    expect(time.toTicks(1)).toBe(3840);
    expect(time.toTicks(2)).toBe(3840 + 960);
    expect(time.toTicks(4.5)).toBe(3840 + 960 + 2880);
    expect(time.toTicks(8.5)).toBe(3840 + 960 + 8640 + 1920);
  });

  it('of its own is as fast as it is said to be', () => {
    const time = createTimeMap(songOf());
    expect(passageEndTicks(passage({ keeps: 'own', speed: 2 }), time)).toBe(3840 + 4 * 1920);
    expect(passageEndTicks(passage(), time)).toBe(3840 + 8 * 1920);
  });
});

describe('a passage that is to keep another time', () => {
  const slowing = [
    { startTicks: 0, bpm: 120, ramp: true as const },
    { startTicks: 16_000, bpm: 80 },
  ];
  it.each<PassageClock | undefined>([undefined, { keeps: 'own', speed: 0.8 }, { keeps: 'song', bpm: 75 }])(
    'begins and ends where it did, also where the tempo changes: %j',
    (clock) => {
      const time = createTimeMap(songOf(clock, slowing));
      const before = passage(clock);
      for (const keeps of ['song', 'own'] as const) {
        const after = clockKeeping(before, keeps, time) ?? undefined;
        expect(after?.keeps ?? 'own').toBe(keeps);
        const movedTicks = passageEndTicks(passage(after), time) - passageEndTicks(before, time);
        expect(Math.abs(movedTicks)).toBeLessThanOrEqual(1);
      }
    },
  );

  it('goes on sounding when it did, all of it', () => {
    const steps = [100, 80, 120, 90, 60].map((bpm, i) => ({ startTicks: 5000 * i, bpm }));
    for (const tempoMap of [slowing, steps])
      for (const clock of [undefined, { keeps: 'own', speed: 0.8 } as const]) {
        const time = createTimeMap(songOf(clock, tempoMap));
        const follows = createPassageTime(passage(clockKeeping(passage(clock), 'song', time)!), time);
        for (let seconds = 1; seconds <= 9; seconds += 0.37)
          expect(follows.toSong(seconds)).toBeCloseTo(
            createPassageTime(passage(clock), time).toSong(seconds),
            3,
          );
      }
  });

  it('there and back is as it was', () => {
    for (const clock of [undefined, { keeps: 'own', speed: 1.25 } as const]) {
      const time = createTimeMap(songOf(clock, slowing));
      const followed = passage(clockKeeping(passage(clock), 'song', time)!);
      expect(clockKeeping(followed, 'own', time)).toEqual(clock ?? null);
    }
    for (const bpm of [92, 110.1, 120]) {
      const steady = createTimeMap(songOf(undefined, [{ startTicks: 0, bpm }]));
      for (const durationSeconds of [8, 55.217, 61.3])
        expect(clockKeeping({ ...passage(), durationSeconds }, 'song', steady)).toEqual({
          keeps: 'song',
          bpm,
        });
    }
  });
});

describe('a passage at another speed', () => {
  const slow: PassageClock = { keeps: 'song', bpm: 150 };

  it('is cut at a tick, sounds as one, and is joined again to the last bit', () => {
    const song = songOf(slow);
    const time = createTimeMap(song);
    const cut = made(song, planSplit(found(song), 3840 + 5000, time, createId));
    const [first, second] = partOf(cut).passages;
    expect(second.startTicks).toBe(3840 + 5000);
    expect(second.clock).toEqual(slow);
    expect(first.durationSeconds).toBeCloseTo(5000 / 2400, 5);
    expect(soundingSpans(partOf(cut), time)).toHaveLength(1);
    const [whole] = soundingSpans(partOf(song), time);
    expect(soundingSpans(partOf(cut), time)[0].warp).toEqual(whole.warp);
    expect(made(cut, planJoin(found(cut), time)).parts).toEqual(song.parts);
  });

  it('that was played unevenly is cut, trimmed and joined, and sounds as it did', () => {
    const song = songOf(uneven);
    const time = createTimeMap(song);
    const cut = made(song, planSplit(found(song), 3840 + 5000, time, createId));
    expect(soundingSpans(partOf(cut), time)[0].warp).toEqual(soundingSpans(partOf(song), time)[0].warp);
    expect(made(cut, planJoin(found(cut), time)).parts).toEqual(song.parts);
    const at = (each: Song) => createPassageTime(partOf(each).passages[0], time).toSong(6);
    const later = made(song, planTrim(found(song)[0], 'start', 3840 + 2400, time, 12));
    expect(partOf(later).passages[0].startTicks).toBe(6240);
    expect(at(later)).toBeCloseTo(at(song), 3);
  });

  it('that was played unevenly is stretched in proportion', () => {
    const song = songOf(uneven);
    const time = createTimeMap(song);
    const end = passageEndTicks(partOf(song).passages[0], time);
    const twice = made(song, planStretch(found(song)[0], 'end', 3840 + 2 * (end - 3840), time));
    const ticks = (each: Song, seconds: number) =>
      createPassageTime(partOf(each).passages[0], time).toTicks(seconds) - 3840;
    for (const seconds of [1, 3, 4.7, 6, 9])
      expect(ticks(twice, seconds)).toBeCloseTo(2 * ticks(song, seconds), 4);
  });

  it('is not joined to one at another speed', () => {
    const song = songOf(slow);
    const time = createTimeMap(song);
    const cut = made(song, planSplit(found(song), 8840, time, createId));
    const other = made(cut, {
      type: 'passage.set',
      partId: partOf(cut).id,
      passageId: 'second',
      patch: { clock: null },
    });
    expect(() => planJoin(found(other), time)).toThrow(/follow each other/);
    expect(soundingSpans(partOf(other), time)).toHaveLength(2);
    const slower = made(cut, {
      type: 'passage.set',
      partId: partOf(cut).id,
      passageId: 'second',
      patch: { clock: { keeps: 'song', bpm: 149 } },
    });
    expect(soundingSpans(partOf(slower), time)).toHaveLength(2);
  });

  it('covers what began before it as long as it sounds, and no longer', () => {
    const song = songOf();
    const time = createTimeMap(song);
    // Two seconds of another take at half speed, from second 3 of the first on.
    const part: RecordingPart = {
      ...partOf(song),
      takes: [...partOf(song).takes, { ...partOf(song).takes[0], id: 'other' }],
      passages: [
        passage(),
        {
          ...passage({ keeps: 'own', speed: 0.5 }),
          id: 'over',
          takeId: 'other',
          startTicks: 3840 + 3 * 1920,
          durationSeconds: 2,
        },
      ],
    };
    const heard = soundingSpans(part, time).map(({ originSeconds, fromSeconds, toSeconds }) => [
      originSeconds + fromSeconds,
      originSeconds + toSeconds,
    ]);
    expect(heard).toEqual([
      [2, 5],
      [5, 9],
      [9, 10],
    ]);
  });

  it('is trimmed at a tick, and no further than its recording goes', () => {
    const song = songOf(slow);
    const time = createTimeMap(song);
    const shorter = made(song, planTrim(found(song)[0], 'end', 3840 + 9600, time, 12));
    expect(passageEndTicks(partOf(shorter).passages[0], time)).toBe(3840 + 9600);
    const longest = made(song, planTrim(found(song)[0], 'end', 1e6, time, 12));
    expect(partOf(longest).passages[0].durationSeconds).toBe(11);
    const later = made(song, planTrim(found(song)[0], 'start', 3840 + 2400, time, 12));
    expect(partOf(later).passages[0]).toMatchObject({ offsetSeconds: 2, startTicks: 6240 });
    expect(passageEndTicks(partOf(later).passages[0], time)).toBe(passageEndTicks(passage(slow), time));
  });

  it('is stretched by an edge in the way it keeps time, and one step takes it back', () => {
    for (const clock of [slow, undefined]) {
      const song = songOf(clock);
      const time = createTimeMap(song);
      const { song: longer, inverse } = applyEdit(song, planStretch(found(song)[0], 'end', 30_720, time)!);
      expect(passageEndTicks(partOf(longer).passages[0], time)).toBe(30_720);
      expect(partOf(longer).passages[0].clock?.keeps).toBe(clock ? 'song' : 'own');
      expect(made(longer, inverse).parts).toEqual(song.parts);
      const end = passageEndTicks(partOf(song).passages[0], time);
      const earlier = made(song, planStretch(found(song)[0], 'start', 1920, time));
      expect(partOf(earlier).passages[0].startTicks).toBe(1920);
      expect(passageEndTicks(partOf(earlier).passages[0], time)).toBe(end);
    }
  });

  it('of notes spreads them and their bends', () => {
    const notes = notePart([], {
      passages: [
        {
          type: 'notes',
          id: 'q',
          startTicks: 960,
          lengthTicks: 1920,
          notes: [
            { ...struck('a', 0, 480), bends: [{ afterTicks: 240, semitones: 1 }] },
            struck('b', 480, 1440),
          ],
        },
      ],
    });
    const song = songWith(notes);
    const [each] = findPassages(song, [{ partId: notes.id, passageId: 'q' }]);
    const { song: twice, inverse } = applyEdit(
      song,
      planStretch(each, 'end', 960 + 3840, createTimeMap(song))!,
    );
    expect(twice.parts[0].passages[0]).toMatchObject({
      lengthTicks: 3840,
      notes: [
        { startTicks: 0, lengthTicks: 960, bends: [{ afterTicks: 480 }] },
        { startTicks: 960, lengthTicks: 2880 },
      ],
    });
    expect(applyEdit(twice, inverse).song).toEqual(song);
  });

  it('keeps how it sounds when the grid moves beneath it, and its bars when those are kept', () => {
    const song = songOf(slow);
    const heard = (each: Song) => {
      const [span] = soundingSpans(partOf(each), createTimeMap(each));
      return [span.originSeconds, span.toSeconds - span.fromSeconds];
    };
    const asHeard = made(song, planTempo(song, 90, 'sound'));
    heard(asHeard).forEach((seconds, i) => expect(seconds).toBeCloseTo(heard(song)[i], 2));
    // Also where another tempo follows that stays: each beat of the recording.
    const two = { ...song, tempoMap: [...song.tempoMap, { startTicks: 9600, bpm: 70 }] };
    const all = (each: Song) =>
      [1, 2.5, 4, 6, 9].map(createPassageTime(partOf(each).passages[0], createTimeMap(each)).toSong);
    all(made(two, planTempo(two, 90, 'sound'))).forEach((seconds, i) =>
      expect(seconds).toBeCloseTo(all(two)[i], 3),
    );
    const inBars = made(song, planTempo(song, 90, 'bars'));
    expect(heard(inBars)[1]).toBeCloseTo((heard(song)[1] * 120) / 90, 6);
  });
});
