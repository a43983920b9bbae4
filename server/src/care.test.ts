/** What keeps a data folder safe: its lock, backups, the bin, tidying up, the record of faults, room on the disk. */
import { spawn } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, rmSync, utimesSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type {
  Backup,
  BackupSong,
  BinnedSong,
  ErrorBody,
  Fault,
  Health,
  Recording,
  SongDocument,
} from '@plundra/contract';
import type { Part } from '@plundra/core/song';
import { backUp } from './care/backups.ts';
import { createFaultRecord } from './care/faults.ts';
import { removeLeftovers } from './care/housekeeping.ts';
import { openDataFolder } from './store/index.ts';
import {
  doing,
  newSong,
  rename,
  request,
  startTestServer,
  takes,
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

const backupNames = () => readdirSync(join(folder.path, 'backups')).sort();
const backups = async () => (await server.json<{ backups: Backup[] }>('/api/backups')).body.backups;
const bin = async () => (await server.json<{ songs: BinnedSong[] }>('/api/bin')).body.songs;
const recordingPart = (recordingHash: string): Part => ({
  kind: 'recording',
  id: 'voice',
  name: 'Lead voice',
  mark: 'LV',
  colour: 0,
  levelDb: 0,
  pan: 0,
  mute: false,
  solo: false,
  material: 'voice',
  takes: [{ id: 'p', recordingHash, line: null }],
  passages: [
    { type: 'recording', id: 'p', takeId: 'p', startTicks: 0, offsetSeconds: 0, durationSeconds: 1 },
  ],
});

describe('a data folder', () => {
  it('is refused to a second server, with the way out', async () => {
    await expect(startTestServer(folder.path)).rejects.toThrow(
      /Another Plundra server is using the data folder/,
    );
    // The first goes on, and when it stops the folder is free.
    expect((await server.json('/api/songs')).status).toBe(200);
    server = await server.restart();
  });

  it('is free again after its server was killed', async () => {
    await server.stop();
    const main = new URL('./main.ts', import.meta.url).pathname;
    const child = spawn(process.execPath, ['--import', 'tsx', main], {
      env: { ...process.env, PLUNDRA_DATA: folder.path, PLUNDRA_PORT: '0' },
      stdio: ['ignore', 'pipe', 'inherit'],
    });
    await new Promise<void>((resolve) =>
      child.stdout.on('data', (text: Buffer) => text.includes('ready') && resolve()),
    );
    await expect(startTestServer(folder.path)).rejects.toThrow(/Another Plundra server/);
    child.kill('SIGKILL');
    await new Promise((resolve) => child.once('exit', resolve));
    server = await startTestServer(folder.path);
  });

  it('says before that its disk is nearly full, and takes no recording that would fill it', async () => {
    let freeBytes = 20e9;
    await server.stop();
    server = await startTestServer(folder.path, { space: async () => ({ freeBytes, totalBytes: 100e9 }) });
    const health = async () => (await server.json<Health>('/api/health')).body;
    expect((await health()).warning).toBeNull();
    freeBytes = 300e6;
    expect((await health()).warning).toMatch(/nearly full: 286 MB are left/);
    const { song } = await newSong(server);
    freeBytes = 100e6;
    const refused = await upload<ErrorBody>(server, toneFile([220]));
    expect(refused.status).toBe(507);
    expect(refused.body.error.message).toMatch(/Free some space/);
    // Songs are still saved.
    expect(await takes(server, song.id, request(0, rename('saved')))).toMatchObject({ revision: 1 });
  });
});

describe('backups', () => {
  it('are made at the start, but not when nothing changed, and the last seven are kept', async () => {
    await newSong(server);
    for (let i = 0; i < 9; i++) {
      await backUp(openDataFolder(folder.path), new Date(Date.UTC(2026, 0, i + 1)));
      await newSong(server, `Song ${i}`);
    }
    expect(backupNames()).toHaveLength(7);
    expect(backupNames()[0]).toBe('plundra-2026-01-03T00-00-00-000.sqlite');
    server = await server.restart();
    const names = backupNames();
    expect(names.at(-1)).toMatch(/^plundra-20(2[6-9]|[3-9]\d)/);
    server = await server.restart();
    expect(backupNames()).toEqual(names);
  });

  it('bring back a song that was changed, beside what it is now', async () => {
    const { song } = await newSong(server);
    await takes(server, song.id, request(0, rename('good')));
    await backUp(openDataFolder(folder.path), new Date(Date.UTC(2026, 0, 1)));
    await takes(server, song.id, request(1, rename('spoiled')));
    const [{ name, madeAt }] = await backups();
    expect(madeAt).toBe('2026-01-01T00:00:00.000Z');
    const listed = await server.json<{ songs: BackupSong[] }>(`/api/backups/${name}/songs`);
    expect(listed.body.songs).toMatchObject([{ id: song.id, title: 'good', now: 'changed since' }]);
    const back = await server.post<SongDocument>(`/api/backups/${name}/restore`, { songId: song.id });
    expect(back.body.song.title).toBe('good (as of 2026-01-01)');
    expect((await server.json<SongDocument>(`/api/songs/${song.id}`)).body.song.title).toBe('spoiled');
  });

  it('bring back a song that is gone for good, as itself', async () => {
    const { song } = await newSong(server);
    await backUp(openDataFolder(folder.path), new Date(Date.UTC(2026, 0, 1)));
    await server.json(`/api/songs/${song.id}`, { method: 'DELETE' });
    await server.json(`/api/bin/${song.id}`, { method: 'DELETE' });
    const [{ name }] = await backups();
    const back = await server.post<SongDocument>(`/api/backups/${name}/restore`, { songId: song.id });
    expect(back.body.song).toEqual(song);
    // The backup itself was not touched.
    await server.post(`/api/backups/${name}/restore`, { songId: song.id });
    expect(readdirSync(join(folder.path, 'incoming'))).toEqual([]);
  });

  it('of another name are not looked for anywhere', async () => {
    for (const name of ['..%2Fplundra.sqlite', 'plundra.sqlite', 'plundra-2020-01-01T00-00-00-000.sqlite'])
      expect((await server.json(`/api/backups/${name}/songs`)).status).toBe(404);
  });
});

describe('the bin', () => {
  const age = (id: string, days: number) => {
    const database = new Database(join(folder.path, 'plundra.sqlite'));
    const at = new Date(Date.now() - days * 24 * 3600 * 1000).toISOString();
    database.prepare('update songs set deleted_at = ? where id = ?').run(at, id);
    database.close();
  };

  it('keeps a song for thirty days, then it goes, with the recordings that only it used', async () => {
    const { body: own } = await upload<Recording>(server, toneFile([220]));
    const { body: shared } = await upload<Recording>(server, toneFile([330]));
    const { body: undone } = await upload<Recording>(server, toneFile([440]));
    const { song: first } = await newSong(server, 'First');
    const { song: second } = await newSong(server, 'Second');
    const add = (hash: string) => doing({ type: 'part.add', part: recordingPart(hash), index: 0 });
    const remove = doing({ type: 'part.remove', partId: 'voice' });
    await takes(server, first.id, request(0, add(own.hash)));
    await takes(server, first.id, request(1, remove));
    await takes(server, first.id, request(2, add(shared.hash)));
    await takes(server, first.id, request(3, doing({ type: 'part.remove', partId: 'voice' })));
    await takes(server, first.id, request(4, add(undone.hash)));
    await takes(server, second.id, request(0, add(shared.hash)));
    // It could still be brought back there by undoing.
    await takes(server, second.id, request(1, doing({ type: 'part.remove', partId: 'voice' })));
    await takes(server, second.id, request(2, add(undone.hash)));
    await server.json(`/api/songs/${first.id}`, { method: 'DELETE' });
    expect(await bin()).toMatchObject([{ id: first.id, title: 'First' }]);

    age(first.id, 29);
    server = await server.restart();
    expect(await bin()).toHaveLength(1);
    age(first.id, 31);
    server = await server.restart();
    await expect.poll(bin).toEqual([]);
    // A backup could still bring the song back, with its sound.
    const there = async (hash: string) => (await server.json(`/api/recordings/${hash}`)).status;
    expect(await there(own.hash)).toBe(200);
    expect((await fetch(`${server.url}/api/recordings/${own.hash}/peaks`)).status).toBe(200);

    await server.stop();
    rmSync(join(folder.path, 'backups'), { recursive: true });
    server = await startTestServer(folder.path);
    await expect.poll(() => there(own.hash)).toBe(404);
    expect(await there(shared.hash)).toBe(200);
    expect(await there(undone.hash)).toBe(200);
    // Files go after what the database says of them.
    await expect
      .poll(() => existsSync(join(folder.path, 'derived', 'peaks', `${own.hash}.peaks`)))
      .toBe(false);
  });

  it('lets a song go for good only when it is in it', async () => {
    const { song } = await newSong(server);
    expect((await server.json(`/api/bin/${song.id}`, { method: 'DELETE' })).status).toBe(404);
    await server.json(`/api/songs/${song.id}`, { method: 'DELETE' });
    expect((await server.json(`/api/bin/${song.id}`, { method: 'DELETE' })).status).toBe(204);
    expect(await bin()).toEqual([]);
  });
});

describe('tidying up', () => {
  it('removes what killed work left, and nothing that is being written', async () => {
    const data = openDataFolder(folder.path);
    mkdirSync(join(data.derived, 'readings'), { recursive: true });
    mkdirSync(join(data.derived, 'decoded'), { recursive: true });
    const temporary = join(folder.path, 'temporary');
    mkdirSync(temporary);
    const uuid = '01234567-89ab-cdef-0123-456789abcdef';
    const old = [
      join(data.incoming, 'upload'),
      join(data.derived, 'readings', 'a.json.new'),
      join(temporary, `plundra-${uuid}.wav`),
      join(data.derived, 'decoded', 'unplayed.wav'),
    ];
    const kept = [
      join(data.incoming, 'arriving'),
      join(data.derived, 'readings', 'a.json'),
      join(data.derived, 'readings', 'b.json.new'),
      join(temporary, 'plundra-song.wav'),
      join(data.derived, 'decoded', 'played.wav'),
    ];
    for (const path of [...old, ...kept]) writeFileSync(path, 'x');
    const hourAgo = Date.now() / 1000 - 3600;
    for (const path of [...old, kept[1], kept[3], kept[4]]) utimesSync(path, hourAgo, hourAgo);
    const weekAgo = Date.now() / 1000 - 8 * 24 * 3600;
    utimesSync(old[3], weekAgo, weekAgo);
    await removeLeftovers(data, Date.now, temporary);
    expect(old.map(existsSync)).toEqual([false, false, false, false]);
    expect(kept.map(existsSync)).toEqual([true, true, true, true, true]);
  });
});

describe('the record of faults', () => {
  it('tells where and what, and nothing of what is in songs', async () => {
    const record = createFaultRecord(openDataFolder(folder.path), () => new Date(0));
    record.add('POST /api/songs', new TypeError('Cannot read “Ferry at Six” of "Lead voice"'));
    const [fault] = (await server.json<{ faults: Fault[] }>('/api/faults')).body.faults;
    expect(fault).toMatchObject({
      at: '1970-01-01T00:00:00.000Z',
      where: 'POST /api/songs',
      message: 'TypeError: Cannot read … of …',
    });
    expect(fault.stack).toMatch(/care\.test\.ts:\d+/);
    expect(fault.stack).not.toContain(folder.path);
    expect(fault.stack).not.toMatch(/\/(work|home|root)\//);
  });

  it('takes what pages report, and starts a new file when one is full', async () => {
    await server.post('/api/faults', { where: 'page', message: 'broken', stack: 'at draw (app.js:1:2)' });
    const record = createFaultRecord(openDataFolder(folder.path));
    for (let i = 0; i < 9000; i++) record.report({ where: `w${i}`, message: 'x'.repeat(300) });
    expect(readdirSync(join(folder.path, 'faults')).sort()).toEqual(['faults.log', 'faults.log.1']);
    expect(record.list()).toHaveLength(200);
    expect(record.list()[0].where).toBe('w8999');
  });
});
