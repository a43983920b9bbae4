/** Takes that arrive block by block, and what is left of them when something stops. */
import { readdirSync, utimesSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { ErrorBody, Recording, TakeBeginning, UnfinishedTake } from '@plundra/contract';
import { decodeWhole } from '@plundra/core/formats';
import { newSong, startTestServer, temporaryFolder, type TestServer } from './test/helpers.ts';

let folder: ReturnType<typeof temporaryFolder>;
let server: TestServer;
let songId: string;
beforeEach(async () => {
  folder = temporaryFolder();
  server = await startTestServer(folder.path);
  songId = (await newSong(server)).song.id;
});
afterEach(async () => {
  await server.stop();
  folder.remove();
});

const beginning = (more: Partial<TakeBeginning> = {}): TakeBeginning => ({
  id: 'take-1',
  songId,
  partId: null,
  name: 'Lead voice',
  sampleRateHz: 8000,
  channels: 1,
  startedAt: '2026-01-01T12:00:00.000Z',
  startTicks: 3840,
  startFrame: 100,
  ...more,
});
const begin = (more?: Partial<TakeBeginning>) => server.post<UnfinishedTake>('/api/takes', beginning(more));
/** A sound in which every frame is another. */
const sound = Float32Array.from({ length: 8000 }, (_, i) => Math.sin(i * 0.37) * (1 - i / 9000));
const send = (from: number, to: number, samples = sound, id = 'take-1') =>
  server.json<{ frames: number } & ErrorBody>(`/api/takes/${id}/samples?from=${from}`, {
    method: 'PUT',
    headers: { 'Content-Type': 'application/octet-stream' },
    body: samples.slice(from, to),
  });
const listed = async () =>
  (await server.json<{ takes: UnfinishedTake[] }>(`/api/takes?song=${songId}`)).body.takes;
const keep = (pieces: { fromFrame: number; toFrame: number; name: string }[]) =>
  server.post<{ recordings: Recording[] } & ErrorBody>('/api/takes/take-1/keep', { pieces });
async function samplesAt(path: string) {
  const response = await fetch(server.url + path);
  return decodeWhole([new Uint8Array(await response.arrayBuffer())]);
}

describe('a take that is recorded', () => {
  it('grows block by block, and becomes a recording bit for bit', async () => {
    expect((await begin()).body).toEqual({ ...beginning(), frames: 0, idleSeconds: 0 });
    for (let at = 0; at < 8000; at += 1000) expect((await send(at, at + 1000)).body.frames).toBe(at + 1000);
    const { status, body } = await keep([{ fromFrame: 0, toFrame: 8000, name: 'Lead voice take 1.wav' }]);
    expect(status).toBe(201);
    expect(body.recordings[0]).toMatchObject({
      name: 'Lead voice take 1.wav',
      sampleRateHz: 8000,
      channels: 1,
      durationSeconds: 1,
      warnings: [],
    });
    const { samples } = await samplesAt(`/api/recordings/${body.recordings[0].hash}/sound`);
    expect(samples[0]).toEqual(sound);
    // It stays until the page says that it is in the song.
    expect(await listed()).toHaveLength(1);
    expect((await server.json('/api/takes/take-1', { method: 'DELETE' })).status).toBe(204);
    expect(await listed()).toEqual([]);
    expect(readdirSync(join(folder.path, 'takes'))).toEqual([]);
    expect((await server.json<Recording>(`/api/recordings/${body.recordings[0].hash}`)).status).toBe(200);
  });

  it('takes a block again, also one that overlaps, and asks for one that is missing', async () => {
    await begin();
    await begin({ name: 'Somebody else' });
    await send(0, 3000);
    expect((await send(0, 3000)).body.frames).toBe(3000);
    expect((await send(2000, 5000)).body.frames).toBe(5000);
    const gap = await send(6000, 7000);
    expect(gap.status).toBe(409);
    expect(gap.body.error).toMatchObject({ code: 'take_gap', details: { frames: 5000 } });
    await Promise.all([send(5000, 6000), send(5000, 6000)]);
    expect((await send(6000, 8000)).body.frames).toBe(8000);
    expect(await listed()).toEqual([{ ...beginning(), frames: 8000, idleSeconds: expect.any(Number) }]);
    expect((await samplesAt('/api/takes/take-1/sound')).samples[0]).toEqual(sound);
  });

  it('is cut into the rounds of a loop, each with its edges', async () => {
    await begin({ channels: 2, roundSeconds: 0.1875 });
    // Frame n holds n and −n.
    const stereo = Float32Array.from({ length: 8000 }, (_, i) => (i % 2 === 0 ? 1 : -1) * (i >> 1) * 1e-4);
    await server.json('/api/takes/take-1/samples?from=0', {
      method: 'PUT',
      headers: { 'Content-Type': 'application/octet-stream' },
      body: stereo,
    });
    expect((await listed())[0].frames).toBe(4000);
    const { body } = await keep([
      { fromFrame: 0, toFrame: 1800, name: 'Take 1' },
      { fromFrame: 1400, toFrame: 99_999, name: 'Take 2' },
    ]);
    expect(body.recordings.map(({ durationSeconds }) => durationSeconds * 8000)).toEqual([1800, 2600]);
    const second = await samplesAt(`/api/recordings/${body.recordings[1].hash}/sound`);
    expect(second.samples.map((channel) => channel[0])).toEqual([Math.fround(0.14), Math.fround(-0.14)]);
    const short = await keep([{ fromFrame: 5000, toFrame: 6000, name: 'Take 3' }]);
    expect(short.status).toBe(409);
    expect(short.body.error.message).toMatch(/^Only 0\.5 s of this take have arrived/);
  });

  it('is there after a restart, with all that was acknowledged', async () => {
    await begin();
    await send(0, 5000);
    // Half of a frame that a crash left behind.
    writeFileSync(join(folder.path, 'takes', 'take-1.f32'), Uint8Array.of(1, 2), { flag: 'a' });
    server = await server.restart();
    expect(await listed()).toEqual([{ ...beginning(), frames: 5000, idleSeconds: expect.any(Number) }]);
    await send(5000, 8000);
    expect((await samplesAt('/api/takes/take-1/sound')).samples[0]).toEqual(sound);
  });

  it('goes with its song, and only then', async () => {
    await begin();
    await send(0, 1000);
    await begin({ id: 'take-2', songId: 'gone' });
    writeFileSync(join(folder.path, 'takes', 'left.f32'), 'abcd');
    utimesSync(join(folder.path, 'takes', 'left.f32'), 0, 0);
    server = await server.restart();
    await expect
      .poll(() => readdirSync(join(folder.path, 'takes')).sort())
      .toEqual(['take-1.f32', 'take-1.json']);
    // In the bin it is kept with it.
    await server.json(`/api/songs/${songId}`, { method: 'DELETE' });
    server = await server.restart();
    expect(await listed()).toHaveLength(1);
  });

  it.each([
    ['half a frame', 'PUT', '/api/takes/take-1/samples?from=0', new Uint8Array(6), 400],
    ['nothing', 'PUT', '/api/takes/take-1/samples?from=0', undefined, 400],
    ['no place', 'PUT', '/api/takes/take-1/samples', new Uint8Array(8), 400],
    ['more than a block', 'PUT', '/api/takes/take-1/samples?from=0', new Uint8Array(5 << 20), 413],
    ['another take', 'PUT', '/api/takes/take-9/samples?from=0', new Uint8Array(8), 404],
    ['a path', 'PUT', '/api/takes/..%2Fplundra/samples?from=0', new Uint8Array(8), 400],
    ['no song', 'GET', '/api/takes', undefined, 400],
  ])('is not harmed by %s', async (_, method, path, body, status) => {
    await begin();
    const answer = await server.json<ErrorBody>(path, {
      method,
      ...(body && { headers: { 'Content-Type': 'application/octet-stream' }, body }),
    });
    expect(answer.status).toBe(status);
    expect(answer.body.error.message).toMatch(/^[A-Z].*\.$|:/);
    expect((await listed())[0].frames).toBe(0);
  });

  it('says when the disk is full, and keeps what is there', async () => {
    await begin();
    await send(0, 4000);
    await server.stop();
    server = await startTestServer(folder.path, {
      space: () => Promise.resolve({ freeBytes: 0, totalBytes: 1e9 }),
    });
    const refused = await send(4000, 8000);
    expect(refused.status).toBe(507);
    expect(refused.body.error.code).toBe('disk_full');
    expect((await listed())[0].frames).toBe(4000);
  });
});
