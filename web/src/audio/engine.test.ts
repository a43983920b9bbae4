import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { Recording } from '@plundra/contract';
import { FakeAudioBuffer, FakeAudioContext } from '../test/audioContext.ts';
import { FakeWorkletNode } from '../test/workletNode.ts';
import { Engine } from './engine.ts';
import type { RecordingTrack, Track } from './playlist.ts';

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
  hash: 'a'.repeat(64),
  warped: false,
  originSeconds: 1,
  fromSeconds: 0.5,
  toSeconds: 8,
  correction: undefined,
  ...more,
});

let recording: Recording = {
  hash: '',
  name: 'Lead voice',
  format: 'wav',
  byteLength: 1,
  sampleRateHz: 1000,
  channels: 1,
  durationSeconds: 10,
  warnings: [],
};

let engine: Engine;
let tracks: Track[];
let problems: string[];
let endSeconds: number;
beforeEach(() => {
  vi.useFakeTimers();
  vi.stubGlobal('AudioContext', FakeAudioContext);
  vi.stubGlobal('AudioBuffer', FakeAudioBuffer);
  vi.stubGlobal('fetch', (path: string) =>
    Promise.resolve(
      path.endsWith('/sound')
        ? new Response(new ArrayBuffer(8))
        : Response.json({ ...recording, hash: path.split('/').at(-1) }),
    ),
  );
  recording = { ...recording, durationSeconds: 10 };
  tracks = [track()];
  problems = [];
  endSeconds = 9;
  engine = new Engine();
  engine.setSources({
    tracks: () => tracks,
    endSeconds: () => endSeconds,
    beats: () => [],
    countIn: () => [2, 1],
    problem: (message) => problems.push(message),
  });
});
afterEach(() => {
  engine.close();
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

/** The context of the engine, after `seconds` of it have passed. */
const context = () => FakeAudioContext.opened.at(-1)!;
async function pass(seconds: number): Promise<void> {
  for (let left = seconds; left > 1e-9; left -= 0.02) {
    context().currentTime += Math.min(left, 0.02);
    await vi.advanceTimersByTimeAsync(1000 * Math.min(left, 0.02));
  }
}

describe('playing', () => {
  it('starts a recording where its passage lies, or in its middle', async () => {
    const run = (await engine.play())!;
    // Song second 1.5 is second 0.5 of the recording.
    expect(context().sources).toMatchObject([
      { at: run.contextSeconds + 1.5, offset: 0.5, length: 7.5, stopAt: undefined },
    ]);
    engine.stop();
    engine.seek(3);
    const again = (await engine.play())!;
    expect(context().sources[1]).toMatchObject({ at: again.contextSeconds, offset: 2, length: 6 });
  });

  it('lets a recording that is moved sound at its new place, and stops the old one', async () => {
    const run = (await engine.play())!;
    await pass(2.06);
    const now = engine.positionSeconds();
    expect(now).toBeCloseTo(2);
    engine.setTracks(
      () => [track({ originSeconds: 0.25 })],
      () => undefined,
    );
    await pass(0.1);
    const [before, after] = context().sources;
    expect(before.stopAt).toBeDefined();
    // Where the song is then, counted from the new origin.
    const songSeconds = run.songSeconds + after.at - run.contextSeconds;
    expect(after.offset).toBeCloseTo(songSeconds - 0.25);
    expect(after.at).toBeGreaterThan(before.at);
    // Nothing is started anew while nothing changes.
    engine.refresh();
    await pass(0.1);
    expect(context().sources).toHaveLength(2);
  });

  it('ends a passage that goes, and starts one that comes where it lies, without stopping', async () => {
    await engine.play();
    await pass(2.06);
    const copy = track({ key: 'voice/copy', originSeconds: 1.5, fromSeconds: 1, toSeconds: 3 });
    tracks = [copy];
    engine.refresh();
    await pass(0.1);
    const [gone, come] = context().sources;
    expect(gone.stopAt).toBeLessThan(context().currentTime);
    // Song second 2 is second 0.5 of the copy, whose window begins at second 1: half a second later.
    expect(come).toMatchObject({ offset: 1, length: 2 });
    expect(come.at).toBeCloseTo(context().currentTime - 0.1 + 0.5, 3);
    expect(engine.getState().playing).toBe(true);
    expect(context().sources).toHaveLength(2);
  });

  it('starts what lies far ahead when it is due, of a song of many passages', async () => {
    endSeconds = 100;
    tracks = [track(), track({ key: 'voice/later', originSeconds: 30 })];
    const run = (await engine.play())!;
    expect(context().sources).toHaveLength(1);
    await pass(22);
    expect(context().sources).toHaveLength(2);
    expect(context().sources[1].at).toBeCloseTo(run.contextSeconds + 30.5, 3);
    expect(context().sources[1]).toMatchObject({ offset: 0.5, length: 7.5 });
  });

  it('takes up another correction at once', async () => {
    await engine.play();
    await pass(2);
    tracks = [track({ correction: { version: 7, patches: [], limited: [] } })];
    engine.refresh();
    await pass(0.1);
    expect(context().sources).toHaveLength(2);
    expect(context().sources[0].stopAt).toBeDefined();
  });

  it('stops everything, keeps the place, and ends with the song', async () => {
    await engine.play();
    await pass(3.06);
    engine.stop();
    expect(engine.getState().playing).toBe(false);
    expect(engine.positionSeconds()).toBeCloseTo(3);
    expect(context().sources.every(({ stopAt }) => stopAt !== undefined)).toBe(true);
    await engine.play();
    await pass(7);
    expect(engine.getState().playing).toBe(false);
    expect(engine.positionSeconds()).toBe(0);
  });

  it('counts in before it begins, says the beat, and says what is recorded', async () => {
    const playing = engine.play({ record: { loop: false }, countInBars: 1 });
    const run = (await playing)!;
    expect(context().clicks).toEqual([run.contextSeconds - 2, run.contextSeconds - 1]);
    expect(engine.getState().recordingFromSeconds).toBe(0);
    expect(engine.countInBeat()).toBe(1);
    await pass(1.2);
    expect(engine.countInBeat()).toBe(2);
    expect(engine.positionSeconds()).toBe(0);
    await pass(1.5);
    expect(engine.countInBeat()).toBeNull();
    engine.stop();
    expect(engine.getState().recordingFromSeconds).toBeNull();
  });

  it('goes round a loop while it records only where that is wanted, and clicks as it is told to', async () => {
    engine.setSources({
      tracks: () => tracks,
      endSeconds: () => endSeconds,
      beats: (from, to) =>
        [2, 3].filter((at) => at >= from && at < to).map((timeSeconds) => ({ timeSeconds, downbeat: false })),
      countIn: () => [],
      problem: (message) => problems.push(message),
    });
    engine.setLoop({ startSeconds: 2, endSeconds: 4 });
    engine.seek(2);
    await engine.play({ record: { loop: true }, countInBars: 0, metronome: true });
    await pass(2.5);
    expect(engine.positionSeconds()).toBeLessThan(3);
    expect(context().clicks).toHaveLength(3);
    // The loop stays as it is while its rounds are recorded.
    engine.setLoop(null);
    expect(engine.getState().loop).toEqual({ startSeconds: 2, endSeconds: 4 });
    engine.stop();
    engine.seek(2);
    await engine.play({ record: { loop: false }, countInBars: 0, metronome: false });
    await pass(2.5);
    expect(engine.positionSeconds()).toBeGreaterThan(4);
    expect(context().clicks).toHaveLength(3);
  });

  it('clicks on beats of its own for one run, through a loop and from where it is put', async () => {
    let beats = [1.2, 2.7];
    engine.setLoop({ startSeconds: 0, endSeconds: 2 });
    const run = (await engine.play({
      countInBars: 0,
      beats: (from, to) =>
        beats.filter((at) => at >= from && at < to).map((timeSeconds) => ({ timeSeconds, downbeat: false })),
    }))!;
    await pass(1.5);
    expect(context().clicks).toEqual([run.contextSeconds + 1.2]);
    // As they are by then.
    beats = [1.2, 2.5];
    await pass(1);
    expect(engine.positionSeconds()).toBeGreaterThan(2);
    expect(context().clicks).toHaveLength(2);
    engine.seek(1.1);
    await pass(0.6);
    expect(context().clicks).toHaveLength(3);
    engine.stop();
    engine.seek(1.1);
    await engine.play({ countInBars: 0 });
    await pass(0.5);
    expect(context().clicks).toHaveLength(3);
  });

  it('runs round a loop at its exact length', async () => {
    engine.setLoop({ startSeconds: 2, endSeconds: 4 });
    engine.seek(3);
    const run = (await engine.play())!;
    await pass(3);
    const [first, second, third] = context().sources;
    expect(first.offset).toBeCloseTo(2);
    // The end of the loop comes a second later, then every two.
    expect(second.at).toBeCloseTo(run.contextSeconds + 1);
    expect(third?.at ?? NaN).toBeCloseTo(run.contextSeconds + 3);
    expect([second.offset, third?.offset]).toEqual([1, 1]);
    expect(problems).toEqual([]);
  });

  it('gets ready what a loop goes back to, where it is too long to be held', async () => {
    const asked: number[] = [];
    vi.stubGlobal(
      'Worker',
      class {
        onmessage: ((event: object) => void) | undefined;
        postMessage({ id, fromSeconds }: { id: number; fromSeconds: number }) {
          asked.push(fromSeconds);
          queueMicrotask(() => this.onmessage!({ data: { id, channels: [new Float32Array(20_000)] } }));
        }
        terminate() {}
      },
    );
    recording = { ...recording, durationSeconds: 1500 };
    endSeconds = 1500;
    tracks = [track({ hash: 'b'.repeat(64), originSeconds: 0, fromSeconds: 0, toSeconds: 1500 })];
    engine.setLoop({ startSeconds: 10, endSeconds: 105 });
    engine.seek(85);
    await engine.play();
    await pass(2);
    expect(asked).not.toContain(0);
    await pass(12);
    expect(asked).toContain(0);
    expect(problems).toEqual([]);
  });

  it('says once that a stretch of a long recording cannot be had', async () => {
    vi.stubGlobal(
      'Worker',
      class {
        onmessage: ((event: object) => void) | undefined;
        postMessage({ id }: { id: number }) {
          queueMicrotask(() => this.onmessage!({ data: { id, message: 'The server is away.' } }));
        }
        terminate() {}
      },
    );
    recording = { ...recording, durationSeconds: 1500 };
    tracks = [track({ hash: 'c'.repeat(64), toSeconds: 1500 })];
    await engine.play();
    await pass(1);
    expect(problems).toEqual(['The server is away.']);
  });
});

describe('a passage that is made while it plays', () => {
  const asked: [number, number][] = [];
  const madeTrack = (version: number, more: Partial<RecordingTrack> = {}) =>
    track({
      warped: true,
      originSeconds: 0,
      fromSeconds: 0,
      correction: {
        version,
        patches: [],
        limited: [],
        made: {
          lengthSamples: 8000,
          sampleRateHz: 1000,
          channels: 1,
          ahead: (from, to) => Promise.resolve(asked.push([from, to])),
          stream: () => undefined,
        },
      },
      ...more,
    });
  beforeEach(() => {
    vi.stubGlobal('AudioWorkletNode', FakeWorkletNode);
    FakeWorkletNode.made = [];
    asked.length = 0;
    tracks = [madeTrack(1)];
  });

  it('begins with what was made before', async () => {
    engine.seek(2);
    await engine.play();
    expect(asked).toEqual([[2000, 2120]]);
    expect(FakeWorkletNode.made).toHaveLength(1);
  });

  it('goes on at once at another tempo, and in the old one until that is there', async () => {
    await engine.play();
    await pass(2);
    engine.setTracks(
      () => [madeTrack(2, { originSeconds: 0.5 })],
      () => {
        // What was made for the old tempo is gone, and whoever plays is told.
        tracks = [];
        engine.refresh();
      },
    );
    // Nothing was waited for.
    const [old, next] = FakeWorkletNode.made;
    expect(old.told('endFrame')).toBe(false);
    expect([old.told('replacedBy'), next.told('replaces')]).toEqual([true, true]);
    const from = (next.options.processorOptions as { fromSample: number }).fromSample;
    expect(from / 1000).toBeCloseTo(engine.positionSeconds() - 0.5, 1);
    engine.stop();
    expect([old.told('endFrame'), next.told('endFrame')]).toEqual([true, true]);
  });

  it('that begins later now is silent until then', async () => {
    await engine.play();
    await pass(2);
    tracks = [madeTrack(1, { originSeconds: 5 })];
    engine.refresh();
    const [old, next] = FakeWorkletNode.made;
    expect([old.told('endFrame'), next.told('replaces')]).toEqual([true, false]);
  });

  it('that was as recorded before is swapped when it is made', async () => {
    tracks = [track({ originSeconds: 0 })];
    await engine.play();
    await pass(2);
    tracks = [madeTrack(2)];
    engine.refresh();
    expect(FakeWorkletNode.made).toHaveLength(0);
    await pass(0.1);
    expect(asked).toHaveLength(1);
    expect(FakeWorkletNode.made).toHaveLength(1);
    expect(context().sources[0].stopAt).toBeDefined();
  });
});
