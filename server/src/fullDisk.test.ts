/** A disk that is really full: a small file system in memory, which only the superuser can make. */
import { spawnSync } from 'node:child_process';
import { rmSync, statfsSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { ErrorBody, Recording, SongDocument } from '@plundra/contract';
import {
  newSong,
  rename,
  request,
  startTestServer,
  temporaryFolder,
  toneFile,
  upload,
  type TestServer,
} from './test/helpers.ts';

const folder = temporaryFolder();
const mounted = spawnSync('mount', ['-t', 'tmpfs', '-o', 'size=12m', 'tmpfs', folder.path]).status === 0;
let server: TestServer;

beforeAll(async () => {
  if (mounted) server = await startTestServer(folder.path);
});
afterAll(async () => {
  if (mounted) {
    await server.stop();
    spawnSync('umount', [folder.path]);
  }
  folder.remove();
});

describe.runIf(mounted)('a full disk', () => {
  it('refuses a recording that does not fit, leaves nothing of it behind and keeps the rest', async () => {
    const small = await upload<Recording>(server, toneFile([220]));
    const free = statfsSync(folder.path).bfree;
    // 400 s of 16-bit sound at 22050 Hz: 17 MB.
    const large = await upload<ErrorBody>(server, toneFile(new Array<number>(400).fill(330)), 'long.wav');
    expect(large.status).toBe(507);
    expect(large.body.error.code).toBe('disk_full');
    expect(large.body.error.message).toMatch(/disk|space/i);
    expect(statfsSync(folder.path).bfree).toBe(free);
    const sound = await fetch(`${server.url}/api/recordings/${small.body.hash}/sound`);
    expect((await sound.arrayBuffer()).byteLength).toBe(44 + 2 * 22050);
  });

  it('refuses an edit that cannot be stored, and takes it when there is room again', async () => {
    const { song } = await newSong(server, 'Before');
    const filler = join(folder.path, 'filler');
    for (let size = 8 * 1024 * 1024; size >= 4096; size /= 2) {
      try {
        writeFileSync(filler, Buffer.alloc(size), { flag: 'a' });
      } catch {
        // Full for this size; a smaller piece may still fit.
      }
    }
    // The write-ahead log has room it took earlier; sooner or later it must grow.
    let accepted = 0;
    let refusal: { status: number; body: ErrorBody } | undefined;
    while (!refusal && accepted < 3000) {
      const answer = await server.post<ErrorBody>(
        `/api/songs/${song.id}/steps`,
        request(accepted, rename(`title ${accepted + 1} ${'x'.repeat(90)}`)),
      );
      if (answer.status < 300) accepted++;
      else refusal = answer;
    }
    expect(refusal?.status).toBe(507);
    expect(refusal?.body.error.code).toBe('disk_full');
    const kept = await server.json<SongDocument>(`/api/songs/${song.id}`);
    expect(kept.body.revision).toBe(accepted);

    rmSync(filler);
    const again = await server.post(
      `/api/songs/${song.id}/steps`,
      request(accepted, rename('There is room again')),
    );
    expect(again.status).toBeLessThan(300);
    server = await server.restart();
    const reopened = await server.json<SongDocument>(`/api/songs/${song.id}`);
    expect(reopened.body).toMatchObject({
      revision: accepted + 1,
      song: { title: 'There is room again' },
    });
  });
});
