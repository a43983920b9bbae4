import { describe, expect, it } from 'vitest';
import { createLane } from './lanes.ts';

/** A job that ends when it is told to. */
function job() {
  const made = {
    started: false,
    end: () => undefined as void,
    fail: () => undefined as void,
    work: () =>
      new Promise<string>((resolve, reject) => {
        made.started = true;
        made.end = () => resolve('done');
        made.fail = () => reject(new Error('failed'));
      }),
  };
  return made;
}
const settle = () => new Promise((resolve) => setImmediate(resolve));

describe('a lane', () => {
  it('runs so many at once and the others in their order', async () => {
    const lane = createLane(2);
    const jobs = [job(), job(), job(), job()];
    const places: number[][] = jobs.map(() => []);
    const ends = jobs.map((each, i) => lane.run(each.work, { onPlace: (ahead) => places[i].push(ahead) }));
    expect(jobs.map(({ started }) => started)).toEqual([true, true, false, false]);
    expect(places.map((told) => told.at(-1))).toEqual([0, 0, 2, 3]);
    jobs[1].end();
    await ends[1];
    await settle();
    expect(jobs.map(({ started }) => started)).toEqual([true, true, true, false]);
    expect(places[3].at(-1)).toBe(2);
  });

  it('goes on after a job was stopped while it ran, while it waited, or failed', async () => {
    const lane = createLane(1);
    const [running, stoppedWaiting, failing, last] = [job(), job(), job(), job()];
    const stopRunning = new AbortController();
    const stopWaiting = new AbortController();
    const first = lane.run(
      () =>
        new Promise((_, reject) => {
          void running.work();
          stopRunning.signal.addEventListener('abort', () => reject(new Error('thread gone')));
        }),
      { signal: stopRunning.signal },
    );
    const second = lane.run(stoppedWaiting.work, { signal: stopWaiting.signal });
    const third = lane.run(failing.work);
    const fourth = lane.run(last.work);
    stopWaiting.abort();
    await expect(second).rejects.toMatchObject({ name: 'AbortError' });
    stopRunning.abort();
    await expect(first).rejects.toThrow('thread gone');
    await settle();
    failing.fail();
    await expect(third).rejects.toThrow('failed');
    await settle();
    last.end();
    expect(await fourth).toBe('done');
    expect(stoppedWaiting.started).toBe(false);
  });

  it('does not start what was stopped before', async () => {
    const lane = createLane(1);
    const never = job();
    await expect(lane.run(never.work, { signal: AbortSignal.abort() })).rejects.toMatchObject({
      name: 'AbortError',
    });
    expect(never.started).toBe(false);
  });
});
