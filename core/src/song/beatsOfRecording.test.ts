import { describe, expect, it } from 'vitest';
import { beatsOfRecording } from './beatsOfRecording.ts';
import { createTimeMap } from './timeMap.ts';

const metreAt = (startTicks: number, beats: number, unit: 4 | 8) => ({ startTicks, beats, unit });
/** 120 bpm: a beat is half a second, a bar of four 3,840 ticks. */
const even = createTimeMap({ tempoMap: [{ startTicks: 0, bpm: 120 }], metreMap: [metreAt(0, 4, 4)] });
const whole = (startTicks: number, offsetSeconds = 0, durationSeconds = Infinity) => ({
  startTicks,
  offsetSeconds,
  durationSeconds,
});

describe('the song’s beats in a recording', () => {
  it('are counted from where it begins in the song', () => {
    // It begins on the third beat of bar 2.
    const { seconds, downbeats, beatsPerBar } = beatsOfRecording([whole(3840 + 1920)], even, 3);
    expect(seconds).toEqual([0, 0.5, 1, 1.5, 2, 2.5]);
    expect(downbeats).toEqual([2]);
    expect(beatsPerBar).toBe(4);
  });

  it('go on before a window and behind it', () => {
    const { seconds, downbeats } = beatsOfRecording([whole(3840, 1.2, 0.4)], even, 3);
    expect(seconds.map((each) => Number(each.toFixed(3)))).toEqual([0.2, 0.7, 1.2, 1.7, 2.2, 2.7]);
    expect(downbeats).toEqual([2]);
  });

  it('are those of each window where a recording is cut and its parts lie elsewhere', () => {
    // Second 2 on lies a beat later than it did: bar 3 begins at second 3.5 now, not at 4.
    const { seconds, downbeats } = beatsOfRecording([whole(0, 0, 2), whole(3840 + 960, 2, 4)], even, 6);
    expect(seconds).toEqual([0, 0.5, 1, 1.5, 2, 2.5, 3, 3.5, 4, 4.5, 5, 5.5]);
    expect(downbeats.map((i) => seconds[i])).toEqual([0, 3.5, 5.5]);
  });

  it('go on through what is cut out, as the part before it has them', () => {
    // What lies from second 1 to 2 is not in the song; the rest of it begins 40 ms late there.
    const { seconds } = beatsOfRecording([whole(0, 0, 1), whole(3840, 2.04, 2)], even, 4);
    expect(seconds.map((each) => Number(each.toFixed(2)))).toEqual([0, 0.5, 1, 1.5, 2, 2.54, 3.04, 3.54]);
  });

  it('fall closer together in one that sounds at another speed or follows the song’s tempo', () => {
    const faster = { ...whole(0), clock: { keeps: 'own', speed: 2 } as const };
    expect(beatsOfRecording([faster], even, 3).seconds).toEqual([0, 1, 2]);
    const following = { ...whole(0), clock: { keeps: 'song', bpm: 60 } as const };
    expect(beatsOfRecording([following], even, 3).seconds).toEqual([0, 1, 2]);
  });

  it('keep to changes of tempo and metre; a beat of 6/8 is a dotted quarter', () => {
    const time = createTimeMap({
      tempoMap: [
        { startTicks: 0, bpm: 120 },
        { startTicks: 3840, bpm: 60 },
      ],
      metreMap: [metreAt(0, 4, 4), metreAt(3840, 6, 8)],
    });
    const { seconds, downbeats, beatsPerBar } = beatsOfRecording([whole(0)], time, 9);
    expect(seconds).toEqual([0, 0.5, 1, 1.5, 2, 3.5, 5, 6.5, 8]);
    expect(downbeats).toEqual([0, 4, 6, 8]);
    expect(beatsPerBar).toBe(4);
  });

  it('are those of the first where two windows show the same', () => {
    const again = [whole(0, 0, 2), whole(7680 + 480, 0, 2)];
    expect(beatsOfRecording(again, even, 2).seconds).toEqual([0, 0.5, 1, 1.5]);
  });
});
