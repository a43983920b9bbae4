/** Playing a part in: with the computer keys, a MIDI keyboard and the pointer, with help of the scale and pull to the grid. */
import type { Page } from 'playwright-core';
import { describe, expect, it } from 'vitest';
import { placedNotes, type NotePart, type Song } from '@plundra/core/song';
import { appForEachTest, openDemo, storedSong, tapOutput } from './app.ts';

const app = appForEachTest((page) => tapOutput(page), undefined, true);
const NAME = 'Synth line';
const BAR = 3840;

const notesOf = (song: Song) =>
  placedNotes(song.parts.find(({ name }) => name === NAME) as NotePart).toSorted(
    (a, b) => a.startTicks - b.startTicks,
  );

/** A keyboard that is not there, as `window.keyboard`: it takes the bytes of MIDI messages. */
async function simulateKeyboard(page: Page): Promise<void> {
  await page.addInitScript(() => {
    const input = new EventTarget() as EventTarget & {
      onmidimessage?: (event: unknown) => void;
      name: string;
    };
    input.name = 'Harbour keys';
    const access = { inputs: new Map([['1', input]]), onstatechange: null };
    Object.defineProperty(navigator, 'requestMIDIAccess', { value: () => Promise.resolve(access) });
    (window as unknown as { keyboard: (...bytes: number[]) => void }).keyboard = (...bytes) =>
      input.onmidimessage?.({ data: Uint8Array.from(bytes) });
  });
}
const send = (page: Page, ...bytes: number[]) =>
  page.evaluate(
    (data) => (window as unknown as { keyboard: (...all: number[]) => void }).keyboard(...data),
    bytes,
  );

async function openKeys(page: Page): Promise<void> {
  await openDemo(page);
  await page.getByRole('button', { name: NAME, exact: true }).click();
  await page.getByRole('button', { name: 'Play in' }).click();
  await page.getByTestId('piano').waitFor();
}
const choose = async (page: Page, label: string, option: string) => {
  await page.getByLabel(label).click();
  await page.getByTitle(option, { exact: true }).last().click();
};
const recording = async (page: Page) => {
  await page.getByRole('button', { name: 'Record notes' }).click();
  await page.getByRole('button', { name: /^Stop and keep/ }).waitFor({ timeout: 20_000 });
};
const keep = async (page: Page, count: number) => {
  await page.getByRole('button', { name: `Stop and keep (${count})` }).click({ timeout: 10_000 });
  await page.getByRole('button', { name: 'Record notes' }).waitFor();
};

describe('playing a part in', () => {
  it('adds notes of the scale, pulled to the grid, and can be taken back', async () => {
    const { page } = app;
    await openKeys(page);
    const before = notesOf(await storedSong(page));
    await choose(page, 'What the keys sound', 'Sounds: of the scale');
    await choose(page, 'Pull while playing', 'Pull: 1/8');
    await page.getByRole('switch', { name: 'Computer keys play' }).click();
    // G major has no F natural: the key sounds the nearest note that is in it.
    await page.getByRole('button', { name: 'Key F4, sounds E4' }).waitFor();
    await recording(page);
    await page.waitForTimeout(700);
    for (const letter of ['a', 'f', 'g']) {
      await page.keyboard.down(letter);
      await page.waitForTimeout(180);
      await page.keyboard.up(letter);
      await page.waitForTimeout(180);
    }
    await keep(page, 3);
    await expect.poll(async () => notesOf(await storedSong(page)).length).toBe(before.length + 3);
    const known = new Set(before.map(({ id }) => id));
    const added = notesOf(await storedSong(page)).filter(({ id }) => !known.has(id));
    expect(added.map(({ midi }) => midi)).toEqual([60, 64, 67]);
    for (const { startTicks, lengthTicks } of added)
      expect([startTicks % 480, lengthTicks % 480]).toEqual([0, 0]);
    // The keys play letters only as long as they are told to.
    await page.keyboard.press('Escape');
    await page.keyboard.press('Control+z');
    await expect.poll(async () => notesOf(await storedSong(page))).toEqual(before);
  });

  it('takes velocity and pedal of a keyboard, and replaces what was there', async () => {
    const { page } = app;
    await simulateKeyboard(page);
    await openKeys(page);
    const before = notesOf(await storedSong(page));
    await page.getByRole('button', { name: 'MIDI keyboard' }).click();
    await page.getByText('Harbour keys plays now.').waitFor();
    await choose(page, 'What playing in does', 'replaces');
    await recording(page);
    await page.waitForTimeout(400);
    await send(page, 0xb0, 64, 127);
    await send(page, 0x90, 74, 33);
    await page.waitForTimeout(100);
    await send(page, 0x80, 74, 0);
    // Held by the pedal: it sounds on, and its key is down on the screen.
    await page.locator('.piano-key.down').waitFor();
    await page.waitForTimeout(600);
    await send(page, 0xb0, 64, 0);
    await expect.poll(() => page.locator('.piano-key.down').count()).toBe(0);
    await page.waitForTimeout(300);
    await keep(page, 1);
    const known = new Set(before.map(({ id }) => id));
    await expect
      .poll(async () => notesOf(await storedSong(page)).filter(({ id }) => !known.has(id)).length)
      .toBe(1);
    const after = notesOf(await storedSong(page));
    const [note] = after.filter(({ id }) => !known.has(id));
    expect([note.midi, note.velocity]).toEqual([74, 33]);
    // Six tenths of a second at 92 bpm are 880 ticks.
    expect(note.lengthTicks).toBeGreaterThan(700);
    // What began while it was played is gone, what comes later is there.
    expect(after.filter(({ startTicks }) => startTicks < note.startTicks)).toEqual([]);
    const later = (notes: typeof after) => notes.filter(({ startTicks }) => startTicks >= 8 * BAR);
    expect(later(after)).toEqual(later(before));
  });

  it('sounds by the pointer as well, without anything being recorded', async () => {
    const { page } = app;
    await openKeys(page);
    const before = notesOf(await storedSong(page));
    const loudness = () =>
      page.evaluate(() => {
        const analyser = (window as unknown as { ears?: AnalyserNode[] }).ears?.[0];
        if (!analyser) return 0;
        const data = new Float32Array(4096);
        analyser.getFloatTimeDomainData(data);
        return Math.max(...data);
      });
    const box = (await page.getByRole('button', { name: 'Key C5', exact: true }).boundingBox())!;
    await page.mouse.move(box.x + box.width / 2, box.y + box.height - 12);
    await page.mouse.down();
    await expect.poll(loudness, { timeout: 20_000 }).toBeGreaterThan(0.01);
    await page.mouse.up();
    await expect.poll(() => page.locator('.piano-key.down').count()).toBe(0);
    expect(notesOf(await storedSong(page))).toEqual(before);
  });
});
