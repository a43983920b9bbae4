import { describe, expect, it } from 'vitest';
import { BAR_CHOICES, barInputs, chooseBars, type BeatsHeard } from './barChoice.ts';
import { RHYTHM_BANDS, RHYTHM_HOP_SECONDS, RHYTHM_INPUTS } from './rhythmFeatures.ts';

const COUNT = 48;

interface Heard {
  beatSeconds?: number;
  /** Of each beat, how likely the network finds that it begins a bar. */
  downbeat?: (beat: number) => number;
  compound?: number;
  /** Shares of each beat at which something sounds as well. */
  between?: readonly number[];
  /** How hard the lowest band is struck on each beat. */
  low?: (beat: number) => number;
  changes?: (beat: number) => number;
}

/** Even beats from half a second on. */
function heard({
  beatSeconds = 0.5,
  downbeat = () => 0.2,
  compound = 0.05,
  between = [],
  low = () => 0,
  changes,
}: Heard): BeatsHeard {
  const beats = Array.from({ length: COUNT }, (_, i) => 0.5 + beatSeconds * i);
  const frames = Math.ceil((COUNT * beatSeconds + 2) / RHYTHM_HOP_SECONDS);
  const curve = () => new Float32Array(frames);
  const frameOf = (seconds: number) => Math.round(seconds / RHYTHM_HOP_SECONDS);
  const features = new Float32Array(frames * RHYTHM_INPUTS);
  const likelihood = { beat: curve(), downbeat: curve(), compound: curve().fill(compound), tempi: [] };
  beats.forEach((seconds, i) => {
    likelihood.beat[frameOf(seconds)] = 0.9;
    likelihood.downbeat[frameOf(seconds)] = downbeat(i);
    features[frameOf(seconds) * RHYTHM_INPUTS + RHYTHM_BANDS] = low(i);
    for (const share of between) likelihood.beat[frameOf(seconds + share * beatSeconds)] = 0.3;
  });
  return {
    beats,
    features,
    likelihood,
    ...(changes && { changes: Float64Array.from(beats, (_, i) => changes(i)) }),
  };
}

describe('metre and bar lines', () => {
  it.each([
    [3, 2],
    [4, 3],
    [5, 0],
    [7, 4],
  ])('are %i in a bar from beat %i on, where the network hears it', (beatsPerBar, first) => {
    const downbeat = (beat: number) => (beat % beatsPerBar === first ? 0.85 : 0.05);
    expect(chooseBars(heard({ downbeat }))).toEqual({ beatsPerBar, first, compound: false });
  });

  it('are where chords and basses change, if nothing else tells', () => {
    for (const first of [0, 1, 2])
      expect(chooseBars(heard({ changes: (beat) => (beat % 3 === first ? 3 : -1.5) }))).toMatchObject({
        beatsPerBar: 3,
        first,
      });
  });

  it.each([3, 4, 5])('have as many beats as lie between beats that sound alike: %i', (beatsPerBar) => {
    const low = (beat: number) => [1, 0.1, 0.4, 0.2, 0.3][beat % beatsPerBar];
    expect(chooseBars(heard({ low })).beatsPerBar).toBe(beatsPerBar);
  });

  it('have beats that fall into three where both thirds sound and the halves do not', () => {
    const compound = (between: readonly number[]) =>
      chooseBars(
        heard({
          between,
          compound: 0.45,
          downbeat: (beat) => (beat % 2 === 0 ? 0.8 : 0.05),
          beatSeconds: 0.75,
        }),
      ).compound;
    expect(compound([1 / 3, 2 / 3])).toBe(true);
    expect(compound([1 / 2])).toBe(false);
  });

  it('are four in a bar of too few beats to tell', () => {
    const few = heard({ downbeat: (beat) => (beat % 3 === 0 ? 0.9 : 0.05) });
    expect(chooseBars({ ...few, beats: few.beats.slice(0, 4) })).toEqual({
      beatsPerBar: 4,
      first: 0,
      compound: false,
    });
  });

  it('are told of each choice by numbers, also where no beat of the recording begins a bar', () => {
    const five = heard({});
    const inputs = barInputs({ ...five, beats: five.beats.slice(0, 5) });
    expect(inputs).toHaveLength(BAR_CHOICES.length);
    for (const each of inputs) {
      expect(each).toHaveLength(inputs[0].length);
      expect(each.every(Number.isFinite)).toBe(true);
    }
  });
});
