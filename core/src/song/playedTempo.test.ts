import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { recordingPart, songWith } from '../test/songs.ts';
import {
  applyEdit,
  createPassageTime,
  createTimeMap,
  followingBeats,
  planTempo,
  playedFrame,
  playedTempo,
  songSchema,
  type HeardBeats,
  type RecordingPart,
  type RecordingPassage,
} from './index.ts';

/** Beats that slow down and hurry, in bars of `perBar`, after a beat of upbeat. */
function freely(count: number, perBar: number, from = 1.3): HeardBeats {
  const beats = [from];
  while (beats.length < count) beats.push(beats[beats.length - 1] + 0.6 + 0.15 * Math.sin(beats.length / 5));
  return { beats, downbeats: beats.filter((_, i) => i % perBar === 1) };
}
const even = (count: number, seconds = 0.5): HeardBeats => {
  const beats = Array.from({ length: count }, (_, i) => 0.2 + i * seconds);
  return { beats, downbeats: beats.filter((_, i) => i % 4 === 0) };
};
const metre = { beats: 4, unit: 4 } as const;
const passage: RecordingPassage = {
  type: 'recording',
  id: 'p',
  takeId: 'take',
  startTicks: 4000,
  offsetSeconds: 0.4,
  durationSeconds: 30,
};
const placesOf = (each: RecordingPassage, tempoMap = [{ startTicks: 0, bpm: 100 }]) =>
  createPassageTime(each, createTimeMap({ tempoMap, metreMap: [{ startTicks: 0, ...metre }] }));

describe('the tempo that was played', () => {
  it('is one where beats are even, or as uneven as they are read', () => {
    expect(playedTempo(even(60))).toBeUndefined();
    const read = even(60).beats.map((at, i) => at + (i % 3) * 0.01);
    expect(playedTempo({ beats: read, downbeats: [] })).toBeUndefined();
    expect(playedTempo({ beats: [1, 2, 4], downbeats: [] })).toBeUndefined();
    // Two beats at its end that were read beside what was played.
    const beside = even(60).beats.map((at, i) => at + (i > 57 ? 0.06 : 0));
    expect(playedTempo({ beats: beside, downbeats: [] })).toBeUndefined();
  });

  it('says how fast and slow it gets, and how far beats lie from even ones', () => {
    const heard = { beats: [0, 1, 2, 3, 4, 4.5, 5, 5.5, 6], downbeats: [0] };
    const found = playedTempo(heard)!;
    expect(found.entries).toEqual([
      { beat: 0, bpm: 60 },
      { beat: 4, bpm: 120 },
    ]);
    expect([found.slowestBpm, found.fastestBpm]).toEqual([60, 120]);
    // The line of least squares is 31/9 + 3/4 (i - 4), from which the nine lie 1/18, 1/18, 7/36, 7/36, 11/36, 11/36 … apart.
    expect(found.apartSeconds).toBeCloseTo(11 / 36, 9);
  });

  it('has fewer points than beats where a stretch is even', () => {
    const steps = {
      beats: [...even(40).beats, ...even(40, 0.6).beats.map((at) => at + 20.1)],
      downbeats: [],
    };
    expect(playedTempo(steps)!.entries.length).toBeLessThan(6);
  });

  it('lays the beats of the song on those that are heard, bar lines on bar lines', () => {
    for (const metre of [
      { beats: 4, unit: 4 },
      { beats: 3, unit: 4 },
      { beats: 6, unit: 8 },
    ] as const) {
      const perBar = metre.unit === 8 ? 2 : metre.beats;
      const heard = freely(64, perBar);
      const { tempoMap, laterSeconds } = playedFrame(heard, playedTempo(heard)!, metre, 0.5);
      const time = createTimeMap({ tempoMap, metreMap: [{ startTicks: 0, ...metre }] });
      expect(0.5 + laterSeconds).toBeGreaterThanOrEqual(0);
      // At most half a bar of the first tempo.
      expect(Math.abs(laterSeconds)).toBeLessThan(0.5 * perBar * 0.8);
      const positions = heard.beats.map((at) => time.ticksAt(at + laterSeconds));
      const beatTicks = time.beatTicksAt(0);
      positions.forEach((ticks, i) => {
        const on = Math.round(ticks / beatTicks) * beatTicks;
        expect(Math.abs(time.secondsAt(on) - heard.beats[i] - laterSeconds)).toBeLessThan(0.0251);
        if (i > 0) expect(Math.round(ticks / beatTicks) - Math.round(positions[i - 1] / beatTicks)).toBe(1);
        const { bar } = time.barAt(on);
        if (i % perBar === 1) expect(time.barStartTicks(bar)).toBe(on);
      });
    }
  });

  it('lets nothing begin before the song', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0, max: 5, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (from, share) => {
          const heard = freely(40, 4, from);
          const earliest = from * share;
          const { tempoMap, laterSeconds } = playedFrame(heard, playedTempo(heard)!, metre, earliest);
          expect(earliest + laterSeconds).toBeGreaterThanOrEqual(-1e-9);
          // Bar lines are where they are heard all the same; what begins with the song may be 30 ms late.
          const time = createTimeMap({ tempoMap, metreMap: [{ startTicks: 0, ...metre }] });
          const bars = heard.downbeats.map((at) => time.ticksAt(at + laterSeconds) / 3840);
          bars.forEach((bar) => expect(Math.abs(bar - Math.round(bar))).toBeLessThan(0.055 / (4 * 0.45)));
          expect(
            tempoMap.every(({ startTicks }, i) => i === 0 || startTicks > tempoMap[i - 1].startTicks),
          ).toBe(true);
        },
      ),
    );
  });
});

describe('a passage that follows with the beats of its recording', () => {
  const heard = freely(60, 4);
  const { startTicks, clock } = followingBeats(passage, heard, metre, createTimeMap(songWith()));
  const following: RecordingPassage = { ...passage, startTicks, clock };

  it('has them on the beats of the song, its bar lines on bar lines', () => {
    const { toTicks } = placesOf(following);
    heard.beats.forEach((at, i) => {
      const beats = toTicks(at) / 960;
      // 25 ms, at 0.45 to 0.75 s a beat, and the start is a whole tick.
      expect(Math.abs(beats - Math.round(beats))).toBeLessThan(0.025 / 0.45 + 0.001);
      if (i > 0) expect(Math.round(beats) - Math.round(toTicks(heard.beats[i - 1]) / 960)).toBe(1);
      if (i % 4 === 1) expect(Math.round(beats) % 4).toBe(0);
    });
  });

  it('moves by half a bar at most, and not before the song', () => {
    const time = createTimeMap(songWith());
    const at = heard.downbeats.find((each) => each >= 0.4)!;
    const was = createPassageTime(passage, time).toTicks(at);
    expect(Math.abs(createPassageTime(following, time).toTicks(at) - was)).toBeLessThanOrEqual(1921);
    const first = followingBeats({ ...passage, startTicks: 0 }, heard, metre, time);
    expect(first.startTicks).toBeGreaterThanOrEqual(0);
    // Slow as the song is, the bar line nearest to where it is heard is too early for what is recorded before it.
    const slow = createTimeMap({ ...songWith(), tempoMap: [{ startTicks: 0, bpm: 50 }] });
    const early = followingBeats({ ...passage, startTicks: 0 }, heard, metre, slow);
    expect(early.startTicks).toBeGreaterThanOrEqual(0);
    const bar = placesOf({ ...passage, ...early }).toTicks(at) / 3840;
    expect(Math.abs(bar - Math.round(bar))).toBeLessThan(0.025 / (4 * 0.45));
  });

  it('is played as it was recorded where the song follows it', () => {
    const frame = playedFrame(heard, playedTempo(heard)!, metre, 0.4);
    const time = createTimeMap({ tempoMap: frame.tempoMap, metreMap: [{ startTicks: 0, ...metre }] });
    const at = Math.round(time.ticksAt(0.4 + frame.laterSeconds));
    const placed = { ...passage, startTicks: at };
    const with_ = { ...placed, ...followingBeats(placed, heard, metre, time) };
    expect(Math.abs(with_.startTicks - at)).toBeLessThanOrEqual(1);
    for (const seconds of [1, 5.5, 17, 29])
      expect(
        Math.abs(
          createPassageTime(with_, time).toSong(seconds) - createPassageTime(placed, time).toSong(seconds),
        ),
      ).toBeLessThan(0.002);
  });
});

describe('one tempo instead of one that changes', () => {
  const heard = freely(60, 4);
  const frame = playedFrame(heard, playedTempo(heard)!, metre, 0);
  const recorded = recordingPart(null, { startTicks: 0 });
  const song = { ...songWith(recorded), tempoMap: frame.tempoMap };
  const beatsOf = (each: typeof song) => {
    const time = createTimeMap(each);
    const [first] = (each.parts[0] as RecordingPart).passages;
    const { toSong } = createPassageTime(first, time);
    return heard.beats.map((at) => toSong(at + frame.laterSeconds));
  };

  it('takes recordings along: they are even then, and one step takes it back', () => {
    const { song: steady, inverse } = applyEdit(song, planTempo(song, 100, 'all', true));
    expect(steady.tempoMap).toEqual([{ startTicks: 0, bpm: 100 }]);
    const beats = beatsOf(steady);
    beats.forEach((at) => expect(Math.abs(at / 0.6 - Math.round(at / 0.6))).toBeLessThan(0.06));
    expect(beats[59] - beats[0]).toBeCloseTo(59 * 0.6, 1);
    expect(applyEdit(steady, inverse).song).toEqual(song);
    // As it is stored, and sent to other windows.
    expect(songSchema.parse(JSON.parse(JSON.stringify(steady)))).toEqual(steady);
  });

  it('or leaves them as they sound', () => {
    for (const keeps of ['bars', 'sound'] as const) {
      const steady = applyEdit(song, planTempo(song, 100, keeps, true)).song;
      expect(steady.tempoMap).toHaveLength(1);
      beatsOf(steady).forEach((at, i) => expect(at).toBeCloseTo(beatsOf(song)[i], 3));
    }
  });

  it('leaves what follows already where it is heard when the grid moves beneath it', () => {
    const along = applyEdit(song, planTempo(song, song.tempoMap[0].bpm, 'all')).song;
    beatsOf(along).forEach((at, i) => expect(at).toBeCloseTo(beatsOf(song)[i], 3));
    const moved = applyEdit(along, planTempo(along, 100, 'sound', true)).song;
    beatsOf(moved).forEach((at, i) => expect(at).toBeCloseTo(beatsOf(song)[i], 3));
  });
});
