import { spawn, type ChildProcess } from 'node:child_process';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import Database from 'better-sqlite3';
import {
  serverEventSchema,
  type ErrorBody,
  type HistoryEntry,
  type SongDocument,
  type SongSummary,
  type StepsResponse,
} from '@plundra/contract';
import { recordingsOf, type Step } from '@plundra/core/song';
import {
  doing,
  newSong,
  rename,
  request,
  startTestServer,
  takes,
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
const rowsOf = (table: string) => {
  const database = new Database(`${folder.path}/plundra.sqlite`, { readonly: true });
  const rows = database.prepare(`select * from ${table}`).all() as Record<string, unknown>[];
  database.close();
  return rows;
};
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
    const [hash] = song.parts.flatMap(recordingsOf);
    expect((await server.json(`/api/recordings/${hash}`)).status).toBe(200);
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
    expect(document.history.done).toEqual([{ id: first.id, label: 'Rename to one' }]);
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
    const answer = { requestId: 'the-same', revision: 1 };
    expect(await takes(server, song.id, once)).toEqual(answer);
    expect(await takes(server, song.id, once)).toEqual(answer);
    const asked = await server.json<SongDocument>(`/api/songs/${song.id}?asked=the-same,never`);
    expect(asked.body.storedRequestIds).toEqual(['the-same']);
  });

  it('are taken together; those that do not fit are told apart', async () => {
    const { song } = await newSong(server);
    const gone = doing({ type: 'part.remove', partId: 'gone' });
    const { body } = await server.post<StepsResponse>(`/api/songs/${song.id}/steps`, {
      clientId: 'test',
      baseRevision: 0,
      steps: [rename('one'), gone, rename('two')].map((step, i) => ({ requestId: `r${i}`, step })),
    });
    expect(body.outcomes).toEqual([
      { requestId: 'r0', revision: 1 },
      { requestId: 'r1', refused: 'This part is not in the song any more.' },
      { requestId: 'r2', revision: 2 },
    ]);
    expect(await read(song.id)).toMatchObject({ revision: 2, song: { title: 'two' } });
  });

  it('that were refused once stay refused, also when they would fit by now', async () => {
    const { song } = await newSong(server);
    const part = { kind: 'drums', id: 'p', name: 'Kit', mark: 'K', colour: 0, levelDb: 0, pan: 0 } as const;
    const mute = doing({ type: 'part.set', partId: 'p', patch: { mute: true } });
    const refused = { requestId: 'once', refused: 'This part is not in the song any more.' };
    expect(await takes(server, song.id, request(0, mute, 'once'))).toEqual(refused);
    const add = doing({
      type: 'part.add',
      part: { ...part, mute: false, solo: false, passages: [] },
      index: 0,
    });
    await takes(server, song.id, request(0, add));
    expect(await takes(server, song.id, request(1, mute, 'once'))).toEqual(refused);
    expect(await takes(server, song.id, request(1, mute))).toMatchObject({ revision: 2 });
  });

  it('sent again together with new ones are taken once, and the new ones behind them', async () => {
    const { song } = await newSong(server);
    const first = { requestId: 'a', step: rename('a') };
    const send = (steps: object[]) =>
      server.post<StepsResponse>(`/api/songs/${song.id}/steps`, { clientId: 'test', baseRevision: 0, steps });
    await send([first]);
    const again = await send([first, { requestId: 'b', step: rename('b') }]);
    expect(again.body.outcomes).toEqual([
      { requestId: 'a', revision: 1 },
      { requestId: 'b', revision: 2 },
    ]);
  });

  it('of a window that closes go on top of what others did', async () => {
    const { song } = await newSong(server);
    await takes(server, song.id, request(0, rename('theirs')));
    const late = { ...request(0, doing({ type: 'song.set', patch: { followOff: true } })), onTop: true };
    expect(await takes(server, song.id, late)).toMatchObject({ revision: 2 });
    expect((await read(song.id)).song).toMatchObject({ title: 'theirs', followOff: true });
  });

  it('can be looked up, to be undone, and say what they changed', async () => {
    const { song } = await newSong(server);
    const step = rename('one');
    await takes(server, song.id, request(0, step));
    const { body } = await server.json<HistoryEntry>(`/api/songs/${song.id}/history/${step.id}`);
    expect(body).toEqual({
      id: step.id,
      label: 'Rename to one',
      edit: { type: 'song.set', patch: { title: 'one' } },
      inverse: { type: 'song.set', patch: { title: 'Ferry at Six' } },
    });
    expect((await server.json(`/api/songs/${song.id}/history/never`)).status).toBe(404);
  });

  it('are undone and done again in order, also when some are forgotten', async () => {
    const { song } = await newSong(server);
    let revision = 0;
    const take = async (step: Step) => {
      expect(await takes(server, song.id, request(revision, step))).toMatchObject({ revision: revision + 1 });
      revision++;
    };
    const steps = Array.from({ length: 205 }, (_, i) => rename(`t${i}`));
    for (const step of steps) await take(step);
    for (const step of steps.slice(-3).reverse()) await take({ kind: 'undo', id: step.id });
    await take({ kind: 'redo', id: steps[202].id });
    server = await server.restart();
    const document = await read(song.id);
    expect(document.song.title).toBe('t202');
    expect(document.history.done).toHaveLength(198);
    expect(document.history.undone.map(({ label }) => label)).toEqual(['Rename to t204', 'Rename to t203']);
    await take(rename('new'));
    expect((await read(song.id)).history.undone).toEqual([]);
    expect((await server.json(`/api/songs/${song.id}/history/${steps[0].id}`)).status).toBe(404);
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
    const answer = await takes(server, song.id, request(0, doing({ type: 'part.remove', partId: 'gone' })));
    expect(answer).toMatchObject({ refused: 'This part is not in the song any more.' });
    expect((await read(song.id)).revision).toBe(0);
  });

  it('beyond a snapshot load as they were', async () => {
    const { song } = await newSong(server);
    for (let i = 0; i < 260; i++) await takes(server, song.id, request(i, rename(`title ${i}`)));
    server = await server.restart();
    const document = await read(song.id);
    expect(document).toMatchObject({ revision: 260, song: { title: 'title 259' } });
    expect(document.history.done).toHaveLength(200);
    // Of what lies before the kept snapshots only the names of requests are left.
    expect(rowsOf('steps').filter(({ step }) => step === '').length).toBeGreaterThan(50);
    expect(rowsOf('snapshots').length).toBeLessThanOrEqual(3);
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
    expect(told).toMatchObject({
      type: 'song',
      songId: song.id,
      revision: 1,
      clientId: 'test',
      step: { kind: 'do', edit: { patch: { title: 'heard' } } },
    });
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
