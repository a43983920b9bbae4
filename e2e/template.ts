/**
 * A data folder that already holds the recordings of the demo, as for somebody who was here before: made once and copied for
 * each test, which then need not decode them anew.
 */
import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { startServer } from '@plundra/server';
import type { TestProject } from 'vitest/node';

declare module 'vitest' {
  export interface ProvidedContext {
    template: string;
  }
}

const here = (path: string) => new URL(path, import.meta.url).pathname;

/** @returns what clears up */
export default async function makeTemplate(project: TestProject): Promise<() => void> {
  const dataFolder = mkdtempSync(join(tmpdir(), 'plundra-template-'));
  const demoFolder = here('../demo/data');
  const server = await startServer({ dataFolder, webFolder: here('../web/dist'), demoFolder, port: 0 });
  for (const name of readdirSync(demoFolder).filter((each) => each.endsWith('.flac'))) {
    const answer = await fetch(`${server.url}/api/recordings`, {
      method: 'POST',
      headers: { 'x-file-name': name },
      body: readFileSync(join(demoFolder, name)),
    });
    if (!answer.ok) throw new Error(`The demo recording ${name} was refused: ${await answer.text()}`);
  }
  await server.stop();
  project.provide('template', dataFolder);
  return () => rmSync(dataFolder, { recursive: true, force: true });
}
