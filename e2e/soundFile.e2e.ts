/** The song as a sound file: what is heard is what is saved. */
import { readFileSync } from 'node:fs';
import type { Page } from 'playwright-core';
import type { SongDocument, StepsRequest, StepsResponse } from '../contract/src/index.ts';
import { decodeWhole } from '../core/src/formats/index.ts';
import {
  applyEdit,
  createTimeMap,
  findPassages,
  placedRecordings,
  planSplit,
  type Edit,
  type Song,
} from '../core/src/song/index.ts';
import { createWarpRenderer, warpedSamples, warpOf } from '../core/src/retune/index.ts';
import { describe, expect, it } from 'vitest';
import { appForEachTest, openDemo, saved } from './app.ts';

const app = appForEachTest();
const RATE = 44_100;

const choose = async (page: Page, control: string, option: string) => {
  await page.getByLabel(control).click();
  await page.locator('.ant-select-item-option', { hasText: option }).click();
};

/** Saves a sound file and gives back its bytes. */
async function soundOf(page: Page, part: string | null, kind: string, ofLoop = false): Promise<Buffer> {
  await page.getByRole('button', { name: 'Export' }).click();
  await page.getByRole('button', { name: 'Save as sound' }).click();
  const dialog = page.getByRole('dialog', { name: 'Save as sound' });
  if (part) {
    await choose(page, 'Parts in the sound file', part);
    await page.keyboard.press('Escape');
  }
  if (ofLoop) await dialog.getByText('The loop range').click();
  await choose(page, 'Kind of sound file', kind);
  const download = page.waitForEvent('download');
  await dialog.getByRole('button', { name: 'Save sound file' }).click();
  return readFileSync(await (await download).path());
}
const decoded = (bytes: Uint8Array) => decodeWhole([new Uint8Array(bytes)]);
const loudness = (samples: Float32Array, from: number, to: number) =>
  Math.sqrt(samples.subarray(from, to).reduce((sum, value) => sum + value * value, 0) / (to - from));

/** Makes an edit at the server. */
async function make(id: string, baseRevision: number, edit: Edit): Promise<void> {
  const request: StepsRequest = {
    clientId: 'cutter',
    baseRevision,
    steps: [{ requestId: 'step', step: { kind: 'do', id: 'step', label: 'Cut', edit } }],
  };
  const answer = await fetch(`${app.server.url}/api/songs/${id}/steps`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify(request),
  });
  expect(((await answer.json()) as StepsResponse).outcomes[0]).toHaveProperty('revision');
}

describe('a sound file', () => {
  it('of a recording is the recording at its level, also when it was cut in a hundred pieces', async () => {
    const { page } = app;
    await openDemo(page);
    const id = page.url().split('/')[4];
    const whole = await soundOf(page, 'Hand drum', '32-bit float');
    await page.getByText('Saved. The loudest moment').waitFor();

    const { song, revision } = (await (
      await fetch(`${app.server.url}/api/songs/${id}`)
    ).json()) as SongDocument;
    const part = song.parts.find(({ name }) => name === 'Hand drum')!;
    const hash = part.kind === 'recording' ? part.takes[0].recordingHash : '';
    const original = await decoded(
      new Uint8Array(await (await fetch(`${app.server.url}/api/recordings/${hash}/sound`)).arrayBuffer()),
    );
    const heard = await decoded(whole);
    expect(heard.sampleRateHz).toBe(RATE);
    expect(heard.samples).toHaveLength(2);
    // A part that stands at −9 dB and a little to the right: its power is that of the recording, at −9 dB.
    const at = (channel: Float32Array) => loudness(channel, 5 * RATE, 15 * RATE);
    const power = Math.hypot(at(heard.samples[0]), at(heard.samples[1]));
    const expected = at(original.samples[0]) * 10 ** (-9 / 20);
    expect(20 * Math.log10(power / expected)).toBeCloseTo(0, 1);

    const edits = splitEverywhere(song, part.id, 100);
    await make(id, revision, { type: 'batch', edits });
    await page.reload();
    await page.getByTestId('part-row').first().waitFor();
    const cut = await soundOf(page, 'Hand drum', '32-bit float');
    expect(Buffer.compare(whole, cut)).toBe(0);
  });

  it('of a passage that follows another tempo holds each sample of what is made of it', async () => {
    const { page } = app;
    await openDemo(page);
    const id = page.url().split('/')[4];
    const { song, revision } = (await (
      await fetch(`${app.server.url}/api/songs/${id}`)
    ).json()) as SongDocument;
    const part = song.parts.find((each) => each.kind === 'recording' && each.name === 'Steel guitar');
    if (part?.kind !== 'recording') throw new Error('The demo song has no steel guitar.');
    const clock = { keeps: 'song', bpm: 80 } as const;
    const [passage] = placedRecordings(part);
    await make(id, revision, {
      type: 'passage.set',
      partId: part.id,
      passageId: passage.id,
      patch: { clock },
    });
    await page.reload();
    await page.getByTestId('part-row').first().waitFor();
    const heard = await decoded(await soundOf(page, 'Steel guitar', '32-bit float'));

    const recorded = await decoded(
      new Uint8Array(
        await (await fetch(`${app.server.url}/api/recordings/${passage.recordingHash}/sound`)).arrayBuffer(),
      ),
    );
    expect(recorded.sampleRateHz).toBe(RATE);
    const time = createTimeMap(song);
    const warp = warpOf({ ...passage, clock }, time, 'stretch');
    const made = createWarpRenderer(recorded.samples, RATE).render(warp, 0, warpedSamples(warp, RATE));
    const startSample = Math.round(time.secondsAt(passage.startTicks) * RATE);
    const seconds = Math.floor(made[0].length / RATE);
    expect(seconds).toBeGreaterThan(10);
    // Its level and place in the middle are those of its part; all else is the same, to the end.
    const here = heard.samples[0].subarray(startSample);
    const gain = loudness(here, RATE, (seconds - 1) * RATE) / loudness(made[0], RATE, (seconds - 1) * RATE);
    // The browser decodes a hair otherwise, so that an attack may be found a sample sooner: no gap, and no other place.
    let [apart, furthest] = [0, 0];
    for (let i = 0.1 * RATE; i < (seconds - 1) * RATE; i++) {
      const distance = Math.abs(here[i] - gain * made[0][i]);
      furthest = Math.max(furthest, distance);
      if (distance > 1e-4) apart++;
    }
    expect(furthest).toBeLessThan(0.05);
    expect(apart / (seconds * RATE)).toBeLessThan(0.03);
  });

  it('of the loop range holds all parts, ends with it and lets it ring', async () => {
    const { page } = app;
    await openDemo(page);
    const ruler = (await page.getByTestId('ruler').boundingBox())!;
    await page.keyboard.down('Shift');
    await page.mouse.move(ruler.x + 120, ruler.y + 12);
    await page.mouse.down();
    await page.mouse.move(ruler.x + 240, ruler.y + 12, { steps: 4 });
    await page.mouse.up();
    await page.keyboard.up('Shift');
    const bytes = await soundOf(page, null, '24 bits', true);
    expect(bytes.readUInt16LE(34)).toBe(24);
    const { samples } = await decoded(bytes);
    expect(loudness(samples[0], 0, RATE)).toBeGreaterThan(0.02);
    // Whole bars, and recordings that go on beyond them end without a click.
    const bars = samples[0].length / RATE / (240 / 92);
    expect(Math.round(bars)).toBeGreaterThanOrEqual(1);
    expect(bars).toBeCloseTo(Math.round(bars), 3);
    expect(Math.abs(samples[0].at(-1)!)).toBeLessThan(0.002);
    await saved(page);
  });

  it('that is stopped leaves no file, and the sheet is ready again', async () => {
    const { page } = app;
    await openDemo(page);
    await page.getByRole('button', { name: 'Export' }).click();
    await page.getByRole('button', { name: 'Save as sound' }).click();
    let files = 0;
    page.on('download', () => files++);
    await page.getByRole('button', { name: 'Save sound file' }).click();
    await page.getByRole('button', { name: 'Stop', exact: true }).last().click();
    await page.getByRole('button', { name: 'Save sound file' }).waitFor();
    await page.waitForTimeout(1500);
    expect(files).toBe(0);
  });
});

function splitEverywhere(song: Song, partId: string, pieces: number): Exclude<Edit, { type: 'batch' }>[] {
  const time = createTimeMap(song);
  let [now, made] = [song, 0];
  const edits: Exclude<Edit, { type: 'batch' }>[] = [];
  for (let i = 1; i < pieces; i++) {
    const part = now.parts.find(({ id }) => id === partId)!;
    const found = findPassages(
      now,
      part.passages.map((passage) => ({ partId, passageId: passage.id })),
    );
    // Nowhere near a beat.
    const edit = planSplit(found, i * 767, time, () => `piece-${made++}`);
    if (!edit) continue;
    edits.push(...(edit.type === 'batch' ? edit.edits : [edit]));
    now = applyEdit(now, edit).song;
  }
  return edits;
}
