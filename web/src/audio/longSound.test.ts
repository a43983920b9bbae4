import { beforeEach, describe, expect, it, vi } from 'vitest';
import type { Recording } from '@plundra/contract';
import { FakeAudioContext } from '../test/audioContext.ts';
import { laterIn } from './later.ts';
import { createLongSound, createLongSoundSource } from './longSound.ts';
import type { LongSoundAnswer, LongSoundRequest, LongSoundStretch } from './longSoundWorker.ts';
import type { RecordingTrack } from './playlist.ts';

const recording: Recording = {
  hash: 'a'.repeat(64),
  name: 'Rehearsal',
  format: 'wav',
  byteLength: 1,
  sampleRateHz: 800,
  channels: 1,
  durationSeconds: 1505,
  warnings: [],
};
const track = (more: Partial<RecordingTrack> = {}): RecordingTrack => ({
  type: 'recording',
  key: 'voice/t',
  strip: 'voice',
  source: 'voice/t',
  levelDb: 0,
  fadeInSeconds: undefined,
  fadeOutSeconds: undefined,
  gainDb: 0,
  pan: 0,
  hash: recording.hash,
  warped: false,
  originSeconds: 0,
  fromSeconds: 0,
  toSeconds: 1505,
  correction: undefined,
  ...more,
});
const corrected = (version: number) =>
  track({
    correction: {
      version,
      patches: [],
      limited: [],
      inPieces: { spec: { as: 'notes', notes: [], formantSemitones: 0 }, contour: undefined },
    },
  });

let context: FakeAudioContext;
let asked: LongSoundStretch[];
let problems: unknown[];
/** Until it is opened, no stretch comes. */
let gate: Promise<void>;
beforeEach(() => {
  vi.useFakeTimers();
  context = new FakeAudioContext();
  asked = [];
  problems = [];
  gate = Promise.resolve();
  return () => vi.useRealTimers();
});

const longSound = () =>
  createLongSound(
    context as unknown as AudioContext,
    recording,
    {
      async stretch(stretch) {
        asked.push(stretch);
        await gate;
        return [new Float32Array((stretch.toSeconds - stretch.fromSeconds) * stretch.outputHz)];
      },
      close: () => undefined,
    },
    laterIn(() => context as unknown as AudioContext),
    (error) => problems.push(error),
  );
const start = (sound: ReturnType<typeof longSound>, at: number, fromSeconds: number, lengthSeconds: number) =>
  sound.start(track(), {
    at,
    fromSeconds,
    lengthSeconds,
    output: context.createGain() as unknown as AudioNode,
    fadeIn: false,
  });
async function pass(seconds: number): Promise<void> {
  for (let left = seconds; left > 1e-9; left -= 0.5) {
    context.currentTime += Math.min(left, 0.5);
    await vi.advanceTimersByTimeAsync(500 * Math.min(1, left / 0.5));
  }
}

describe('a recording in pieces', () => {
  it('sounds without a gap, each piece asked for shortly before its time', async () => {
    start(longSound(), 10.05, 1211.5, 60);
    await pass(0.01);
    // The first piece ends in 8.5 seconds.
    expect(asked.map(({ fromSeconds }) => fromSeconds)).toEqual([1200, 1220]);
    await pass(16);
    expect(asked).toHaveLength(2);
    await pass(2);
    expect(asked.map(({ fromSeconds }) => fromSeconds)).toEqual([1200, 1220, 1240]);
    await pass(60);
    let due = 10.05;
    let second = 1211.5;
    for (const { at, offset, length } of context.sources) {
      expect(at).toBeCloseTo(due, 9);
      expect((second % 20) - offset).toBeCloseTo(0, 9);
      due += length;
      second += length;
    }
    expect(second).toBeCloseTo(1271.5);
    expect(problems).toEqual([]);
  });

  it('that comes late joins in where the song is then', async () => {
    let open = () => {};
    gate = new Promise((resolve) => (open = resolve));
    start(longSound(), 10, 5, 100);
    await pass(3);
    open();
    await pass(0.5);
    const [{ at, offset, length }] = context.sources;
    expect(at).toBeGreaterThan(13);
    // As far in as it is late, and to the end of the piece.
    expect(offset).toBeCloseTo(5 + at - 10);
    expect(offset + length).toBeCloseTo(20);
  });

  it('ends with the recording, and when it is stopped', async () => {
    start(longSound(), 11, 1495, 100);
    await pass(120);
    expect(context.sources.map(({ length }) => length)).toEqual([5, 5]);
    const { stop } = start(longSound(), context.currentTime, 0, 100);
    await pass(1);
    const sounding = context.sources.at(-1)!;
    stop(context.currentTime + 2);
    expect(sounding.stopAt).toBeCloseTo(context.currentTime + 2, 1);
    const started = context.sources.length;
    await pass(60);
    expect(context.sources).toHaveLength(started);
  });

  it('is asked for once, and again with another correction', async () => {
    const sound = longSound();
    await sound.prepare(track(), 25);
    await sound.prepare(track(), 39);
    await sound.prepare(corrected(3), 25);
    await sound.prepare(corrected(3), 25);
    await sound.prepare(corrected(4), 25);
    expect(asked.map(({ fromSeconds }) => fromSeconds)).toEqual([20, 20, 20]);
  });

  it('that fails is said, and asked for again', async () => {
    const sound = longSound();
    gate = Promise.reject(new Error('away'));
    await expect(sound.prepare(track(), 0)).rejects.toThrow('away');
    start(sound, 10, 0, 10);
    await pass(1);
    expect(problems).toEqual([new Error('away')]);
    gate = Promise.resolve();
    await sound.prepare(track(), 0);
    expect(asked).toHaveLength(3);
  });
});

describe('the worker that makes the pieces', () => {
  const stretch: LongSoundStretch = {
    hash: recording.hash,
    sampleRateHz: 800,
    lengthSamples: 1_204_000,
    outputHz: 1000,
    fromSeconds: 0,
    toSeconds: 20,
  };
  function fakeWorker() {
    const posted: LongSoundRequest[] = [];
    const worker = {
      onmessage: undefined as ((event: { data: LongSoundAnswer }) => void) | undefined,
      onerror: undefined as (() => void) | undefined,
      postMessage: (message: LongSoundRequest) => posted.push(message),
      terminate: () => undefined,
    };
    return { worker, posted };
  }

  it('is told a correction once, and asked with the track it belongs to', async () => {
    const { worker, posted } = fakeWorker();
    const source = createLongSoundSource(() => worker as unknown as Worker);
    const answers = [source.stretch(stretch, track()), source.stretch(stretch, corrected(3))];
    answers.push(source.stretch(stretch, corrected(3)), source.stretch(stretch, corrected(4)));
    expect(posted.map((message) => (message.type === 'stretch' ? message.key : message.type))).toEqual([
      null,
      'correction',
      'voice/t',
      'voice/t',
      'correction',
      'voice/t',
    ]);
    const ids = posted.flatMap((message) => (message.type === 'stretch' ? [message.id] : []));
    ids.forEach((id, i) => worker.onmessage!({ data: { id, channels: [Float32Array.of(i)] } }));
    expect((await Promise.all(answers)).map(([channel]) => channel[0])).toEqual([0, 1, 2, 3]);
  });

  it('answers everybody when it breaks, and is started anew', async () => {
    const made = [fakeWorker(), fakeWorker()];
    let started = 0;
    const source = createLongSoundSource(() => made[started++].worker as unknown as Worker);
    const answer = source.stretch(stretch, corrected(3));
    made[0].worker.onerror!();
    await expect(answer).rejects.toThrow(/could not be played/);
    const again = source.stretch(stretch, corrected(3));
    // The new one is told the correction too.
    expect(made[1].posted.map(({ type }) => type)).toEqual(['correction', 'stretch']);
    made[1].worker.onmessage!({ data: { id: 2, message: 'The server is away.' } });
    await expect(again).rejects.toThrow('The server is away.');
  });
});
