import { beforeEach, describe, expect, it, vi } from 'vitest';
import { FakeAudioContext } from '../test/audioContext.ts';
import { FakeWorkletNode } from '../test/workletNode.ts';
import type { RecordingTrack } from './playlist.ts';
import type { MadeSound } from './retuneSources.ts';
import type { SoundingStretch } from './recordingSounds.ts';
import { createStreams } from './streamedSound.ts';

const RATE = 1000;
const track = {
  levelDb: 0,
  fromSeconds: 0,
  toSeconds: 10,
  fadeInSeconds: undefined,
  fadeOutSeconds: undefined,
} as unknown as RecordingTrack;
const asked: [number, number][] = [];
const made: MadeSound = {
  lengthSamples: 10 * RATE,
  sampleRateHz: RATE,
  channels: 2,
  ahead: (from, to) => Promise.resolve(asked.push([from, to])),
  stream: (_port, from, to) => void asked.push([from, to]),
};

let context: FakeAudioContext;
let problems: unknown[];
beforeEach(() => {
  vi.stubGlobal('AudioWorkletNode', FakeWorkletNode);
  context = new FakeAudioContext();
  problems = [];
  FakeWorkletNode.made = [];
  asked.length = 0;
  return () => vi.unstubAllGlobals();
});

const streams = () =>
  createStreams(
    () => context as unknown as AudioContext,
    (error) => problems.push(error),
  );
const stretch = (more: Partial<SoundingStretch> = {}): SoundingStretch => ({
  at: 12,
  fromSeconds: 3,
  lengthSeconds: 20,
  output: context.createGain() as unknown as AudioNode,
  fadeIn: false,
  ...more,
});

describe('a passage that is made while it plays', () => {
  it('is told where it sounds, and has the first stretch of it asked for', () => {
    streams().start(made, track, stretch());
    const [{ name, options }] = FakeWorkletNode.made;
    expect(name).toBe('stream');
    expect(options).toMatchObject({
      numberOfInputs: 0,
      outputChannelCount: [2],
      processorOptions: { startFrame: 12_000, fromSample: 3000, askedSample: 3120, endSample: 10_000 },
    });
    expect(asked).toEqual([[3000, 3120]]);
  });

  it('is stopped with what it should have replaced, unless that has ended already', () => {
    const all = streams();
    const first = all.start(made, track, stretch());
    const second = all.start(made, track, stretch({ replaces: first }));
    const third = all.start(made, track, stretch({ replaces: second }));
    const [one, two, three] = FakeWorkletNode.made;
    expect([one.told('replacedBy'), two.told('replaces'), two.told('replacedBy')]).toEqual([
      true,
      true,
      true,
    ]);
    two.says({ hereSeconds: 12 });
    third.stop(13);
    expect([one, two, three].map((node) => node.told('endFrame'))).toEqual([false, true, true]);
  });

  it('says what keeps it from being made, unless nobody hears it any more', () => {
    const all = streams();
    const sounding = all.start(made, track, stretch());
    FakeWorkletNode.made[0].says({ message: 'No room.' });
    expect(problems).toEqual([new Error('No room.')]);
    sounding.stop(0);
    FakeWorkletNode.made[0].says({ message: 'No room.' });
    expect(problems).toHaveLength(1);
  });

  it('is waited for by a context that can wait, as long as it sounds', async () => {
    const all = streams();
    all.start(made, track, stretch());
    all.start(made, track, stretch({ at: 2 }));
    const [long, over] = FakeWorkletNode.made;
    let fed = false;
    const waiting = all.fed(14).then(() => (fed = true));
    await Promise.resolve();
    expect([long.told('fedUntilFrame'), over.told('fedUntilFrame'), fed]).toEqual([true, false, false]);
    long.says({ fedUntilFrame: 14_000 });
    await waiting;
    const failing = all.fed(15);
    long.says({ message: 'No room.' });
    await expect(failing).rejects.toThrow('No room.');
  });
});
