import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import {
  chordsResultSchema,
  hitsResultSchema,
  materialResultSchema,
  melodyResultSchema,
  notesResultSchema,
  onsetsResultSchema,
  type ErrorBody,
  type MelodyResult,
  type NotesResult,
  type OnsetsResult,
  type ReadingRequest,
  type ReadingStatus,
  type Recording,
} from '@plundra/contract';
import { MATERIAL_ALGORITHM_VERSION, SHELF_ALGORITHM_VERSION } from '@plundra/core/reading';
import { decodePeaks } from '@plundra/core/signal';
import { pitchClassesOf } from '@plundra/core/theory';
import { createRecordingStore, openDatabase, openDataFolder, Problem } from './store/index.ts';
import { startTestServer, temporaryFolder, toneFile, upload, type TestServer } from './test/helpers.ts';

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

const filesIn = (name: string) =>
  readdirSync(join(folder.path, name), { recursive: true, withFileTypes: true }).filter((entry) =>
    entry.isFile(),
  );

describe('recordings', () => {
  it('are stored once under their hash and come back byte by byte, also in ranges', async () => {
    const bytes = toneFile([220, 330]);
    const first = await upload<Recording>(server, bytes, 'Größe.wav');
    expect(first.status).toBe(201);
    expect(first.body).toMatchObject({
      name: 'Größe.wav',
      format: 'wav',
      sampleRateHz: 22050,
      channels: 1,
      durationSeconds: 2,
      warnings: [],
    });
    expect((await upload<Recording>(server, bytes, 'again.wav')).body.hash).toBe(first.body.hash);
    expect(filesIn('recordings')).toHaveLength(1);
    const sound = await fetch(`${server.url}/api/recordings/${first.body.hash}/sound`);
    expect(new Uint8Array(await sound.arrayBuffer())).toEqual(bytes);
    const range = await fetch(`${server.url}/api/recordings/${first.body.hash}/sound`, {
      headers: { Range: 'bytes=0-3' },
    });
    expect(range.status).toBe(206);
    expect(await range.text()).toBe('RIFF');
    const peaks = await fetch(`${server.url}/api/recordings/${first.body.hash}/peaks`);
    expect(decodePeaks(await peaks.arrayBuffer())[0].pairs.length).toBe(Math.ceil(44100 / 64) * 2);
  });

  it('that are no sound are refused, and nothing of them is kept', async () => {
    const text = await upload<ErrorBody>(
      server,
      new TextEncoder().encode('lyrics '.repeat(40)),
      'lyrics.wav',
    );
    expect(text.status).toBe(422);
    expect(text.body.error.message).toMatch(/^This is not a sound file/);
    expect((await upload<ErrorBody>(server, new Uint8Array(0))).body.error.code).toBe('empty');
    expect(filesIn('recordings')).toHaveLength(0);
    expect(filesIn('incoming')).toHaveLength(0);
  });

  it('that break off are taken as far as they go, with a warning', async () => {
    const { status, body } = await upload<Recording>(server, toneFile([220, 330]).slice(0, 44 + 22050 * 2));
    expect(status).toBe(201);
    expect(body.durationSeconds).toBeCloseTo(1);
    expect(body.warnings[0]).toMatch(/1\.0 s of 2\.0 s could be read/);
  });

  it('on a full disk: says so and keeps what was there', async () => {
    const own = temporaryFolder();
    const data = openDataFolder(own.path);
    const database = await openDatabase(data);
    const store = createRecordingStore(database, data);
    const full = new Readable({
      read() {
        this.destroy(Object.assign(new Error('no space'), { code: 'ENOSPC' }));
      },
    });
    const error: unknown = await store
      .add(full, 'x.wav', () => Promise.reject(new Error('never asked')))
      .catch((caught: unknown) => caught);
    expect(error).toBeInstanceOf(Problem);
    expect((error as Problem).code).toBe('disk_full');
    expect(readdirSync(data.incoming)).toEqual([]);
    await database.destroy();
    own.remove();
  });

  it('need a data folder that can be written to', () => {
    expect(() => openDataFolder('/dev/null/plundra')).toThrow(/cannot be written to/);
  });
});

async function waitFor(id: string, states: ReadingStatus['state'][]): Promise<ReadingStatus> {
  for (;;) {
    const { body } = await server.json<ReadingStatus>(`/api/readings/${id}`);
    if (states.includes(body.state)) return body;
    await new Promise((resolve) => setTimeout(resolve, 20));
  }
}

describe('readings', () => {
  const start = async (hash: string, kind = 'auto') =>
    (await server.post<ReadingStatus>('/api/readings', { recordingHash: hash, type: 'melody', kind })).body;

  it('run in the pool, tell their progress, and are answered from disk the next time', async () => {
    const { hash } = (await upload<Recording>(server, toneFile([220, 330, 262]))).body;
    const asked = await start(hash);
    expect(asked.state).toBe('waiting');
    await waitFor(asked.id, ['done']);
    const { body } = await server.json<MelodyResult>(`/api/readings/${asked.id}/result`);
    const result = melodyResultSchema.parse(body);
    expect(result.notes.map((note) => Math.round(note.midi))).toEqual([57, 64, 60]);
    expect(result.contour.f0Hz.length).toBeGreaterThan(200);
    server = await server.restart();
    expect((await start(hash)).state).toBe('done');
    expect((await start(hash, 'guitar')).id).not.toBe(asked.id);
  });

  it('find onsets too, beside the melody of the same recording', async () => {
    // Three tones of toneFile start one after the other.
    const { hash } = (await upload<Recording>(server, toneFile([220, 330, 262]))).body;
    const asked = await server.post<ReadingStatus>('/api/readings', {
      recordingHash: hash,
      type: 'onsets',
    });
    expect(asked.body.id).not.toBe((await start(hash)).id);
    await waitFor(asked.body.id, ['done']);
    const { body } = await server.json<OnsetsResult>(`/api/readings/${asked.body.id}/result`);
    const { onsets } = onsetsResultSchema.parse(body);
    expect(onsets.map((onset) => Math.round(onset.seconds))).toEqual([0, 1, 2]);
  });

  it('of chords take recordings that play together as one', async () => {
    // A fifth in each, A E and C G: together they are Am7 or C6 (Harte et al. 2005).
    const low = (await upload<Recording>(server, toneFile(new Array(3).fill([220, 330])), 'low.wav')).body
      .hash;
    const high = (await upload<Recording>(server, toneFile(new Array(3).fill([523.25, 784])), 'high.wav'))
      .body.hash;
    const ask = async (together?: { recordingHash: string; laterSeconds: number }[]) => {
      const asked = await server.post<ReadingStatus>('/api/readings', {
        recordingHash: low,
        type: 'chords',
        together,
      });
      expect(asked.status).toBe(202);
      expect((await waitFor(asked.body.id, ['done', 'failed'])).state).toBe('done');
      const { body } = await server.json(`/api/readings/${asked.body.id}/result`);
      return { id: asked.body.id, reading: chordsResultSchema.parse(body) };
    };
    const alone = await ask();
    const both = await ask([{ recordingHash: high, laterSeconds: 0 }]);
    const later = await ask([{ recordingHash: high, laterSeconds: 0.5 }]);
    expect(new Set([alone.id, both.id, later.id]).size).toBe(3);
    const classesOf = ({ reading }: typeof alone) => {
      const chord = reading.chords.find((each) => each.chord)?.chord;
      return chord ? pitchClassesOf(chord) : [];
    };
    expect(classesOf(alone)).not.toEqual(expect.arrayContaining([7]));
    expect([...classesOf(both)].sort((a, b) => a - b)).toEqual([0, 4, 7, 9]);
    // Each recording's own activations are kept, nothing of the sum.
    expect(filesIn('derived').filter(({ name }) => name.includes('activations'))).toHaveLength(2);
    const over = async (beats: object) =>
      server.post<ReadingStatus & ErrorBody>('/api/readings', { recordingHash: low, type: 'chords', beats });
    // The song's beats are other circumstances; ones that cannot be are refused.
    const given = { seconds: [0, 0.4, 0.8, 1.2], downbeats: [1], beatsPerBar: 3, always: true };
    const asked = await over(given);
    expect(asked.status).toBe(202);
    expect([alone.id, both.id, later.id]).not.toContain(asked.body.id);
    await waitFor(asked.body.id, ['done', 'failed']);
    const { tempo } = chordsResultSchema.parse(
      (await server.json(`/api/readings/${asked.body.id}/result`)).body,
    );
    expect(tempo).toEqual({
      bpm: 150,
      beats: given.seconds,
      downbeats: [0.4],
      beatsPerBar: 3,
      compound: false,
      known: true,
    });
    // So is what is known of the tempo.
    const near = (nearBpm: number) =>
      server.post<ReadingStatus & ErrorBody>('/api/readings', {
        recordingHash: low,
        type: 'chords',
        nearBpm,
      });
    const [at70, at90] = [await near(70), await near(90)];
    expect(new Set([alone.id, asked.body.id, at70.body.id, at90.body.id]).size).toBe(4);
    await waitFor(at70.body.id, ['done', 'failed']);
    const told = chordsResultSchema.parse((await server.json(`/api/readings/${at70.body.id}/result`)).body);
    expect(Math.abs(told.tempo.bpm - 70)).toBeLessThan(12);
    expect(told.tempo.known).toBe(false);
    expect((await near(30)).status).toBe(400);
    for (const wrong of [{ seconds: [0, 0.8, 0.4] }, { downbeats: [4] }]) {
      const refused = await over({ ...given, ...wrong });
      expect(refused.status).toBe(400);
    }
    const missing = await server.post<ErrorBody>('/api/readings', {
      recordingHash: low,
      type: 'chords',
      together: [{ recordingHash: 'f'.repeat(64), laterSeconds: 0 }],
    });
    expect(missing.status).toBe(404);
  });

  it('of notes keep what sounds for other sensitivities, and judge the material', async () => {
    const hash = (await upload<Recording>(server, toneFile([262, 330]), 'chord.wav')).body.hash;
    const ask = async <T>(request: Partial<ReadingRequest>) => {
      const asked = await server.post<ReadingStatus>('/api/readings', { recordingHash: hash, ...request });
      expect(asked.status).toBe(202);
      expect((await waitFor(asked.body.id, ['done', 'failed'])).state).toBe('done');
      return (await server.json<T>(`/api/readings/${asked.body.id}/result`)).body;
    };
    const usual = notesResultSchema.parse(await ask<NotesResult>({ type: 'notes', sensitivity: 50 }));
    // 262 and 330 Hz are C4 and E4 (ISO 16), one after the other.
    const sure = usual.notes.filter((note) => note.confidence > 0.5).map((note) => Math.round(note.midi));
    expect(sure).toEqual(expect.arrayContaining([60, 64]));
    const activations = filesIn('derived').filter(({ name }) => name.includes('activations'));
    expect(activations).toHaveLength(1);
    const loose = notesResultSchema.parse(await ask<NotesResult>({ type: 'notes', sensitivity: 100 }));
    expect(loose.notes.length).toBeGreaterThanOrEqual(usual.notes.length);
    expect(hitsResultSchema.parse(await ask({ type: 'hits', sensitivity: 0 })).hits.length).toBeLessThan(5);
    expect(materialResultSchema.parse(await ask({ type: 'material' })).material).toBe('line');
    // What the shelf says is read anew where what a recording holds is judged otherwise: drums have no key.
    const shelf = await server.post<ReadingStatus>('/api/readings', { recordingHash: hash, type: 'shelf' });
    expect(shelf.body.id).toMatch(
      new RegExp(`-shelf-auto-v${SHELF_ALGORITHM_VERSION}${MATERIAL_ALGORITHM_VERSION}$`),
    );
    // Chords come from the same activations.
    const chords = chordsResultSchema.parse(await ask({ type: 'chords' }));
    expect(chords.chords.length).toBeGreaterThan(0);
    expect(filesIn('derived').filter(({ name }) => name.includes('activations'))).toHaveLength(1);
    const refused = await server.post<ErrorBody>('/api/readings', {
      recordingHash: hash,
      type: 'notes',
      sensitivity: 101,
    });
    expect(refused.status).toBe(400);
  });

  it('are joined when asked for twice, and can be stopped', async () => {
    const { hash } = (
      await upload<Recording>(server, toneFile(Array.from({ length: 240 }, (_, i) => 200 + i)))
    ).body;
    const [first, second] = await Promise.all([start(hash, 'voice'), start(hash, 'voice')]);
    expect(second.id).toBe(first.id);
    await server.json(`/api/readings/${first.id}`, { method: 'DELETE' });
    expect((await waitFor(first.id, ['cancelled', 'done'])).state).toBe('cancelled');
    expect((await server.json(`/api/readings/${first.id}/result`)).status).toBe(404);
    const again = await start(hash, 'voice');
    expect((await waitFor(again.id, ['done'])).progress).toBe(1);
  });

  it('of what is not there are refused, and ids cannot leave their folder', async () => {
    expect(
      (
        await server.post<ErrorBody>('/api/readings', {
          recordingHash: 'f'.repeat(64),
          type: 'melody',
          kind: 'auto',
        })
      ).body.error.code,
    ).toBe('recording_not_found');
    expect(
      (await server.json(`/api/readings/${encodeURIComponent('../../plundra.sqlite')}/result`)).status,
    ).toBe(404);
  });
});

describe('the door', () => {
  it('answers only under its own name and to its own pages', async () => {
    const { request } = await import('node:http');
    const port = new URL(server.url).port;
    const status = (headers: Record<string, string>) =>
      new Promise<number>((resolve, reject) => {
        request({ host: '127.0.0.1', port, path: '/api/songs', headers }, (response) =>
          resolve(response.resume().statusCode!),
        )
          .on('error', reject)
          .end();
      });
    expect(await status({ Host: `127.0.0.1:${port}` })).toBe(200);
    expect(await status({ Host: 'evil.example' })).toBe(403);
    expect(await status({ Host: `127.0.0.1:${port}`, Origin: 'http://evil.example' })).toBe(403);
    expect(await status({ Host: `127.0.0.1:${port}`, Origin: `http://localhost:${port}` })).toBe(200);
  });

  it('sets strict headers and the one error shape', async () => {
    const { status, headers, body } = await server.json<ErrorBody>('/api/nothing-here');
    expect(status).toBe(404);
    expect(body.error.code).toBe('unknown_path');
    expect(headers.get('content-security-policy')).toMatch(
      /default-src 'self'; script-src 'self' 'wasm-unsafe-eval'/,
    );
    expect(headers.get('content-security-policy')).not.toMatch(/unsafe-inline/);
    expect(headers.get('x-powered-by')).toBeNull();
    expect(headers.get('cross-origin-opener-policy')).toBe('same-origin');
  });
});
