/** A server on a fresh data folder, and calls to it. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { randomUUID } from 'node:crypto';
import type { SongDocument, StepsRequest, StepsResponse } from '@plundra/contract';
import { encodeWav } from '@plundra/core/formats';
import type { Edit, Step } from '@plundra/core/song';
import { startServer, type RunningServer, type StartOptions } from '../start.ts';

/** Built before the tests by scripts/buildServer.mjs. */
const poolProgram = new URL('../../dist/pool.worker.js', import.meta.url);
const demoFolder = new URL('../../../demo/data', import.meta.url).pathname;

export function temporaryFolder(): { path: string; remove(): void } {
  const path = mkdtempSync(join(tmpdir(), 'plundra-test-'));
  return { path, remove: () => rmSync(path, { recursive: true, force: true }) };
}

export interface TestServer extends RunningServer {
  json<T>(path: string, init?: RequestInit): Promise<{ status: number; body: T; headers: Headers }>;
  post<T>(path: string, body?: unknown): Promise<{ status: number; body: T; headers: Headers }>;
  restart(): Promise<TestServer>;
}

export async function startTestServer(
  dataFolder: string,
  options: Partial<StartOptions> = {},
): Promise<TestServer> {
  const server = await startServer({
    dataFolder,
    webFolder: join(dataFolder, 'no-web'),
    demoFolder,
    port: 0,
    poolProgram,
    ...options,
  });
  const json = async <T>(path: string, init?: RequestInit) => {
    const response = await fetch(server.url + path, init);
    const text = await response.text();
    return {
      status: response.status,
      body: (text ? JSON.parse(text) : undefined) as T,
      headers: response.headers,
    };
  };
  return {
    ...server,
    json,
    post: (path, body) =>
      json(path, {
        method: 'POST',
        ...(body !== undefined && {
          headers: { 'Content-Type': 'application/json' },
          body: JSON.stringify(body),
        }),
      }),
    async restart() {
      await server.stop();
      return startTestServer(dataFolder);
    },
  };
}

export function doing(edit: Edit, label = 'edit'): Step {
  return { kind: 'do', id: randomUUID(), label, edit };
}

export function rename(title: string): Step {
  return doing({ type: 'song.set', patch: { title } }, `Rename to ${title}`);
}

export function request(baseRevision: number, step: Step, requestId: string = randomUUID()): StepsRequest {
  return { clientId: 'test', baseRevision, steps: [{ requestId, step: step as never }] };
}

/** Takes one step and says the revision it led to, or why it was refused. */
export async function takes(server: TestServer, songId: string, body: StepsRequest) {
  const { outcomes } = (await server.post<StepsResponse>(`/api/songs/${songId}/steps`, body)).body;
  return outcomes[0];
}

export async function newSong(server: TestServer, title = 'Ferry at Six'): Promise<SongDocument> {
  return (await server.post<SongDocument>('/api/songs', { title })).body;
}

/** A second of a tone for each pitch, as a WAV file. */
export function toneFile(frequenciesHz: (number | number[])[], rate = 22050): Uint8Array {
  const samples = new Float32Array(frequenciesHz.length * rate);
  frequenciesHz.forEach((tones, k) => {
    for (const hz of [tones].flat())
      for (let i = 0; i < rate * 0.9; i++) {
        const edge = Math.min(1, i / 300, (rate * 0.9 - i) / 300);
        for (let h = 1; h < 6; h++)
          samples[k * rate + i] += (0.2 / h) * edge * Math.sin((2 * Math.PI * hz * h * i) / rate);
      }
  });
  return encodeWav([samples], rate);
}

export function upload<T>(server: TestServer, bytes: Uint8Array, name = 'tone.wav') {
  return server.json<T>('/api/recordings', {
    method: 'POST',
    headers: { 'x-file-name': encodeURIComponent(name) },
    body: bytes as Uint8Array<ArrayBuffer>,
  });
}
