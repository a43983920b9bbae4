import { spawn } from 'node:child_process';
import { existsSync } from 'node:fs';
import type { SongDocument } from '@plundra/contract';
import { expect, it } from 'vitest';
import { temporaryFolder } from './test/helpers.ts';

const root = new URL('../../', import.meta.url).pathname;
const built = `${root}server/dist/main.js`;

/** What `npm run demo` starts; the test command builds it before the tests run. */
it('starts as it is built, with the demo songs', async () => {
  expect(existsSync(built), 'the server is not built: run `npm run build` first').toBe(true);
  const own = temporaryFolder();
  const port = 20000 + Math.floor(Math.random() * 20000);
  const child = spawn(process.execPath, [built, '--with-demo'], {
    cwd: root,
    env: { ...process.env, PLUNDRA_DATA: own.path, PLUNDRA_PORT: String(port) },
  });
  let said = '';
  try {
    await new Promise<void>((resolve, reject) => {
      child.stderr.on('data', (text: Buffer) => (said += text.toString()));
      child.stdout.on('data', (text: Buffer) => text.includes('ready') && resolve());
      child.once('exit', (code) => reject(new Error(`ended with ${code}: ${said}`)));
    });
    const url = `http://127.0.0.1:${port}`;
    const songs = (await (await fetch(`${url}/api/songs`)).json()) as {
      songs: { id: string; title: string }[];
    };
    const demo = songs.songs.find((song) => song.title === 'Ferry at Six');
    expect(demo).toBeDefined();
    const { song } = (await (await fetch(`${url}/api/songs/${demo!.id}`)).json()) as SongDocument;
    expect(song.parts.length).toBeGreaterThan(3);
    expect(await (await fetch(url)).text()).toContain('<div id="root">');
  } finally {
    child.removeAllListeners('exit');
    child.kill('SIGKILL');
    own.remove();
  }
});
