/** Data folders that older releases wrote (test/fixtures), frozen: they open, and their history works. */
import { cpSync, readFileSync } from 'node:fs';
import Database from 'better-sqlite3';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { ErrorBody, SongDocument } from '@plundra/contract';
import { channelBendsOf, upgradeSong, type NotePart, type Song } from '@plundra/core/song';
import { needsUpgrade, openDataFolder } from './store/index.ts';
import { request, startTestServer, takes, temporaryFolder, type TestServer } from './test/helpers.ts';

const fixtureOf = (release: 1 | 2 | 3) =>
  new URL(`./test/fixtures/dataFolder${release}`, import.meta.url).pathname;
const fixture = fixtureOf(1);
interface OldDocument {
  song: Song;
  revision: number;
  history: Record<'done' | 'undone', { id: string; label: string }[]>;
}
const expected = JSON.parse(readFileSync(`${fixture}/expected.json`, 'utf8')) as {
  songs: Record<'ferry' | 'waltz' | 'gone' | 'full', string>;
  ferry: OldDocument;
  waltz: OldDocument;
};

let folder: ReturnType<typeof temporaryFolder>;
let server: TestServer;
beforeEach(async () => {
  folder = temporaryFolder();
  cpSync(fixture, folder.path, { recursive: true });
  server = await startTestServer(folder.path);
});
afterEach(async () => {
  await server.stop();
  folder.remove();
});

const read = (id: string) => server.json<SongDocument>(`/api/songs/${id}`);
const change = (sql: string, ...values: unknown[]) => {
  const database = new Database(`${folder.path}/plundra.sqlite`);
  database.prepare(sql).run(...values);
  database.close();
};

/** Without the field that a passage got from an edit which should have been refused. */
function withoutAlien(song: Song): Song {
  const text = JSON.stringify(song, (field, value: unknown) => {
    const passage = value as { type?: string; offsetSeconds?: number };
    if (passage && passage.type === 'notes') delete passage.offsetSeconds;
    return field === '' ? value : value;
  });
  return upgradeSong(JSON.parse(text));
}

describe('a data folder of the first release', () => {
  it.each(['ferry', 'waltz'] as const)('holds the song as it was: %s', async (name) => {
    const { body } = await read(expected.songs[name]);
    expect(body.song).toEqual(withoutAlien(expected[name].song));
    expect(body.revision).toBe(expected[name].revision);
    const names = (entries: { id: string; label: string }[]) =>
      entries.map(({ id, label }) => ({ id, label }));
    expect(body.history.done).toEqual(names(expected[name].history.done));
    expect(body.history.undone).toEqual(names(expected[name].history.undone));
  });

  it('lets everything be undone to the beginning, and done again', async () => {
    const id = expected.songs.ferry;
    let { body } = await read(id);
    const before = body.song;
    const done = body.history.done.length;
    const undone = body.history.undone.map((entry) => entry.id);
    let { revision } = body;
    const walk = async (kind: 'undo' | 'redo', entryId: string) => {
      expect(await takes(server, id, request(revision, { kind, id: entryId }))).toMatchObject({
        revision: revision + 1,
      });
      revision++;
    };
    for (const entry of [...body.history.done].reverse()) await walk('undo', entry.id);
    ({ body } = await read(id));
    expect(body.song).toMatchObject({ title: 'Ferry at Six', key: null, parts: [] });
    for (const entry of [...body.history.undone].reverse().slice(0, done)) await walk('redo', entry.id);
    ({ body } = await read(id));
    expect(body.song).toEqual(before);
    expect(body.history.undone.map((entry) => entry.id)).toEqual(undone);
  });

  it('is copied before it is brought up to date', async () => {
    const { body } = await server.json<{ backups: { name: string }[] }>('/api/backups');
    expect(body.backups).toHaveLength(1);
    const backup = new Database(`${folder.path}/backups/${body.backups[0].name}`, { readonly: true });
    const columns = backup.prepare(`select name from pragma_table_info('songs')`).pluck().all();
    backup.close();
    expect(columns).toContain('snapshot');
    const other = temporaryFolder();
    cpSync(fixture, other.path, { recursive: true });
    expect(needsUpgrade(openDataFolder(other.path))).toBe(true);
    other.remove();
    expect(needsUpgrade(openDataFolder(folder.path))).toBe(false);
    // Also from there a song comes back as it was.
    const { name } = body.backups[0];
    const back = await server.post<SongDocument>(`/api/backups/${name}/restore`, {
      songId: expected.songs.ferry,
    });
    const { id, title } = expected.ferry.song;
    expect({ ...back.body.song, id, title }).toEqual(withoutAlien(expected.ferry.song));
  });

  it('keeps a deleted song in the bin', async () => {
    const { body } = await server.json<{ songs: { id: string; title: string }[] }>('/api/bin');
    expect(body.songs).toMatchObject([{ id: expected.songs.gone, title: 'Deleted song' }]);
    await server.post(`/api/songs/${expected.songs.gone}/restore`);
    expect((await read(expected.songs.gone)).body.song.key).toEqual({ fifths: -1, mode: 'minor' });
  });
});

describe('a song that was saved and cannot be opened', () => {
  it('says so, and offers the last state that can be read and its raw data', async () => {
    const id = expected.songs.full;
    const { status, body } = (await read(id)) as unknown as { status: number; body: ErrorBody };
    expect(status).toBe(422);
    expect(body.error.code).toBe('song_unreadable');
    expect(body.error.message).toMatch(/at most 500.*open the last state that can be read as a copy/);

    const recovered = await server.post<SongDocument>(`/api/songs/${id}/recovered`);
    expect(recovered.body.song).toMatchObject({
      title: 'Too many tracks (recovered)',
      key: { fifths: -1, mode: 'minor' },
      parts: [],
    });
    const raw = await (await fetch(`${server.url}/api/songs/${id}/raw`)).text();
    const rows = raw
      .trim()
      .split('\n')
      .map((each) => JSON.parse(each) as { table: string; row: { step?: string } });
    expect(rows.filter(({ table }) => table === 'steps')).toHaveLength(3);
    expect(raw).toContain('Still too many tracks');
    // The song itself is untouched.
    expect((await read(id)).status).toBe(422);
  });

  it('of a newer release says what to do', async () => {
    const id = expected.songs.waltz;
    change(`update snapshots set song = json_set(song, '$.schemaVersion', 99) where song_id = ?`, id);
    const { body } = (await read(id)) as unknown as { body: ErrorBody };
    expect(body.error.message).toMatch(/newer version of Plundra/);
  });

  it('falls back on an older snapshot where the newest is spoiled', async () => {
    const id = expected.songs.ferry;
    const { body } = await read(id);
    change('insert into snapshots (song_id, revision, song) values (?, ?, ?)', id, body.revision + 1, '{"sp');
    change('update songs set revision = revision + 1 where id = ?', id);
    expect((await read(id)).status).toBe(422);
    const recovered = await server.post<SongDocument>(`/api/songs/${id}/recovered`);
    expect({ ...recovered.body.song, id, title: 'Ferry at Six' }).toEqual(body.song);
  });

  it('with nothing that can be read says where else to look', async () => {
    const id = expected.songs.waltz;
    change('update snapshots set song = ? where song_id = ?', 'nothing', id);
    const { status, body } = await server.post<ErrorBody>(`/api/songs/${id}/recovered`);
    expect(status).toBe(422);
    expect(body.error.message).toMatch(/backup/);
  });
});

describe('a data folder of the second release', () => {
  const folder2 = fixtureOf(2);
  const expected2 = JSON.parse(readFileSync(`${folder2}/expected.json`, 'utf8')) as typeof expected;

  it('holds keys and bends as they were, and undoes its whole history', async () => {
    const copied = temporaryFolder();
    cpSync(folder2, copied.path, { recursive: true });
    const second = await startTestServer(copied.path);
    const id = expected2.songs.ferry;
    const readIt = () => second.json<SongDocument>(`/api/songs/${id}`);
    let { body } = await readIt();
    const { song } = body;
    expect(song).toEqual(upgradeSong(expected2.ferry.song));
    expect(song.key).toEqual({ fifths: 4, mode: 'minor' });
    const keys = song.parts.find((part) => part.id === 'keys') as NotePart;
    // Once more set by hand, on the note that sounds there.
    expect(channelBendsOf(keys).map(({ semitones }) => semitones)).toEqual([0.5, 0]);
    const list = await second.json<{ songs: { id: string; key: unknown }[] }>('/api/songs');
    expect(list.body.songs.find((each) => each.id === id)?.key).toEqual(song.key);

    let { revision } = body;
    const walk = async (kind: 'undo' | 'redo', entryId: string) => {
      expect(await takes(second, id, request(revision, { kind, id: entryId }))).toMatchObject({
        revision: revision + 1,
      });
      revision++;
    };
    const { done } = body.history;
    for (const entry of [...done].reverse()) await walk('undo', entry.id);
    ({ body } = await readIt());
    expect(body.song).toMatchObject({ title: 'Ferry at Six', key: null, parts: [] });
    for (const entry of [...body.history.undone].reverse().slice(0, done.length))
      await walk('redo', entry.id);
    expect((await readIt()).body.song).toEqual(song);
    await second.stop();
    copied.remove();
  });
});

describe('a data folder of the last release without takes', () => {
  const folder3 = fixtureOf(3);
  const expected3 = JSON.parse(readFileSync(`${folder3}/expected.json`, 'utf8')) as typeof expected;

  it('holds all that was recorded and read, and undoes and redoes its whole history', async () => {
    const copied = temporaryFolder();
    cpSync(folder3, copied.path, { recursive: true });
    const third = await startTestServer(copied.path);
    const id = expected3.songs.ferry;
    const readIt = async () => (await third.json<SongDocument>(`/api/songs/${id}`)).body;
    const { song, history, revision: first } = await readIt();
    expect(song).toEqual(upgradeSong(expected3.ferry.song));
    const takes3 = song.parts.flatMap((part) => (part.kind === 'recording' ? part.takes : []));
    expect(takes3.length).toBeGreaterThan(3);
    let revision = first;
    const walk = async (kind: 'undo' | 'redo', entryId: string) => {
      expect(await takes(third, id, request(revision, { kind, id: entryId }))).toMatchObject({
        revision: revision + 1,
      });
      revision++;
    };
    for (const entry of [...history.done].reverse()) await walk('undo', entry.id);
    const begun = await readIt();
    expect(begun.song).toMatchObject({ title: 'Ferry at Six', key: null, parts: [] });
    for (const entry of [...begun.history.undone].reverse().slice(0, history.done.length))
      await walk('redo', entry.id);
    const back = await readIt();
    expect(back.song).toEqual(song);
    // And on from there: what was undone when the folder was written can be done again.
    for (const entry of [...back.history.undone].reverse()) await walk('redo', entry.id);
    await third.stop();
    copied.remove();
  });
});
