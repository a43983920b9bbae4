import { describe, expect, it } from 'vitest';
import { Mixer } from './mixer.ts';

/** Nodes of a context that only know what they are connected to, and their level. */
function fakeContext() {
  const node = (name: string) => {
    const made = {
      name,
      gain: { value: 1, setTargetAtTime: (value: number) => void (made.gain.value = value) },
      pan: { value: 0, setTargetAtTime: (value: number) => void (made.pan.value = value) },
      into: [] as unknown[],
      connect<T>(target: T): T {
        made.into.push(target);
        return target;
      },
      disconnect: () => void (made.into = []),
    };
    return made;
  };
  return {
    currentTime: 0,
    destination: node('speakers'),
    createGain: () => node('gain'),
    createStereoPanner: () => node('pan'),
  };
}
type Fake = ReturnType<ReturnType<typeof fakeContext>['createGain']>;
/** Levels on the way from a node to the speakers. */
function way(from: AudioNode): number[] {
  const levels: number[] = [];
  for (let at = from as unknown as Fake | undefined; at; at = at.into[0] as Fake | undefined) {
    expect(at.into.length).toBeLessThanOrEqual(1);
    if (at.name === 'gain') levels.push(Number((20 * Math.log10(at.gain.value)).toFixed(3)));
  }
  return levels;
}

describe('the mixer', () => {
  const mixer = () => new Mixer(fakeContext() as unknown as BaseAudioContext);

  it('takes a part through the bus of its group, and another past it', () => {
    const made = mixer();
    const bus = { key: 'g', gainDb: -6 };
    expect(way(made.strip({ strip: 'a', gainDb: -3, pan: 0, bus }))).toEqual([-3, -6, 0]);
    expect(way(made.strip({ strip: 'b', gainDb: 2, pan: 0 }))).toEqual([2, 0]);
  });

  it('follows the level of a group, and a part into another group and out of it', () => {
    const made = mixer();
    const track = { strip: 'a', gainDb: -3, pan: 0 };
    made.strip({ ...track, bus: { key: 'g', gainDb: -6 } });
    expect(way(made.strip({ ...track, bus: { key: 'g', gainDb: -12 } }))).toEqual([-3, -12, 0]);
    expect(way(made.strip({ ...track, bus: { key: 'h', gainDb: -1 } }))).toEqual([-3, -1, 0]);
    expect(way(made.strip(track))).toEqual([-3, 0]);
  });
});
