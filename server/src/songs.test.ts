import { spawn, type ChildProcess } from 'node:child_process';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { serverEventSchema, type ErrorBody, type SongDocument, type SongSummary } from '@plundra/contract';
import {
  doing,
  newSong,
  rename,
  request,
  startTestServer,
  temporaryFolder,
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

const read = async (id: string, from = server) => (await from.json<SongDocument>(`/api/songs/${id}`)).body;
const list = async () => (await server.json<{ songs: SongSummary[] }>('/api/songs')).body.songs;

describe('songs', () => {
  it('are created, copied, deleted and brought back', async () => {
    const { song } = await newSong(server);
    await server.post(`/api/songs/${song.id}/copy`);
    expect((await list()).map((each) => each.title).sort()).toEqual(['Ferry at Six', 'Ferry at Six (copy)']);
    await server.json(`/api/songs/${song.id}`, { method: 'DELETE' });
    expect((await server.json(`/api/songs/${song.id}`)).status).toBe(404);
    await server.post(`/api/songs/${song.id}/restore`);
    expect((await read(song.id)).song.title).toBe('Ferry at Six');
  });

  it('refuse a title of nothing, with the one error shape', async () => {
    const { status, body } = await server.post<ErrorBody>('/api/songs', { title: '  ' });
    expect(status).toBe(400);
    expect(body.error.code).toBe('bad_request');
    expect(body.error.message).toMatch(/title/);
  });

  it('opens the demo songs again and again', async () => {
    const first = await server.post<{ songIds: string[] }>('/api/demo');
    const second = await server.post<{ songIds: string[] }>('/api/demo');
    expect(second.body).toEqual(first.body);
    expect((await list()).map((each) => each.title).sort()).toEqual(['Ferry at Six', 'Kettle Waltz']);
    const { song } = await read(first.body.songIds[0]);
    const recording = song.parts.find((part) => part.kind === 'recording')!.passages[0];
    expect(
      (await server.json(`/api/recordings/${(recording as { recordingHash: string }).recordingHash}`)).status,
    ).toBe(200);
  });
});

describe('steps', () => {
  it('are kept with their history over a restart', async () => {
    const { song } = await newSong(server);
    const first = rename('one');
    await server.post(`/api/songs/${song.id}/steps`, request(0, first));
    await server.post(`/api/songs/${song.id}/steps`, request(1, rename('two')));
    const undo = { kind: 'undo', id: (await read(song.id)).history.done.at(-1)!.id } as const;
    await server.post(`/api/songs/${song.id}/steps`, request(2, undo));
    server = await server.restart();
    const document = await read(song.id);
    expect(document.song.title).toBe('one');
    expect(document.revision).toBe(3);
    expect(document.history.done.map((entry) => entry.id)).toEqual([first.id]);
    expect(document.history.undone.map((entry) => entry.label)).toEqual(['Rename to two']);
  });

  it('on an older revision get 409 and change nothing', async () => {
    const { song } = await newSong(server);
    await server.post(`/api/songs/${song.id}/steps`, request(0, rename('one')));
    const stale = await server.post<ErrorBody>(`/api/songs/${song.id}/steps`, request(0, rename('late')));
    expect(stale.status).toBe(409);
    expect(stale.body.error).toMatchObject({ code: 'stale_revision', details: { revision: 1 } });
    expect((await read(song.id)).song.title).toBe('one');
  });

  it('repeated with one request id are taken once', async () => {
    const { song } = await newSong(server);
    const once = request(0, rename('once'), 'the-same');
    const answers = [
      await server.post<{ revision: number }>(`/api/songs/${song.id}/steps`, once),
      await server.post<{ revision: number }>(`/api/songs/${song.id}/steps`, once),
    ];
    expect(answers.map((answer) => answer.body.revision)).toEqual([1, 1]);
    expect((await read(song.id)).recentRequestIds).toEqual(['the-same']);
  });

  it('sent at the same time on one revision: one is taken, the others are told', async () => {
    const { song } = await newSong(server);
    const answers = await Promise.all(
      Array.from({ length: 6 }, (_, i) =>
        server.post(`/api/songs/${song.id}/steps`, request(0, rename(`t${i}`))),
      ),
    );
    expect(answers.map((answer) => answer.status).sort()).toEqual([200, 409, 409, 409, 409, 409]);
  });

  it('that do not fit are refused with a sentence', async () => {
    const { song } = await newSong(server);
    const answer = await server.post<ErrorBody>(
      `/api/songs/${song.id}/steps`,
      request(0, doing({ type: 'part.remove', partId: 'gone' })),
    );
    expect(answer.status).toBe(422);
    expect(answer.body.error.message).toBe('This part is not in the song any more.');
  });

  it('beyond a snapshot load as they were', async () => {
    const { song } = await newSong(server);
    for (let i = 0; i < 60; i++)
      await server.post(`/api/songs/${song.id}/steps`, request(i, rename(`title ${i}`)));
    server = await server.restart();
    const document = await read(song.id);
    expect(document.song.title).toBe('title 59');
    expect(document.history.done).toHaveLength(60);
  });

  it('are told to every open page', async () => {
    const { song } = await newSong(server);
    const stop = new AbortController();
    const events = await fetch(`${server.url}/api/events`, { signal: stop.signal });
    await server.post(`/api/songs/${song.id}/steps`, request(0, rename('heard')));
    const reader = events.body!.getReader();
    let text = '';
    while (!text.includes('heard')) text += new TextDecoder().decode((await reader.read()).value);
    stop.abort();
    const told = serverEventSchema.parse(JSON.parse(/data: (\{"type":"song",.*\})/.exec(text)![1]));
    expect(told).toMatchObject({ type: 'song', songId: song.id, revision: 1, clientId: 'test' });
  });
});

describe('a server that is killed', () => {
  it('has lost no acknowledged step', async () => {
    const own = temporaryFolder();
    const main = new URL('./main.ts', import.meta.url).pathname;
    const port = 20000 + Math.floor(Math.random() * 20000);
    const start = async (): Promise<ChildProcess> => {
      const child = spawn(process.execPath, ['--import', 'tsx', main], {
        env: { ...process.env, PLUNDRA_DATA: own.path, PLUNDRA_PORT: String(port) },
        stdio: ['ignore', 'pipe', 'inherit'],
      });
      await new Promise<void>((resolve) =>
        child.stdout!.on('data', (text: Buffer) => text.includes('ready') && resolve()),
      );
      return child;
    };
    const url = `http://127.0.0.1:${port}`;
    const send = (path: string, body: unknown) =>
      fetch(url + path, {
        method: 'POST',
        headers: { 'Content-Type': 'application/json' },
        body: JSON.stringify(body),
      });
    let child = await start();
    const { song } = (await (await send('/api/songs', { title: 'start' })).json()) as SongDocument;
    let acknowledged = 0;
    for (let round = 0; round < 3; round++) {
      let alive = true;
      const killer = setTimeout(() => child.kill('SIGKILL'), 150 + round * 90);
      child.once('exit', () => (alive = false));
      while (alive) {
        const answer = await send(
          `/api/songs/${song.id}/steps`,
          request(acknowledged, rename(`title ${acknowledged + 1}`)),
        ).catch(() => undefined);
        if (!answer?.ok) break;
        acknowledged++;
      }
      clearTimeout(killer);
      await new Promise((resolve) =>
        child.exitCode !== null || child.signalCode !== null ? resolve(null) : child.once('exit', resolve),
      );
      child = await start();
      const document = (await (await fetch(`${url}/api/songs/${song.id}`)).json()) as SongDocument;
      // One step may have been stored without its answer arriving; none may be missing.
      expect(document.revision).toBeGreaterThanOrEqual(acknowledged);
      expect(document.revision).toBeLessThanOrEqual(acknowledged + 1);
      expect(document.song.title).toBe(document.revision === 0 ? 'start' : `title ${document.revision}`);
      acknowledged = document.revision;
    }
    expect(acknowledged).toBeGreaterThan(5);
    child.kill('SIGKILL');
    own.remove();
  });
});
