/** What lies over the song: its tempo, with passages that follow it, and its sections. */
import { readFileSync } from 'node:fs';
import type { Page } from 'playwright-core';
import { decodeWhole } from '../core/src/formats/index.ts';
import type { RecordingPart, Song } from '../core/src/song/index.ts';
import { describe, expect, it } from 'vitest';
import { appForEachTest, openDemo, storedSong } from './app.ts';

const app = appForEachTest();

const drumOf = (song: Song) =>
  (song.parts.find(({ name }) => name === 'Hand drum') as RecordingPart).passages[0];

async function choosePassage(page: Page, part: string): Promise<void> {
  const picture = page
    .getByTestId('part-row')
    .filter({ has: page.getByRole('button', { name: part, exact: true }) })
    .locator('.part-picture');
  await picture.click({ position: { x: 200, y: 40 } });
  await page.getByText(`of ${part}`).waitFor();
}
const typeInto = async (page: Page, label: string, value: string) => {
  await page.getByLabel(label).fill(value);
  await page.keyboard.press('Enter');
};
const pick = async (page: Page, label: string, option: string) => {
  await page.getByLabel(label).click();
  await page.locator('.ant-select-item-option', { hasText: option }).click();
};

describe('tempo', () => {
  it('is a line with points, which slow down, move by keys, and go', async () => {
    const { page } = app;
    await openDemo(page);
    await page.getByRole('button', { name: 'Tempo', exact: true }).click();
    const lane = page.getByLabel('Tempo over the song');
    await lane.dblclick({ position: { x: 300, y: 40 } });
    await page.getByText('Goes evenly to the next tempo').waitFor();
    await page.keyboard.press('Escape');
    await lane.dblclick({ position: { x: 480, y: 40 } });
    await typeInto(page, 'Tempo of the point', '60');
    await expect.poll(async () => (await storedSong(page)).tempoMap.at(-1)?.bpm).toBe(60);
    expect((await storedSong(page)).tempoMap).toHaveLength(3);

    const points = page.getByRole('button', { name: /^Tempo [\d.]+ bpm at/ });
    // Dragged up it is faster; Escape in the middle of a drag leaves it.
    await page.keyboard.press('Escape');
    const box = (await points.nth(2).locator('circle').last().boundingBox())!;
    const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
    await page.mouse.move(x, y);
    await page.mouse.down();
    await page.mouse.move(x, y - 12, { steps: 3 });
    await page.keyboard.press('Escape');
    await page.mouse.up();
    await page.mouse.move(x, y);
    await page.mouse.down();
    await page.mouse.move(x, y - 8, { steps: 3 });
    await page.mouse.up();
    await expect.poll(async () => (await storedSong(page)).tempoMap.at(-1)!.bpm).toBeGreaterThan(62);
    await page.keyboard.press('Control+z');
    await expect.poll(async () => (await storedSong(page)).tempoMap.at(-1)?.bpm).toBe(60);
    await points.nth(1).press('Enter');
    await page.getByText('Goes evenly to the next tempo').click();
    await expect.poll(async () => (await storedSong(page)).tempoMap[1].ramp).toBe(true);
    await points.nth(2).press('ArrowUp');
    await points.nth(2).press('Delete');
    await expect.poll(async () => (await storedSong(page)).tempoMap.length).toBe(2);
    await page.keyboard.press('Control+z');
    await page.keyboard.press('Control+z');
    await expect.poll(async () => (await storedSong(page)).tempoMap.at(2)?.bpm).toBe(60);
  });

  it('is followed by a passage that is told to, and a stretched edge says what it was recorded at', async () => {
    const { page } = app;
    await openDemo(page);
    await choosePassage(page, 'Hand drum');
    await pick(page, 'Time of the passage', 'follows the tempo');
    await expect.poll(async () => drumOf(await storedSong(page)).clock).toEqual({ keeps: 'song', bpm: 92 });
    const length = page.getByLabel('Length of the passage');
    const before = Number(await length.inputValue());
    await page.getByRole('button', { name: 'Tempo', exact: true }).click();
    await page.getByRole('button', { name: /^Tempo 92 bpm at/ }).press('Enter');
    await typeInto(page, 'Tempo of the point', '115');
    // A quarter faster: four fifths as long.
    await expect.poll(async () => Number(await length.inputValue())).toBeCloseTo(before * 0.8, 2);
    await page.keyboard.press('Escape');
    await typeInto(page, 'Tempo of the recording', '46');
    await expect.poll(async () => Number(await length.inputValue())).toBeCloseTo(before * 0.4, 2);
    await pick(page, 'Time of the passage', 'keeps its own');
    await expect
      .poll(async () => drumOf(await storedSong(page)).clock)
      .toMatchObject({ keeps: 'own', speed: 2.5 });
    // It is heard as fast as that: what is saved of it ends with it.
    await page.getByRole('button', { name: 'Export' }).click();
    await page.getByRole('button', { name: 'Save as sound' }).click();
    await pick(page, 'Parts in the sound file', 'Hand drum');
    await page.keyboard.press('Escape');
    const download = page.waitForEvent('download');
    await page.getByRole('button', { name: 'Save sound file' }).click();
    const file = await download;
    expect(file.suggestedFilename()).toBe('Ferry at Six - Hand drum.wav');
    const { samples, sampleRateHz } = await decodeWhole([new Uint8Array(readFileSync(await file.path()))]);
    const loudest = (from: number, to: number) =>
      samples[0].subarray(from * sampleRateHz, to * sampleRateHz).reduce((most, x) => Math.max(most, x), 0);
    // The last stroke of the recording comes two seconds before its end.
    expect(loudest(before * 0.4 - 2, before * 0.4)).toBeGreaterThan(0.01);
    expect(loudest(before * 0.4 + 0.1, before)).toBeLessThan(1e-4);
    await page.getByText('Saved. The loudest moment').waitFor();
  });
});

describe('sections', () => {
  it('are named, made longer, looped, and copied with everything in them', async () => {
    const { page } = app;
    await openDemo(page);
    const band = page.getByTestId('sections');
    await band.dblclick({ position: { x: 140, y: 12 } });
    await typeInto(page, 'Name of the section', 'Verse');
    await page.getByRole('button', { name: 'Section Verse' }).waitFor();
    const [added] = (await storedSong(page)).sections!;
    expect(added).toMatchObject({ name: 'Verse', startTicks: 4 * 3840 });
    await page.keyboard.press('Escape');
    // Another begins in its middle, and is taken back.
    await band.dblclick({ position: { x: 380, y: 12 } });
    await typeInto(page, 'Name of the section', 'Chorus');
    await page.getByRole('button', { name: 'Section Chorus' }).press('Delete');
    await expect.poll(async () => (await storedSong(page)).sections!.length).toBe(1);
    // It lasts to the end of the song; four bars are meant.
    for (let i = 0; i < 13; i++) await page.getByRole('button', { name: 'Section Verse' }).press('ArrowLeft');
    await expect.poll(async () => (await storedSong(page)).sections![0].endTicks! / 3840).toBeLessThan(9);
    const verse = (await storedSong(page)).sections![0];

    await page.getByRole('button', { name: 'Section Verse' }).click();
    await page.getByRole('button', { name: 'Copy behind itself' }).click();
    await expect.poll(async () => (await storedSong(page)).sections!.length).toBe(2);
    const { sections, parts } = await storedSong(page);
    const length = verse.endTicks! - verse.startTicks;
    expect(sections![1]).toMatchObject({ name: 'Verse', startTicks: verse.endTicks });
    // Every part that sounds there has its piece twice.
    for (const { passages } of parts) {
      const starts = passages.map(({ startTicks }) => startTicks);
      expect(starts).toEqual(expect.arrayContaining([verse.startTicks, verse.startTicks + length]));
    }
    await page.keyboard.press('Control+z');
    await expect
      .poll(async () => (await storedSong(page)).parts.every(({ passages }) => passages.length === 1))
      .toBe(true);
    await page.getByRole('button', { name: 'Section Verse' }).click();
    await page.getByRole('button', { name: 'Loop it' }).click();
    await page.getByRole('button', { name: /5–/ }).waitFor();
  });
});
