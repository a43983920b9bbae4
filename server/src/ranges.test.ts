/** Stretches of recordings, as they are played where a recording is too long to be held. */
import { existsSync, readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { paths, type ErrorBody, type Recording } from '@plundra/contract';
import { decodeWhole, encodeWav } from '@plundra/core/formats';
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

async function range(hash: string, from: number, to: number) {
  const response = await fetch(server.url + paths.recordingRange(hash, from, to));
  expect(response.status).toBe(200);
  expect(response.headers.get('cache-control')).toContain('immutable');
  return decodeWhole([new Uint8Array(await response.arrayBuffer())]);
}

/** Chunks that stand before the samples, as recorders write them. */
function withNotesBefore(wav: Uint8Array, length: number): Uint8Array {
  const chunk = Buffer.alloc(8 + length);
  chunk.write('LIST');
  chunk.writeUInt32LE(length, 4);
  return Buffer.concat([wav.subarray(0, 12), chunk, wav.subarray(12)]);
}

describe('a stretch of a recording', () => {
  it.each([false, true])('has the samples that were asked for and no others (float: %s)', async (float) => {
    const left = Float32Array.from({ length: 5000 }, (_, i) => Math.sin(i / 7) / 2);
    const right = left.map((value) => -value / 2);
    const wav = withNotesBefore(encodeWav([left, right], 8000, float ? 'float' : 16), 100_000);
    const { hash } = (await upload<Recording>(server, wav)).body;
    const { samples, sampleRateHz } = await range(hash, 1234, 2345);
    expect(sampleRateHz).toBe(8000);
    expect(samples.map((channel) => channel.length)).toEqual([1111, 1111]);
    for (const i of [0, 1, 500, 1110]) {
      expect(samples[0][i]).toBeCloseTo(left[1234 + i], float ? 6 : 4);
      expect(samples[1][i]).toBeCloseTo(right[1234 + i], float ? 6 : 4);
    }
    // It ends with the recording.
    expect((await range(hash, 4990, 6000)).samples[0]).toHaveLength(10);
  });

  it.each(['tone.flac', 'tone.mp3', 'tone.ogg'])('of %s is that of the whole, decoded once', async (name) => {
    const bytes = readFileSync(new URL(`./test/fixtures/${name}`, import.meta.url));
    const { hash } = (await upload<Recording>(server, bytes, name)).body;
    const whole = await decodeWhole([new Uint8Array(bytes)]);
    const [from, to] = [3000, 9000];
    const [first, second] = await Promise.all([range(hash, from, to), range(hash, 0, 10)]);
    expect(first.samples).toEqual(whole.samples.map((channel) => channel.slice(from, to)));
    expect(second.samples[0]).toHaveLength(10);
    const decoded = join(folder.path, 'derived', 'decoded', `${hash}.wav`);
    const made = statSync(decoded).birthtimeMs;
    await range(hash, 5, 6);
    expect(statSync(decoded).birthtimeMs).toBe(made);
    expect(existsSync(`${decoded}.new`)).toBe(false);
  });

  it('is refused where it is none, or too long, with a sentence', async () => {
    const { hash } = (await upload<Recording>(server, toneFile([220]))).body;
    const refused = async (path: string) => {
      const { status, body } = await server.json<ErrorBody>(path);
      return [status, body.error.code];
    };
    expect(await refused(paths.recordingRange(hash, 20, 10))).toEqual([400, 'bad_request']);
    expect(await refused(paths.recordingRange(hash, -1, 10))).toEqual([400, 'bad_request']);
    expect(await refused(`/api/recordings/${hash}/range`)).toEqual([400, 'bad_request']);
    expect(await refused(paths.recordingRange(hash, 0, 181 * 22050))).toEqual([400, 'too_long']);
    expect(await refused(paths.recordingRange('0'.repeat(64), 0, 1))).toEqual([404, 'recording_not_found']);
  });
});
