/** The shelf on a real database: what is put there, listened to, corrected, taken off. */
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { AddToShelf, ErrorBody, Recording } from '@plundra/contract';
import type { ShelfItem } from '@plundra/core/shelf';
import type { Note } from '@plundra/core/song';
import { encodeWav } from '@plundra/core/formats';
import { removeDiscarded, clearShelf } from './care/housekeeping.ts';
import {
  createRecordingStore,
  createShelfStore,
  createSongStore,
  openDatabase,
  openDataFolder,
} from './store/index.ts';
import { startTestServer, temporaryFolder, type TestServer } from './test/helpers.ts';

let folder: ReturnType<typeof temporaryFolder>;
let server: TestServer;
beforeEach(async () => {
  folder = temporaryFolder();
  // What comes with the application has a test of its own.
  server = await startTestServer(folder.path, { demoFolder: folder.path });
});
afterEach(async () => {
  await server.stop();
  folder.remove();
});

const RATE_HZ = 22_050;
/** Two bars of clicks with accents at 120 bpm: 4 s. */
const clicks = (() => {
  const samples = new Float32Array(4 * RATE_HZ);
  for (let beat = 0; beat < 16; beat++)
    for (let n = 0; n < 900; n++) {
      const level = beat % 8 === 0 ? 0.8 : beat % 2 === 0 ? 0.5 : 0.2;
      samples[Math.round(beat * 0.25 * RATE_HZ) + n] += level * Math.sin(n * 0.4) * Math.exp(-n / 150);
    }
  return samples;
})();
async function upload(samples: Float32Array, name: string): Promise<Recording> {
  const response = await server.json<Recording>('/api/recordings', {
    method: 'POST',
    headers: { 'x-file-name': encodeURIComponent(name) },
    body: encodeWav([samples], RATE_HZ, 16) as Uint8Array<ArrayBuffer>,
  });
  expect(response.status).toBe(201);
  return response.body;
}
const list = async () => (await server.json<{ items: ShelfItem[]; arriving: number }>('/api/shelf')).body;
const add = (item: AddToShelf) => server.post<ShelfItem & ErrorBody>('/api/shelf', item);
const change = (id: string, body: object) =>
  server.json<ShelfItem & ErrorBody>(`/api/shelf/${id}`, {
    method: 'PATCH',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify(body),
  });
async function heard(id: string): Promise<ShelfItem> {
  for (let i = 0; i < 600; i++) {
    const item = (await list()).items.find((each) => each.id === id)!;
    if (!item.listening) return item;
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
  throw new Error('It was never listened to.');
}
const notes: Note[] = [{ id: 'a', startTicks: 0, lengthTicks: 480, midi: 60, velocity: 90 }];
const phrase: AddToShelf = {
  name: 'Ferry riff',
  kind: 'phrase',
  material: 'keys',
  tags: ['synth'],
  key: { fifths: 1, mode: 'major' },
  bpm: 92,
  metre: { beats: 4, unit: 4 },
  sound: { type: 'notes', program: 81, lengthTicks: 3840, upbeatTicks: 0, noteCount: 1 },
  notes,
  fromSong: 'Ferry at Six',
};

describe('a file that is put on the shelf', () => {
  it('is there at once, and is listened to: kind, tempo, what it is', async () => {
    const { hash } = await upload(clicks, 'deck clicks.wav');
    const { status, body } = await add({ recordingHash: hash, fileName: 'deck clicks.wav' });
    expect(status).toBe(201);
    expect(body).toMatchObject({ name: 'Deck clicks', listening: true, key: null, bpm: null });
    const item = await heard(body.id);
    expect(item).toMatchObject({ kind: 'loop', material: 'drums', key: null });
    expect(item.bpm).toBeCloseTo(120, 1);
    expect(item.tempoConfidence).toBeGreaterThan(0);
    const { sound } = item;
    if (sound.type !== 'recording') throw new Error('no recording');
    expect(sound).toMatchObject({ durationSeconds: 4, offsetSeconds: 0, upbeatSeconds: 0 });
    // The first stroke is the loudest, and it is quiet between.
    expect(sound.picture).toHaveLength(96);
    expect(sound.picture[0]).toBe(255);
    expect(sound.picture[4]).toBeLessThan(20);
  });

  it('is believed where its name says the tempo of whole beats', async () => {
    const { hash } = await upload(clicks, 'clicks 60 bpm.wav');
    const { body } = await add({ recordingHash: hash, fileName: 'clicks 60 bpm.wav' });
    const item = await heard(body.id);
    expect(item).toMatchObject({ bpm: 60, kind: 'loop' });
    expect(item).not.toHaveProperty('tempoConfidence');
    // A name that cannot be right is not: 4 s are no whole number of beats of 97.
    const { body: wrong } = await add({ recordingHash: hash, fileName: 'clicks 97 bpm.wav' });
    expect((await heard(wrong.id)).bpm).toBeCloseTo(120, 1);
  });

  it('says so where there is neither beat nor key, until a hand says more', async () => {
    const { hash } = await upload(new Float32Array(3 * RATE_HZ), 'still water.wav');
    const { body } = await add({ recordingHash: hash, fileName: 'still water.wav' });
    expect(await heard(body.id)).toMatchObject({ heardNothing: 'none there', key: null, bpm: null });
    expect((await change(body.id, { name: 'Still' })).body).toHaveProperty('heardNothing');
    expect((await change(body.id, { bpm: 90 })).body).not.toHaveProperty('heardNothing');
  });

  it('goes on being listened to after the server stopped in the middle', async () => {
    const { hash } = await upload(clicks, 'clicks.wav');
    const { body } = await add({ recordingHash: hash, fileName: 'clicks.wav' });
    server = await server.restart();
    expect((await heard(body.id)).bpm).toBeCloseTo(120, 1);
  });

  it('is listened to anew where that is asked for; a phrase and a stretch are not', async () => {
    const { hash } = await upload(clicks, 'clicks.wav');
    const { body } = await add({ recordingHash: hash, fileName: 'clicks.wav' });
    await heard(body.id);
    await change(body.id, { bpm: 77, kind: 'recording', key: { fifths: 0, mode: 'major' } });
    expect((await server.post(`/api/shelf/${body.id}/listen`)).status).toBe(200);
    const again = await heard(body.id);
    expect(again).toMatchObject({ kind: 'loop', key: null });
    expect(again.bpm).toBeCloseTo(120, 1);
    // Also where what a hand typed makes whole beats.
    await change(body.id, { bpm: 60 });
    await server.post(`/api/shelf/${body.id}/listen`);
    expect((await heard(body.id)).bpm).toBeCloseTo(120, 1);
    const riff = (await add(phrase)).body;
    expect((await server.post<ErrorBody>(`/api/shelf/${riff.id}/listen`)).body.error.code).toBe('no_sound');
  });
});

describe('a passage that is kept', () => {
  it('keeps what its song said, and its notes are fetched apart', async () => {
    const { status, body } = await add(phrase);
    expect(status).toBe(201);
    expect(body).toMatchObject({ name: 'Ferry riff', bpm: 92, fromSong: 'Ferry at Six' });
    expect(body).not.toHaveProperty('notes');
    expect(body).not.toHaveProperty('listening');
    expect(body.sound).toMatchObject({ picture: [[0, 0.125, 60]] });
    expect((await server.json<{ notes: Note[] }>(`/api/shelf/${body.id}/notes`)).body.notes).toEqual(notes);
    expect((await list()).items).toEqual([body]);
  });

  it('of a recording shows the waveform of its window only', async () => {
    const { hash } = await upload(clicks, 'clicks.wav');
    const sound = { type: 'recording' as const, recordingHash: hash, upbeatSeconds: 0 };
    const { notes: _, ...facts } = phrase as Extract<AddToShelf, { notes?: unknown }>;
    const window = {
      ...facts,
      kind: 'recording' as const,
      sound: { ...sound, offsetSeconds: 0.25, durationSeconds: 0.1 },
    };
    const { body } = await add(window);
    // One click, that rings out: tallest first.
    const { picture } = body.sound as { picture: number[] };
    expect(picture[0]).toBe(255);
    expect(picture[90]).toBeLessThan(40);
    // How it was played is kept, where it can have been.
    const played = [0.25, 0.3, 0.35].map((seconds, i) => ({ seconds, ticks: 100 * i * i }));
    const freely = await add({ ...window, sound: { ...window.sound, played } });
    expect((await list()).items.find(({ id }) => id === freely.body.id)!.sound).toMatchObject({ played });
    const backwards = { ...window.sound, played: [...played].reverse() };
    expect((await add({ ...window, sound: backwards })).status).toBe(400);
    const beyond = await add({ ...window, sound: { ...window.sound, offsetSeconds: 3.95 } });
    expect([beyond.status, beyond.body.error.code]).toEqual([400, 'beyond_end']);
  });

  it('is refused without notes, and where its recording is not here', async () => {
    const { notes: _, ...without } = phrase as Extract<AddToShelf, { notes?: unknown }>;
    expect((await add(without)).body.error.code).toBe('no_notes');
    const missing = await add({ recordingHash: 'c'.repeat(64), fileName: 'x.wav' });
    expect([missing.status, missing.body.error.code]).toEqual([404, 'recording_not_found']);
    expect((await list()).items).toEqual([]);
  });
});

describe('what is said of an item', () => {
  it('is corrected by hand, and is no guess any more', async () => {
    const { hash } = await upload(clicks, 'clicks.wav');
    const { id } = (await add({ recordingHash: hash, fileName: 'clicks.wav' })).body;
    await heard(id);
    const { body } = await change(id, { name: 'Deck', tags: ['dry'], bpm: 60 });
    expect(body).toMatchObject({ name: 'Deck', tags: ['dry'], bpm: 60 });
    expect(body).not.toHaveProperty('tempoConfidence');
    expect((await list()).items[0]).toEqual(body);
  });

  it('called a loop, it holds whole beats', async () => {
    const { hash } = await upload(clicks, 'clicks.wav');
    const { id } = (await add({ recordingHash: hash, fileName: 'clicks.wav' })).body;
    await heard(id);
    await change(id, { kind: 'recording', bpm: 118 });
    expect((await change(id, { kind: 'loop' })).body.bpm).toBeCloseTo(120, 9);
  });

  it('is refused in a sentence where it makes no sense', async () => {
    const { id } = (await add(phrase)).body;
    for (const wrong of [{ bpm: -1 }, { name: ' ' }, { kind: 'song' }, { colour: 3 }])
      expect((await change(id, wrong)).status, JSON.stringify(wrong)).toBe(400);
    expect((await change('nobody', { name: 'x' })).body.error.code).toBe('item_not_found');
  });
});

describe('an item that is taken off', () => {
  it('can be put back', async () => {
    const { id } = (await add(phrase)).body;
    expect((await server.json(`/api/shelf/${id}`, { method: 'DELETE' })).status).toBe(204);
    expect((await list()).items).toEqual([]);
    expect((await server.json(`/api/shelf/${id}/notes`)).status).toBe(404);
    expect((await server.post(`/api/shelf/${id}/restore`)).status).toBe(204);
    expect((await list()).items.map(({ name }) => name)).toEqual(['Ferry riff']);
  });

  it('keeps its recording as long as it can be put back, and no longer', async () => {
    const { hash } = await upload(clicks, 'clicks.wav');
    const { id } = (await add({ recordingHash: hash, fileName: 'clicks.wav' })).body;
    await heard(id);
    await server.json(`/api/shelf/${id}`, { method: 'DELETE' });
    await server.stop();
    const data = openDataFolder(folder.path);
    const database = await openDatabase(data);
    const shelf = createShelfStore(database);
    const recordings = createRecordingStore(database, data);
    const songs = createSongStore(database);
    const noBackups = { texts: async function* () {} };
    const day = 24 * 3600 * 1000;
    const tidy = async (later: number) => {
      await clearShelf(database, shelf, () => Date.now() + later);
      await database('discarded').insert({ hash }).onConflict('hash').ignore();
      await removeDiscarded(database, songs, shelf, recordings, noBackups);
    };
    await tidy(29 * day);
    expect((await recordings.find(hash)).hash).toBe(hash);
    await tidy(31 * day);
    await expect(recordings.find(hash)).rejects.toThrow('not in the data folder');
    await database.destroy();
    server = await startTestServer(folder.path, { demoFolder: folder.path });
    expect((await list()).items).toEqual([]);
  });
});

describe('what comes with the application', () => {
  it('is put there once, and stays away once it was taken off', async () => {
    await server.stop();
    server = await startTestServer(folder.path);
    const first = await list();
    expect(first.arriving + first.items.length).toBeGreaterThanOrEqual(30);
    let all = first;
    for (let i = 0; i < 400 && all.arriving > 0; i++) {
      await new Promise((resolve) => setTimeout(resolve, 100));
      all = await list();
    }
    expect(all.arriving).toBe(0);
    const walk = all.items.find(({ name }) => name === 'Low tide walk')!;
    expect(walk).toMatchObject({ kind: 'loop', bpm: 100, key: { fifths: -1, mode: 'major' }, shipped: true });
    // Four bars of 100 bpm to the sample.
    expect(walk.sound.type === 'recording' && walk.sound.durationSeconds).toBeCloseTo(9.6, 4);
    await server.json(`/api/shelf/${walk.id}`, { method: 'DELETE' });
    server = await server.restart();
    const later = await list();
    expect(later.arriving).toBe(0);
    expect(later.items).toHaveLength(all.items.length - 1);
  });
});
