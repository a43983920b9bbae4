/** A server that is killed while several clients edit several songs: what was acknowledged must be there. */
import { spawn, type ChildProcess } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { SongDocument, StepsResponse } from '@plundra/contract';
import { createRandom } from '@plundra/core/signal';

export interface KillFigures {
  kills: number;
  /** Steps that the server acknowledged. */
  acknowledged: number;
  /** Acknowledged steps that were missing afterwards. */
  missing: number;
  /** Steps that are in a song more than once. */
  doubled: number;
  /** Starts that did not come up. */
  unopened: number;
}

const SONGS = 3;
const main = new URL('../../../server/dist/main.js', import.meta.url).pathname;
const root = new URL('../../..', import.meta.url).pathname;

export async function measureKills(kills: number): Promise<KillFigures> {
  const random = createRandom(2026);
  const folder = mkdtempSync(join(tmpdir(), 'plundra-kills-'));
  const figures: KillFigures = { kills: 0, acknowledged: 0, missing: 0, doubled: 0, unopened: 0 };
  let server = await start(folder);
  const songs: string[] = [];
  for (let i = 0; i < SONGS; i++)
    songs.push((await post<SongDocument>(server.url, '/api/songs', { title: `Song ${i}` })).song.id);
  /** By song: the names that were acknowledged, in order. */
  const acknowledged = new Map(songs.map((id) => [id, [] as string[]]));
  let count = 0;

  while (figures.kills < kills) {
    const { child, url } = server;
    let alive = true;
    child.once('exit', () => (alive = false));
    const edit = async (id: string) => {
      let { revision } = await get<SongDocument>(url, `/api/songs/${id}`);
      while (alive) {
        const name = `n${count++}`;
        const part = {
          kind: 'drums',
          id: name,
          name,
          mark: 'K',
          colour: 0,
          levelDb: 0,
          pan: 0,
          mute: false,
          solo: false,
          passages: [],
        };
        // A part comes and the one before goes, so that the song stays small.
        const steps = [
          { kind: 'do', id: `do-${name}`, label: name, edit: { type: 'part.add', part, index: 0 } },
          { kind: 'do', id: `re-${name}`, label: name, edit: { type: 'song.set', patch: { title: name } } },
        ].map((step) => ({ requestId: step.id, step }));
        const { outcomes } = await post<StepsResponse>(url, `/api/songs/${id}/steps`, {
          clientId: 'kills',
          baseRevision: revision,
          steps,
        });
        const last = outcomes.at(-1)!;
        if (!('revision' in last)) throw new Error(last.refused);
        revision = last.revision;
        acknowledged.get(id)!.push(name);
        figures.acknowledged += steps.length;
        const all = acknowledged.get(id)!;
        if (all.length % 200 === 0) return;
      }
    };
    const work = songs.map((id) => edit(id).catch(() => undefined));
    await new Promise((resolve) => setTimeout(resolve, 30 + random() * 250));
    child.kill('SIGKILL');
    await new Promise((resolve) =>
      child.exitCode !== null || child.signalCode ? resolve(null) : child.once('exit', resolve),
    );
    await Promise.all(work);
    figures.kills++;
    try {
      server = await start(folder);
    } catch {
      figures.unopened++;
      break;
    }
    for (const id of songs) {
      const { song } = await get<SongDocument>(server.url, `/api/songs/${id}`);
      const names = song.parts.map(({ name }) => name);
      const there = new Set(names);
      figures.doubled += names.length - there.size;
      figures.missing += acknowledged.get(id)!.filter((name) => !there.has(name)).length;
      // Room again: the parts go, by edits as always.
      if (names.length > 150) {
        await clear(server.url, id);
        acknowledged.set(id, []);
      }
    }
    if (figures.kills % 10 === 0) process.stderr.write('.');
  }
  server.child.kill('SIGKILL');
  process.stderr.write('\n');
  rmSync(folder, { recursive: true, force: true });
  return figures;
}

async function clear(url: string, id: string): Promise<void> {
  const { song, revision } = await get<SongDocument>(url, `/api/songs/${id}`);
  const edits = song.parts.map((part) => ({ type: 'part.remove', partId: part.id }));
  const step = { kind: 'do', id: `clear-${revision}`, label: 'Clear', edit: { type: 'batch', edits } };
  await post(url, `/api/songs/${id}/steps`, {
    clientId: 'kills',
    baseRevision: revision,
    steps: [{ requestId: step.id, step }],
  });
}

function start(folder: string): Promise<{ child: ChildProcess; url: string }> {
  const child = spawn(process.execPath, [main], {
    cwd: root,
    env: { ...process.env, PLUNDRA_DATA: folder, PLUNDRA_PORT: '0' },
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  return new Promise((resolve, reject) => {
    child.once('exit', reject);
    child.stdout!.on('data', (text: Buffer) => {
      const url = /http:\S+/.exec(text.toString())?.[0];
      if (url) resolve({ child, url });
    });
  });
}

async function get<T>(url: string, path: string): Promise<T> {
  const answer = await fetch(url + path);
  if (!answer.ok) throw new Error(await answer.text());
  return (await answer.json()) as T;
}

async function post<T>(url: string, path: string, body: unknown): Promise<T> {
  const answer = await fetch(url + path, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify(body),
  });
  if (!answer.ok) throw new Error(await answer.text());
  return (await answer.json()) as T;
}
