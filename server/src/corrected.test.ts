/** The recording of a part as it sounds with its corrections, exported as a file. */
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { ErrorBody, MelodyResult, ReadingStatus, Recording } from '@plundra/contract';
import { decodeWhole, encodeWav } from '@plundra/core/formats';
import { createRandom, gaussian } from '@plundra/core/signal';
import type { Edit, RecordingPart, RecordingPassage, Take } from '@plundra/core/song';
import {
  doing,
  newSong,
  request,
  startTestServer,
  temporaryFolder,
  upload,
  type TestServer,
} from './test/helpers.ts';

const RATE = 22050;
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

/** Struck tones of 220 Hz at half seconds, over faint noise, so that no two samples are alike. */
const random = createRandom(2);
const played = Float32Array.from({ length: 4 * RATE }, (_, i) => {
  const t = (i / RATE) % 0.5;
  const tone = [1, 2, 3, 4].reduce((sum, h) => sum + Math.sin((2 * Math.PI * 220 * h * i) / RATE) / h, 0);
  return 0.15 * Math.exp(-4 * t) * Math.min(1, t / 0.004) * tone + 0.0002 * gaussian(random);
});

async function withPart({ stretch, ...change }: Partial<RecordingPassage> & Pick<Take, 'stretch'>) {
  const { hash } = (await upload<Recording>(server, encodeWav([played], RATE, 'float'))).body;
  const { song } = await newSong(server);
  const part: RecordingPart = {
    kind: 'recording',
    id: 'p',
    name: 'Guitar',
    mark: 'GU',
    colour: 0,
    levelDb: 0,
    pan: 0,
    mute: false,
    solo: false,
    material: 'guitar',
    takes: [{ id: 'one', recordingHash: hash, line: null, ...(stretch && { stretch }) }],
    passages: [
      {
        type: 'recording',
        id: 'one',
        takeId: 'one',
        startTicks: 0,
        offsetSeconds: 0,
        durationSeconds: 4,
        ...change,
      },
    ],
  };
  const edit: Edit = { type: 'part.add', part, index: 0 };
  await server.post(`/api/songs/${song.id}/steps`, request(0, doing(edit)));
  return { songId: song.id, hash };
}

async function sound(songId: string): Promise<Float32Array> {
  const response = await fetch(`${server.url}/api/songs/${songId}/parts/p/sound`);
  expect(response.status).toBe(200);
  const { samples } = await decodeWhole([new Uint8Array(await response.arrayBuffer())]);
  return samples[0];
}

describe('a corrected recording', () => {
  it('is bit for bit what was recorded where nothing is corrected', async () => {
    const { songId } = await withPart({});
    expect(await sound(songId)).toEqual(played);
  });

  it('has its onsets moved and everything else exact, and is as long as its passage', async () => {
    const stretch = {
      how: 'stretch' as const,
      semitones: 0,
      onsets: [1, 1.5, 2].map((seconds, i) => ({
        id: `o${i}`,
        seconds,
        ...(seconds === 1.5 && { targetSeconds: 1.56 }),
      })),
    };
    const { songId } = await withPart({ stretch, offsetSeconds: 0.5, durationSeconds: 3 });
    const heard = await sound(songId);
    expect(heard).toHaveLength(3 * RATE);
    const at = (seconds: number) => Math.round((seconds - 0.5) * RATE);
    expect(heard.subarray(0, at(0.99))).toEqual(played.subarray(0.5 * RATE, Math.round(0.99 * RATE)));
    expect(heard.subarray(at(2))).toEqual(played.subarray(2 * RATE, 3.5 * RATE));
    expect(heard.subarray(at(1.56), at(1.6))).toEqual(
      played.subarray(Math.round(1.5 * RATE), Math.round(1.5 * RATE) + at(1.6) - at(1.56)),
    );
  });

  it('has the notes of its line tuned', async () => {
    const { songId, hash } = await withPart({});
    const asked = await server.post<ReadingStatus>('/api/readings', {
      recordingHash: hash,
      type: 'melody',
      kind: 'guitar',
    });
    const { id } = asked.body;
    while ((await server.json<ReadingStatus>(`/api/readings/${id}`)).body.state !== 'done')
      await new Promise((resolve) => setTimeout(resolve, 20));
    const { body } = await server.json<MelodyResult>(`/api/readings/${id}/result`);
    const notes = body.notes.map((note, i) => ({ ...note, id: `n${i}`, target: { midi: 59 } }));
    const line = { readingId: id, tuningCents: 0, notes };
    const edit: Edit = { type: 'line.set', partId: 'p', takeId: 'one', line };
    await server.post(`/api/songs/${songId}/steps`, request(1, doing(edit)));
    const heard = await sound(songId);
    // A3 was played, B3 is heard: two semitones shorten the period from 100.2 to 89.3 samples.
    const likeness = (lag: number) => {
      let [cross, energy] = [0, 0];
      for (let i = Math.round(1.1 * RATE); i < 1.4 * RATE; i++) {
        cross += heard[i] * heard[i + lag];
        energy += heard[i] ** 2;
      }
      return cross / energy;
    };
    expect(likeness(89)).toBeGreaterThan(0.8);
    expect(likeness(100)).toBeLessThan(0.6);
  });

  it('says when the part is gone', async () => {
    const { song } = await newSong(server);
    const { status, body } = await server.json<ErrorBody>(`/api/songs/${song.id}/parts/none/sound`);
    expect(status).toBe(404);
    expect(body.error.message).toBe('This part is not in the song any more, or is no recording.');
  });
});
