/** Recording through the browser's fake microphone: nothing is lost, takes stand beside each other, the delay is taken off. */
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Page } from 'playwright-core';
import { afterAll, describe, expect, it } from 'vitest';
import { decodeWhole, encodeWav } from '@plundra/core/formats';
import { createTimeMap, takeTableOf, type RecordingPart, type Song } from '@plundra/core/song';
import { appForEachTest, newSong, openDemo, storedSong } from './app.ts';

const folder = mkdtempSync(join(tmpdir(), 'plundra-mic-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
/** What the fake microphone hears: the first verse of the demo's singer, again and again. */
const micFile = join(folder, 'mic.wav');
const demoVoice = new URL('../demo/data/ferry-lead-voice.flac', import.meta.url).pathname;
const voice = await decodeWhole([new Uint8Array(readFileSync(demoVoice))]);
const sung = voice.samples[0].slice(10.4 * voice.sampleRateHz, 21 * voice.sampleRateHz);
writeFileSync(micFile, encodeWav([sung], voice.sampleRateHz));

const app = appForEachTest(undefined, undefined, true, [`--use-file-for-fake-audio-capture=${micFile}`]);
const BAR = 3840;

const partOf = (song: Song, name: string) =>
  song.parts.find((part) => part.name === name) as RecordingPart | undefined;
const record = (page: Page) => page.getByRole('button', { name: 'Record', exact: true }).click();
const stop = async (page: Page) => {
  await page.getByRole('button', { name: 'Stop recording' }).click();
  await page.getByRole('button', { name: 'Record', exact: true }).waitFor();
};
async function soundOf(hash: string): Promise<Float32Array> {
  const response = await fetch(`${app.server.url}/api/recordings/${hash}/sound`);
  return (await decodeWhole([new Uint8Array(await response.arrayBuffer())])).samples[0];
}
/** How long it has recorded, by what the take row says; and that it does. */
const recordsFor = async (page: Page, seconds: number) => {
  await page.getByTestId('take-row').getByText('Recording').waitFor();
  await page.waitForTimeout(seconds * 1000);
};

/** Keeps every block that the input hands to the page, as `window.blocks`. */
async function tapInput(page: Page): Promise<void> {
  await page.addInitScript(() => {
    const store = window as unknown as { blocks: { frame: number; samples: Float32Array }[] };
    store.blocks = [];
    window.AudioWorkletNode = class extends AudioWorkletNode {
      constructor(context: BaseAudioContext, name: string, options?: AudioWorkletNodeOptions) {
        super(context, name, options);
        if (name !== 'capture') return;
        this.port.addEventListener('message', ({ data }: MessageEvent) => {
          const block = data as { frame: number; channels: Float32Array[] };
          if (block.channels) store.blocks.push({ frame: block.frame, samples: block.channels[0].slice() });
        });
      }
    };
  });
}

async function setLoop(page: Page, fromBar: number, toBar: number): Promise<void> {
  const ruler = page.getByTestId('ruler');
  const box = (await ruler.boundingBox())!;
  const view = await page.evaluate(() => {
    const element = document.querySelector<HTMLElement>('[data-pixels-per-second]')!;
    return { start: Number(element.dataset.startSeconds), scale: Number(element.dataset.pixelsPerSecond) };
  });
  const x = (bar: number) => box.x + ((bar - 1) * (240 / 92) - view.start) * view.scale;
  await page.keyboard.down('Shift');
  await page.mouse.move(x(fromBar), box.y + 10);
  await page.mouse.down();
  await page.mouse.move(x(toBar), box.y + 10, { steps: 5 });
  await page.mouse.up();
  await page.keyboard.up('Shift');
  await page.getByRole('button', { name: `${fromBar}–${toBar}` }).waitFor();
}

describe('what is recorded', () => {
  it('is kept sample for sample, also when the server goes away in the middle', async () => {
    const { page } = app;
    await tapInput(page);
    await newSong(page, 'Ferry at Six');
    await record(page);
    await recordsFor(page, 1.5);
    await app.stopServer();
    await page.getByText(/What is recorded is kept in this browser until then/).waitFor();
    await page.waitForTimeout(1500);
    await app.startServer();
    await page.waitForTimeout(1000);
    await stop(page);
    await page.getByRole('button', { name: 'Recording 1', exact: true }).waitFor();
    const song = await storedSong(page);
    const part = partOf(song, 'Recording 1')!;
    const recorded = await soundOf(part.takes[0].recordingHash);
    expect(recorded.length).toBeGreaterThan(5 * 44_100);
    // It is what the microphone heard. Whole numbers of 16 bits become floats by 32,768 below zero and 32,767 above it in
    // this browser; a busy machine's fake microphone leaves out or repeats a hundredth of a second now and then.
    const whole = (value: number, full: number) => Math.round(value * (value > 0 ? full : 32_768));
    const key = (samples: Float32Array, at: number, full: number) =>
      [0, 1, 2].map((k) => whole(samples[at + k], full)).join(' ');
    const places = new Set<string>();
    for (let i = 0; i + 2 < sung.length; i++) places.add(key(sung, i, 32_768));
    let [loud, found] = [0, 0];
    for (let i = 0; i + 2 < recorded.length; i++) {
      if (Math.abs(recorded[i]) < 0.01) continue;
      loud++;
      if (places.has(key(recorded, i, 32_767))) found++;
    }
    expect(loud).toBeGreaterThan(10_000);
    expect(found / loud).toBeGreaterThan(0.99);
    // What the input handed out is what is on the disk, frame by frame: compared in the page, which has both.
    const other = await page.evaluate(async (hash) => {
      const { blocks } = window as unknown as { blocks: { frame: number; samples: Float32Array }[] };
      const bytes = await (await fetch(`/api/recordings/${hash}/sound`)).arrayBuffer();
      const kept = new Float32Array(bytes.slice(44));
      // Where a busy machine left out a few thousandths there is silence, so that what follows stays in time.
      const wanted = new Float32Array(kept.length);
      for (const { frame, samples } of blocks)
        samples.forEach((value, i) => (wanted[frame - blocks[0].frame + i] = value));
      return { different: kept.filter((value, i) => value !== wanted[i]).length };
    }, part.takes[0].recordingHash);
    expect(other).toEqual({ different: 0 });
    // Nothing is left to be offered.
    await expect
      .poll(() => page.evaluate(async (id) => (await fetch(`/api/takes?song=${id}`)).text(), song.id))
      .toBe('{"takes":[]}');
  });

  it('is offered when the page went away before it was kept, and asked about before it goes', async () => {
    const { page } = app;
    await newSong(page, 'Ferry at Six');
    const url = page.url();
    await record(page);
    await recordsFor(page, 2.5);
    await page.close();
    const next = await app.newPage();
    await next.goto(url);
    await next.getByText('An unfinished take was found').waitFor();
    await next.getByText(/^0:0\d for Recording 1, recorded/).waitFor();
    await next.getByRole('button', { name: 'Keep', exact: true }).click();
    await next.getByRole('button', { name: 'Recording 1', exact: true }).waitFor();
    const [passage] = partOf(await storedSong(next), 'Recording 1')!.passages;
    expect(passage.startTicks).toBe(0);
    // All but the last second at most.
    expect(passage.durationSeconds).toBeGreaterThan(1.5);

    await record(next);
    await recordsFor(next, 1);
    // Leaving the song ends it as well; nothing is put into a song that is not open.
    await next.getByRole('link', { name: 'All songs' }).click();
    await next.getByText('Ferry at Six').first().waitFor();
    const last = next;
    await last.goto(url);
    await last.getByText('An unfinished take was found').waitFor();
    await last.getByText(/for Recording 2, recorded/).waitFor();
    await last.getByRole('button', { name: 'Discard', exact: true }).click();
    await last.getByText(/nothing brings it back/).waitFor();
    await last.getByRole('button', { name: 'Discard it' }).click();
    await expect.poll(() => last.getByText('An unfinished take was found').count()).toBe(0);
    const left = () =>
      last.evaluate(async (id) => (await fetch(`/api/takes?song=${id}`)).text(), url.split('/')[4]);
    await expect.poll(left).toBe('{"takes":[]}');
  });
});

describe('takes', () => {
  it('are recorded round the loop, chosen phrase by phrase, read, ranked and printed', async () => {
    const { page } = app;
    await openDemo(page);
    await setLoop(page, 5, 7);
    await page.getByRole('button', { name: 'How to record' }).click();
    await page.getByLabel('Where the recording goes').click();
    await page.locator('.ant-select-item-option').filter({ hasText: 'A take of Lead voice' }).click();
    await page.getByText('Round the loop, each round a take').click();
    await page.getByLabel('Bars of count-in').getByText('0', { exact: true }).click();
    await page.getByText(/^It records from bar 5 to bar 7 until you stop it/).waitFor();
    await page.getByRole('button', { name: 'Record takes round the loop' }).click();
    await page.getByTestId('take-row').getByText('Recording round 3').waitFor();
    await page.waitForTimeout(300);
    await page.getByRole('button', { name: 'Stop and keep' }).click();
    const table = page.getByTestId('take-table');
    await table.waitFor();
    await page.getByRole('button', { name: 'Close the record sheet' }).click();
    const tableOf = async () => {
      const song = await storedSong(page);
      return takeTableOf(partOf(song, 'Lead voice')!, createTimeMap(song))!;
    };
    const first = await tableOf();
    // A third round that had begun may be a take as well.
    expect(first.takes.slice(0, 3).map(({ name }) => name)).toEqual(['Take 1', 'Take 2', 'Take 3']);
    expect(first.phrases[0].startTicks).toBe(4 * BAR);
    expect(first.phrases.at(-1)!.endTicks).toBe(6 * BAR);
    // The last round that went all the way is heard.
    expect(new Set(first.phrases.map(({ chosenId }) => chosenId))).toEqual(new Set([first.takes[2].id]));

    // A click takes the phrase from that take, and it can be taken back.
    await page.getByRole('button', { name: /^Phrase 1 from Take 1/ }).click();
    await expect.poll(async () => (await tableOf()).phrases[0].chosenId).toBe(first.takes[0].id);
    await page.keyboard.press('Control+z');
    await expect.poll(async () => (await tableOf()).phrases[0].chosenId).toBe(first.takes[2].id);

    await page.getByRole('button', { name: 'Read the takes' }).click();
    await page.getByRole('button', { name: 'Best of each' }).click();
    await expect.poll(async () => (await tableOf()).phrases.every(({ chosenId }) => chosenId)).toBe(true);
    await page.getByText(/^Phrase 1: take \d scores \d+, take \d \d+/).waitFor();
    // Each cell says how far off it is.
    await page.getByRole('button', { name: /^Phrase 1 from Take 2: \d+ cents off/ }).waitFor();

    // Heard without being chosen.
    const before = await storedSong(page);
    await page.getByRole('button', { name: 'Hear Take 2', exact: true }).click();
    await page.getByRole('button', { name: 'Stop hearing Take 2' }).waitFor();
    await page.getByRole('button', { name: 'Hear all together' }).click();
    await page.waitForTimeout(500);
    await page.keyboard.press('Space');
    await page.getByRole('button', { name: 'Hear Take 2', exact: true }).waitFor();
    expect((await storedSong(page)).parts).toEqual(before.parts);

    await page.getByRole('button', { name: 'Print as one' }).click();
    await page.getByRole('button', { name: 'Lead voice printed', exact: true }).waitFor();
    expect(partOf(await storedSong(page), 'Lead voice')!.mute).toBe(true);
    await page.keyboard.press('Control+z');
    await expect.poll(async () => (await storedSong(page)).parts).toEqual(before.parts);

    // One that sounds is asked about.
    const chosen = (await tableOf()).phrases[0].chosenId!;
    const line = page.locator(`[data-take-id="${chosen}"]`);
    await line.getByRole('button', { name: /^More of Take/ }).click();
    await page.getByRole('menuitem', { name: 'Remove' }).click();
    await page
      .getByText(/^Take \d sounds at .*5\.1\.000/)
      .last()
      .waitFor();
    await page.getByRole('button', { name: 'Remove it' }).click();
    await expect.poll(async () => (await tableOf()).takes.map(({ id }) => id)).not.toContain(chosen);
  });
});

describe('the delay of the input', () => {
  it('is measured through a loop, and taken off: clicks lie on the beats', async () => {
    const { page } = app;
    // What goes out comes in 137 ms later, as through a cable.
    await page.addInitScript(() => {
      const connect = AudioNode.prototype.connect as (...args: unknown[]) => AudioNode;
      const loops = new Map<BaseAudioContext, DelayNode>();
      let stream: MediaStream | undefined;
      AudioNode.prototype.connect = function (this: AudioNode, target: unknown, ...rest: unknown[]) {
        if (target instanceof AudioDestinationNode && this.context instanceof AudioContext) {
          let delay = loops.get(this.context);
          if (!delay) {
            const out = this.context.createMediaStreamDestination();
            delay = this.context.createDelay(1);
            delay.delayTime.value = 0.137;
            connect.call(delay, out);
            loops.set(this.context, delay);
            ({ stream } = out);
          }
          connect.call(this, delay);
        }
        return connect.call(this, target, ...rest);
      } as typeof AudioNode.prototype.connect;
      navigator.mediaDevices.getUserMedia = () => Promise.resolve(stream!.clone());
    });
    await newSong(page, 'Clicks');
    // The output must be there before the input can be looped to it.
    await page.getByRole('button', { name: 'Play', exact: true }).click();
    await page.waitForTimeout(300);
    await page.getByRole('button', { name: 'How to record' }).click();
    await page.getByRole('button', { name: 'Measure' }).click();
    await page.getByText(/^The input is \d+\.\d ms late/).waitFor();
    const delayMs = Number(await page.getByLabel('Delay of the input in milliseconds').inputValue());
    expect(delayMs).toBeGreaterThan(136);
    expect(delayMs).toBeLessThan(400);
    await page.getByText('always', { exact: true }).click();
    await page.getByRole('button', { name: /^Record a new part/ }).click();
    await recordsFor(page, 4);
    await page.getByRole('button', { name: 'Stop and keep' }).click();
    await page.getByRole('button', { name: 'Recording 1', exact: true }).waitFor();
    const part = partOf(await storedSong(page), 'Recording 1')!;
    const [passage] = part.passages;
    const samples = await soundOf(part.takes[0].recordingHash);
    const rate = await page.evaluate(
      async (hash) =>
        ((await (await fetch(`/api/recordings/${hash}`)).json()) as { sampleRateHz: number }).sampleRateHz,
      part.takes[0].recordingHash,
    );
    // A click every half second from the start of the song on: the first sample that is not silent.
    const clicks: number[] = [];
    let quiet = rate;
    for (let i = 0; i < samples.length; i++) {
      if (Math.abs(samples[i]) < 0.002) quiet++;
      else {
        if (quiet > 0.2 * rate) clicks.push(i / rate - passage.offsetSeconds);
        quiet = 0;
      }
    }
    const played = clicks.filter((seconds) => seconds > -0.1);
    expect(played.length).toBeGreaterThan(4);
    for (const seconds of played) expect(Math.abs(seconds - Math.round(seconds * 2) / 2)).toBeLessThan(0.001);
  });
});
