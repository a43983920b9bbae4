/**
 * A data folder that already holds the recordings of the demo, and what many tests read in them, as for somebody who was here
 * before: made once and copied for each test, which then need not work it out anew.
 */
import { mkdtempSync, readdirSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { ReadingStatus } from '../contract/src/index.ts';
import type { Song } from '@plundra/core/song';
import { startServer } from '@plundra/server';
import type { TestProject } from 'vitest/node';
import { wholeDemo } from './wholeDemo.ts';

declare module 'vitest' {
  export interface ProvidedContext {
    template: string;
    /** A folder of demo songs that are not arranged. */
    wholeDemo: string;
  }
}

const here = (path: string) => new URL(path, import.meta.url).pathname;

/** Melodies that several tests begin with. */
const READ = [
  ['ferry-bass.flac', 'bass'],
  ['ferry-backing-voice.flac', 'voice'],
  ['ferry-steel-guitar.flac', 'guitar'],
] as const;

async function readMelody(url: string, recordingHash: string, kind: string): Promise<void> {
  const ask = async (path: string, init?: RequestInit) =>
    (await (await fetch(`${url}/api/readings${path}`, init)).json()) as ReadingStatus;
  const headers = { 'content-type': 'application/json' };
  const body = JSON.stringify({ recordingHash, type: 'melody', kind });
  let status = await ask('', { method: 'POST', headers, body });
  while (status.state === 'waiting' || status.state === 'running') {
    await new Promise((resolve) => setTimeout(resolve, 200));
    status = await ask(`/${status.id}`);
  }
  if (status.state !== 'done') throw new Error(`A demo recording could not be read: ${status.message}`);
}

/** @returns what clears up */
export default async function makeTemplate(project: TestProject): Promise<() => void> {
  const dataFolder = mkdtempSync(join(tmpdir(), 'plundra-template-'));
  const demoFolder = here('../demo/data');
  const server = await startServer({
    dataFolder,
    webFolder: here('../web/dist'),
    demoFolder,
    port: 0,
    poolProgram: new URL('../server/dist/pool.worker.js', import.meta.url),
  });
  const wholeFolder = mkdtempSync(join(tmpdir(), 'plundra-whole-'));
  const lengths = new Map<string, number>();
  const hashes = new Map<string, string>();
  for (const name of readdirSync(demoFolder).filter((each) => each.endsWith('.flac'))) {
    symlinkSync(join(demoFolder, name), join(wholeFolder, name));
    const answer = await fetch(`${server.url}/api/recordings`, {
      method: 'POST',
      headers: { 'x-file-name': name },
      body: readFileSync(join(demoFolder, name)),
    });
    if (!answer.ok) throw new Error(`The demo recording ${name} was refused: ${await answer.text()}`);
    const recording = (await answer.json()) as { hash: string; durationSeconds: number };
    lengths.set(recording.hash, recording.durationSeconds);
    hashes.set(name, recording.hash);
  }
  await Promise.all(READ.map(([name, kind]) => readMelody(server.url, hashes.get(name)!, kind)));
  const songs = JSON.parse(readFileSync(join(demoFolder, 'songs.json'), 'utf8')) as Song[];
  const whole = songs.map((song) => wholeDemo(song, (hash) => lengths.get(hash)!));
  writeFileSync(join(wholeFolder, 'songs.json'), JSON.stringify(whole));
  await server.stop();
  project.provide('template', dataFolder);
  project.provide('wholeDemo', wholeFolder);
  return () => {
    for (const folder of [dataFolder, wholeFolder]) rmSync(folder, { recursive: true, force: true });
  };
}
