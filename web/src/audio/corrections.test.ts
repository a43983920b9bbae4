import { describe, expect, it } from 'vitest';
import type { Contour } from '@plundra/core/reading';
import { Corrections, type CorrectionSources, type CorrectionRequest } from './corrections.ts';
import type { RetuneRequest } from './retuneWorker.ts';

const contour: Contour = { hopSeconds: 0.01, f0Hz: new Float32Array(0), confidence: new Float32Array(0) };
const sound = {
  numberOfChannels: 1,
  sampleRate: 44_100,
  getChannelData: () => new Float32Array(4),
} as unknown as AudioBuffer;

/** A worker that does what it is told to: answer, fail, or break. */
function setUp(
  does: (request: Extract<RetuneRequest, { type: 'render' | 'warp' }>) => 'answer' | 'fail' | 'break',
) {
  const posted: RetuneRequest[] = [];
  const problems: string[] = [];
  let workers = 0;
  let latest: { onerror: Worker['onerror'] } | undefined;
  const sources: CorrectionSources = {
    decoded: (hash) => Promise.resolve(hash === 'long' ? undefined : sound),
    contour: () => Promise.resolve(contour),
    problem: (message) => problems.push(message),
    worker() {
      workers++;
      const worker = {
        onmessage: null as Worker['onmessage'],
        onerror: null as Worker['onerror'],
        terminate: () => undefined,
        postMessage(request: RetuneRequest) {
          posted.push(request);
          if (request.type !== 'render' && request.type !== 'warp') return;
          queueMicrotask(() => {
            const what = does(request);
            if (what === 'break') return worker.onerror?.call(worker as never, {} as ErrorEvent);
            const data =
              what === 'answer'
                ? { id: request.id, patches: [], limited: [] }
                : { id: request.id, message: 'It broke.' };
            worker.onmessage?.call(worker as never, { data } as MessageEvent);
          });
        },
      };
      latest = worker;
      return worker as unknown as ReturnType<CorrectionSources['worker']>;
    },
  };
  const breaks = () => latest!.onerror?.call(latest as never, {} as ErrorEvent);
  const corrections = new Corrections(sources);
  const ready = () => expect.poll(() => corrections.progress()).toBeNull();
  return { corrections, posted, problems, ready, workers: () => workers, breaks };
}

const request = (key: string, more: Partial<CorrectionRequest> = {}): CorrectionRequest => ({
  key,
  hash: 'a',
  readingId: undefined,
  spec: {
    as: 'stretch',
    stretch: { onsets: [], semitones: 1, how: 'stretch', fromSeconds: 0, toSeconds: 10 },
  },
  ...more,
});
const ofType = (posted: RetuneRequest[], type: RetuneRequest['type']) =>
  posted.filter((each) => each.type === type);

describe('corrections', () => {
  it('share what is measured of a recording that two parts use, until the last is gone', async () => {
    const { corrections, posted, ready } = setUp(() => 'answer');
    corrections.want([request('one'), request('two')]);
    await ready();
    expect([...corrections.get().keys()].sort()).toEqual(['one', 'two']);
    expect(ofType(posted, 'open')).toHaveLength(1);
    corrections.want([request('two')]);
    expect(ofType(posted, 'close')).toHaveLength(0);
    // The other one is still rendered.
    const other = request('two').spec;
    corrections.want([
      request('two', {
        spec: {
          ...other,
          stretch: { ...(other as never as { stretch: object }).stretch, semitones: 2 },
        } as never,
      }),
    ]);
    await ready();
    expect(ofType(posted, 'render')).toHaveLength(3);
    corrections.want([]);
    expect(ofType(posted, 'close')).toHaveLength(1);
  });

  it('answer after an error, say it, and go on with the next edit', async () => {
    let broken = true;
    const { corrections, problems, ready } = setUp(() => (broken ? 'fail' : 'answer'));
    corrections.want([request('one')]);
    await ready();
    expect(problems).toEqual(['It broke.']);
    expect(corrections.get().size).toBe(0);
    broken = false;
    corrections.want([request('one')]);
    await ready();
    expect(corrections.get().has('one')).toBe(true);
  });

  it('start over when the renderer itself breaks', async () => {
    let times = 0;
    const { corrections, posted, problems, ready, workers } = setUp(() =>
      times++ === 0 ? 'break' : 'answer',
    );
    corrections.want([request('one')]);
    await ready();
    expect(problems).toHaveLength(1);
    corrections.want([request('one')]);
    await ready();
    expect(workers()).toBe(2);
    expect(ofType(posted, 'open')).toHaveLength(2);
    expect(corrections.get().has('one')).toBe(true);
  });

  it('of a passage at another tempo take the place of the last at once, of a recording that stays open', async () => {
    const { corrections, posted, ready } = setUp(() => 'answer');
    const slow = (toSeconds: number): CorrectionRequest => ({
      ...request(`slow ${toSeconds}`, { spec: null }),
      warp: {
        how: 'slice',
        points: [
          { fromSeconds: 0, toSeconds: 0 },
          { fromSeconds: 2, toSeconds },
        ],
      },
    });
    corrections.want([slow(3)]);
    await ready();
    expect(corrections.get().get('slow 3')!.made).toMatchObject({
      lengthSamples: 3.05 * 44_100,
      channels: 1,
    });
    const told: string[][] = [];
    corrections.subscribe(() => told.push([...corrections.get().keys()]));
    corrections.want([slow(4)]);
    // Before anything else has its turn, and never without either.
    expect(told[0]).toEqual(['slow 4']);
    await ready();
    expect(posted.map(({ type }) => type)).toEqual(['open', 'warp', 'warp', 'forget']);
    expect(posted[3]).toMatchObject({ warpId: (posted[1] as { id: number }).id });
  });

  it('of a passage that is made while it plays are asked for again after the renderer broke', async () => {
    const { corrections, posted, problems, ready, breaks } = setUp(() => 'answer');
    const warp = {
      how: 'slice' as const,
      points: [
        { fromSeconds: 0, toSeconds: 0 },
        { fromSeconds: 2, toSeconds: 3 },
      ],
    };
    const slow = { ...request('slow', { spec: null }), warp };
    corrections.want([slow]);
    await ready();
    const before = corrections.get().get('slow')!;
    breaks();
    expect(problems).toHaveLength(1);
    corrections.want([slow]);
    await ready();
    expect(ofType(posted, 'open')).toHaveLength(2);
    expect(corrections.get().get('slow')!.version).toBeGreaterThan(before.version);
  });

  it('of recordings that are too long to be held are left to whoever plays their pieces', async () => {
    const { corrections, problems, posted, ready } = setUp(() => 'answer');
    const spec: CorrectionRequest['spec'] = {
      as: 'stretch',
      stretch: {
        // The second can only go as far as the first lets it.
        onsets: [
          { id: 'a', fromSeconds: 1, toSeconds: 1.1 },
          { id: 'b', fromSeconds: 1.2, toSeconds: 4 },
        ],
        semitones: 0,
        how: 'stretch',
        fromSeconds: 0,
        toSeconds: 1300,
      },
    };
    corrections.want([request('one', { hash: 'long', spec })]);
    await ready();
    expect(corrections.get().get('one')).toMatchObject({ limited: ['b'], inPieces: { spec } });
    const before = corrections.get().get('one')!.version;
    corrections.want([request('one', { hash: 'long' })]);
    await ready();
    expect(corrections.get().get('one')!.version).toBeGreaterThan(before);
    // One that is only looked at has none, and one that is taken back has none any more.
    corrections.want([
      request('one', { hash: 'long', spec: { as: 'notes', notes: [], formantSemitones: 0 } }),
    ]);
    await ready();
    expect(corrections.get().size).toBe(0);
    expect([problems, posted]).toEqual([[], []]);
  });
});
