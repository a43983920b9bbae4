/** What comes to the doors of the server and is not as it should be: each gets its answer, and nothing else waits for it. */
import { spawn, type ChildProcess } from 'node:child_process';
import { request as httpRequest } from 'node:http';
import { connect } from 'node:net';
import { readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { ErrorBody, ReadingStatus, Recording } from '@plundra/contract';
import { depthOf } from './http/jsonBodies.ts';
import {
  doing,
  newSong,
  request,
  startTestServer,
  temporaryFolder,
  toneFile,
  upload,
  type TestServer,
} from './test/helpers.ts';

let folder: ReturnType<typeof temporaryFolder>;
let server: TestServer;
beforeEach(async () => {
  folder = temporaryFolder();
  server = await startTestServer(folder.path);
});
afterEach(async () => {
  await server.stop();
  folder.remove();
});

const fixture = (name: string) =>
  new Uint8Array(readFileSync(new URL(`./test/fixtures/${name}`, import.meta.url)));

/** A request as it is, without what a client would put right. */
function raw(path: string, headers: Record<string, string> = {}, method = 'GET', body = ''): Promise<number> {
  const { hostname, port } = new URL(server.url);
  return new Promise((resolve, reject) => {
    const asked = httpRequest({ hostname, port, path, method, headers }, (response) => {
      response.resume();
      response.once('end', () => resolve(response.statusCode!));
    });
    asked.once('error', reject);
    asked.end(body);
  });
}

describe('requests that cannot be', () => {
  it.each<[string, number, () => Promise<number>]>([
    ['a path with half a letter', 400, () => raw('/api/songs/%E0%A4%A')],
    ['a page with half a letter', 400, () => raw('/%E0%A4%A')],
    ['a file that is not there', 404, () => raw('/assets/none.js')],
    [
      'a name with half a letter',
      400,
      () => raw('/api/recordings', { 'x-file-name': '%E0%A4%A' }, 'POST', 'x'),
    ],
    [
      'an unknown coding',
      415,
      () =>
        raw(
          '/api/songs',
          { 'content-type': 'application/json', 'content-encoding': 'dance' },
          'POST',
          '{"title":"x"}',
        ),
    ],
    [
      'an unknown charset',
      415,
      () => raw('/api/songs', { 'content-type': 'application/json; charset=dance' }, 'POST', '{"title":"x"}'),
    ],
    [
      'half a JSON text',
      400,
      () => raw('/api/songs', { 'content-type': 'application/json' }, 'POST', '{"ti'),
    ],
    ['a recording of no name', 400, () => raw('/api/recordings/none')],
    ['a reading of no name', 404, () => raw('/api/readings/none')],
    [
      'a body too large for its place',
      413,
      () =>
        raw(
          '/api/songs',
          { 'content-type': 'application/json' },
          'POST',
          `{"title":"${'x'.repeat(300_000)}"}`,
        ),
    ],
  ])('%s: %i', async (_, status, ask) => {
    expect(await ask()).toBe(status);
    expect((await server.json('/api/songs')).status).toBe(200);
  });

  it('a range behind the end of a recording gets 416, one within it its bytes', async () => {
    const { body } = await upload<Recording>(server, toneFile([220]));
    expect(await raw(`/api/recordings/${body.hash}/sound`, { range: 'bytes=99999999-' })).toBe(416);
    expect(await raw(`/api/recordings/${body.hash}/sound`, { range: 'bytes=0-9' })).toBe(206);
  });

  it('a recording or waveform that is gone from the disk gets 404 with a sentence, and comes back', async () => {
    const { body } = await upload<Recording>(server, toneFile([220]));
    rmSync(join(folder.path, 'derived'), { recursive: true });
    const gone = await server.json<ErrorBody>(`/api/recordings/${body.hash}/peaks`);
    expect(gone.status).toBe(404);
    expect(gone.body.error.message).toMatch(/Import the file again/);
    await upload(server, toneFile([220]));
    expect(await raw(`/api/recordings/${body.hash}/peaks`)).toBe(200);
    rmSync(join(folder.path, 'recordings'), { recursive: true });
    expect((await server.json(`/api/recordings/${body.hash}`)).status).toBe(404);
    expect(await raw(`/api/recordings/${body.hash}/sound`)).toBe(404);
  });

  it('an edit with an empty tempo map gets 400', async () => {
    const { song } = await newSong(server);
    const empty = doing({ type: 'song.set', patch: { tempoMap: [] } });
    expect((await server.post(`/api/songs/${song.id}/steps`, request(0, empty))).status).toBe(400);
  });

  it('millions of brackets are refused before anything is made of them', async () => {
    const { song } = await newSong(server);
    const before = process.memoryUsage().rss;
    const answer = await server.json<ErrorBody>(`/api/songs/${song.id}/steps`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: '['.repeat(30_000_000),
    });
    expect(answer.status).toBe(400);
    expect(answer.body.error.message).toMatch(/nested deeper/);
    // The text itself, here and there, and not hundreds of bytes for each bracket.
    expect(process.memoryUsage().rss - before).toBeLessThan(500e6);
  });

  it('depth counts brackets that are not in texts', () => {
    const depth = (text: string) => depthOf(new TextEncoder().encode(text));
    expect(depth('{"a":[[1],{"b":2}]}')).toBe(3);
    expect(depth('{"a[[[[":"\\"{{{{"}')).toBe(1);
    expect(depth('["\\\\",[1]]')).toBe(2);
    expect(depth('12')).toBe(0);
  });
});

describe('sound files that are not as they should be', () => {
  it('a WAV of millions of empty chunks is told at once, and no import waits for it', async () => {
    const bytes = new Uint8Array(17_000_000);
    const text = new TextEncoder();
    bytes.set(text.encode('RIFF\xff\xff\xff\x7fWAVE'.replace(/[^\x20-\x7e]/g, ' ')));
    const chunk = text.encode('junk');
    for (let at = 12; at + 8 <= bytes.length; at += 8) bytes.set(chunk, at);
    // Where each chunk is looked for from the start of the file, this takes minutes, and the test is stopped.
    const spoiled = upload<ErrorBody>(server, bytes, 'chunks.wav');
    const good = await upload<Recording>(server, toneFile([220]));
    expect(good.status).toBe(201);
    expect((await spoiled).status).toBe(422);
    expect((await spoiled).body.error.message).toMatch(/no samples where they should be/);
  });

  it('a spoiled Ogg file gets a sentence of ours', async () => {
    const bytes = fixture('tone.ogg');
    for (let i = 30; i < bytes.length; i += 3) bytes[i] ^= 0x5a;
    const { status, body } = await upload<ErrorBody>(server, bytes, 'spoiled.ogg');
    expect(status).toBe(422);
    expect(body.error.message).toMatch(/^This (file is damaged|OGG file holds no sound)/);
  });

  it.each(['tone.flac', 'tone.mp3', 'tone.ogg'])(
    '%s cut and spoiled anywhere is answered with a sentence',
    async (name) => {
      const whole = fixture(name);
      for (let i = 1; i <= 6; i++) {
        const bytes = whole.slice(0, Math.floor((whole.length * i) / 6));
        for (let at = 20 * i; at < bytes.length; at += 97 * i) bytes[at] ^= 0xff;
        const { status, body } = await upload<ErrorBody & Recording>(server, bytes, name);
        expect([201, 422]).toContain(status);
        if (status === 422) expect(body.error.message).toMatch(/^This .*\. .*\.$/);
      }
    },
  );
});

describe('readings', () => {
  const start = (recordingHash: string) =>
    server.post<ReadingStatus>('/api/readings', { recordingHash, type: 'notes', sensitivity: 50 });
  const state = async (id: string) => (await server.json<ReadingStatus>(`/api/readings/${id}`)).body;

  it('that are stopped cost no other; imports do not wait behind them; those that wait say for what', async () => {
    const long = (hz: number) => toneFile(new Array<number>(100).fill(hz));
    const recordings: string[] = [];
    for (const hz of [220, 330, 440, 550])
      recordings.push((await upload<Recording>(server, long(hz))).body.hash);
    const ids: string[] = [];
    for (const hash of recordings) ids.push((await start(hash)).body.id);
    await expect.poll(async () => (await state(ids[1])).state).toBe('running');
    expect(await state(ids[3])).toMatchObject({ state: 'waiting', ahead: 3 });

    expect((await upload(server, toneFile([880, 990]))).status).toBe(201);
    // It was in before the four readings had gone through the two threads there are.
    expect((await state(ids[3])).state).toBe('waiting');

    for (const id of ids.slice(0, 3)) await server.json(`/api/readings/${id}`, { method: 'DELETE' });
    await expect.poll(async () => (await state(ids[0])).state).toBe('cancelled');
    await expect.poll(async () => (await state(ids[2])).state).toBe('cancelled');
    await expect.poll(async () => (await state(ids[3])).state, { timeout: 50_000 }).toBe('done');
  });
});

describe('a server that should stop', () => {
  it('does so within three seconds, also with an upload that hangs', async () => {
    const own = temporaryFolder();
    const main = new URL('./main.ts', import.meta.url).pathname;
    const child: ChildProcess = spawn(process.execPath, ['--import', 'tsx', main], {
      env: { ...process.env, PLUNDRA_DATA: own.path, PLUNDRA_PORT: '0' },
      stdio: ['ignore', 'pipe', 'inherit'],
    });
    const url = await new Promise<string>((resolve) =>
      child.stdout!.on('data', (text: Buffer) => {
        const found = /http:\S+/.exec(text.toString());
        if (found) resolve(found[0]);
      }),
    );
    const { port } = new URL(url);
    const socket = connect(Number(port), '127.0.0.1');
    socket.on('error', () => undefined);
    socket.write(
      `POST /api/recordings HTTP/1.1\r\nHost: 127.0.0.1:${port}\r\nContent-Length: 1000000\r\n\r\nRIFF`,
    );
    await new Promise((resolve) => setTimeout(resolve, 300));
    const asked = Date.now();
    child.kill('SIGTERM');
    await new Promise((resolve) => child.once('exit', resolve));
    // What hangs is waited for two seconds.
    expect(Date.now() - asked).toBeLessThan(3000);
    expect(child.exitCode).toBe(0);
    socket.destroy();
    own.remove();
  });
});
