/** A song of many notes and a long history: what opening and editing cost, and that they do not grow. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { SongDocument } from '@plundra/contract';
import { median } from '@plundra/core/signal';
import type { Edit, Note } from '@plundra/core/song';
import { startServer } from '@plundra/server';

export interface LargeSongFigures {
  notes: number;
  moves: number;
  /** Size of the answer that opens it, and of the song alone. */
  documentMegabytes: number;
  songMegabytes: number;
  /** Opening after a start of the server, nothing in memory. */
  openMs: number;
  firstEditsMs: number;
  lastEditsMs: number;
  databaseMegabytes: number;
}

export async function measureLargeSong(notes: number, moves: number): Promise<LargeSongFigures> {
  const folder = mkdtempSync(join(tmpdir(), 'plundra-large-'));
  const start = () => startServer({ dataFolder: folder, webFolder: folder, demoFolder: folder, port: 0 });
  let server = await start();
  const call = async <T>(path: string, body?: unknown): Promise<T> => {
    const answer = await fetch(server.url + path, {
      method: body === undefined ? 'GET' : 'POST',
      ...(body !== undefined && {
        headers: { 'Content-Type': 'application/json' },
        body: JSON.stringify(body),
      }),
    });
    if (!answer.ok) throw new Error(await answer.text());
    return (await answer.json()) as T;
  };
  const { song } = await call<SongDocument>('/api/songs', { title: 'Large' });
  let revision = 0;
  const take = async (edit: Edit) => {
    const step = { kind: 'do', id: `s${revision}`, label: 'Move', edit };
    const started = performance.now();
    await call(`/api/songs/${song.id}/steps`, {
      clientId: 'large',
      baseRevision: revision,
      steps: [{ requestId: step.id, step }],
    });
    revision++;
    return performance.now() - started;
  };
  const all = Array.from({ length: notes }, (_, i): Note => ({
    id: crypto.randomUUID(),
    startTicks: i * 60,
    lengthTicks: 50,
    midi: 40 + (i % 40),
    velocity: 80,
  }));
  const look = { mark: 'K', colour: 0, levelDb: 0, pan: 0, mute: false, solo: false };
  const passage = { type: 'notes' as const, id: 'p', startTicks: 0, lengthTicks: notes * 60, notes: all };
  await take({
    type: 'part.add',
    part: { ...look, kind: 'notes', id: 'keys', name: 'Keys', program: 4, passages: [passage] },
    index: 0,
  });
  const times: number[] = [];
  for (let i = 0; i < moves; i++)
    times.push(
      await take({
        type: 'passage.adjust',
        partId: 'keys',
        passageId: 'p',
        which: 'all',
        add: { startTicks: 10 },
        set: {},
      }),
    );
  await server.stop();
  server = await start();
  const started = performance.now();
  const text = await (await fetch(`${server.url}/api/songs/${song.id}`)).text();
  const openMs = performance.now() - started;
  const { statSync } = await import('node:fs');
  const figures = {
    notes,
    moves,
    documentMegabytes: text.length / 1e6,
    songMegabytes: JSON.stringify((JSON.parse(text) as SongDocument).song).length / 1e6,
    openMs,
    firstEditsMs: median(times.slice(0, 20)),
    lastEditsMs: median(times.slice(-20)),
    databaseMegabytes: statSync(join(folder, 'plundra.sqlite')).size / 1e6,
  };
  await server.stop();
  rmSync(folder, { recursive: true, force: true });
  return figures;
}
