/** Chordal recordings and drums: reading all notes and hits, cleaning them up, making parts of them. */
import type { Page } from 'playwright-core';
import { describe, expect, it } from 'vitest';
import { appForEachTest, noteCount, openDemo, saved, selectedCount } from './app.ts';

const app = appForEachTest();

/** Opens a part of the demo and reads it with the button in the middle. */
async function read(page: Page, part: string, button: string): Promise<void> {
  await page.getByRole('button', { name: part, exact: true }).click();
  await page.waitForURL(/\/notes\//);
  await page.getByRole('button', { name: button, exact: true }).last().click();
  await page
    .getByTestId('step-read')
    .getByText(/\d+ (notes|hits)/)
    .waitFor();
}

const parts = (page: Page) => page.getByTestId('part-row').count();

describe('a strummed guitar', () => {
  it('is found to be chordal, read, cleaned up and made a part', async () => {
    const { page } = app;
    await openDemo(page);
    await read(page, 'Steel guitar', 'Read');
    const found = await noteCount(page);
    const doubtful = async () =>
      Number(/(\d+) doubtful/.exec((await page.getByTestId('step-clean').textContent())!)![1]);
    const inDoubt = await doubtful();
    // 21 bars of strummed chords on five and six strings.
    expect(found).toBeGreaterThan(300);
    await page.getByTestId('step-read').click();
    await page.getByText(/Read as chordal: \d\.\d notes sound at once/).waitFor();
    await page.getByTestId('step-clean').click();
    await page.getByTestId('proposal-doubles').getByRole('button', { name: 'Show' }).click();
    const doubles = page.getByTestId('proposal');
    await doubles.getByRole('slider').press('End');
    const drop = doubles.getByRole('button', { name: /^Drop [1-9]/ });
    const count = Number(/\d+/.exec((await drop.textContent())!)![0]);
    await drop.click();
    await expect.poll(() => noteCount(page)).toBe(found - count);
    await page.getByRole('button', { name: 'Undo' }).click();
    await expect.poll(() => noteCount(page)).toBe(found);
    // A doubtful note says which stroke it belongs to, and the stroke can be taken whole.
    await page.getByTestId('line-canvas').focus();
    await page.keyboard.press('n');
    await expect.poll(() => selectedCount(page)).toBe(1);
    // Kept, it is not doubtful any more, and the next one is selected.
    // The count in the steps follows the canvas.
    await expect.poll(doubtful).toBe(inDoubt);
    await page.keyboard.press('k');
    await expect.poll(doubtful).toBe(inDoubt - 1);
    await expect.poll(() => selectedCount(page)).toBeGreaterThan(0);
    await page.getByText('doubtful', { exact: true }).waitFor();
    await page.keyboard.press('l');
    await page.getByTestId('step-read').click();
    await page.getByRole('slider', { name: 'Sensitivity' }).press('Home');
    await page.getByRole('button', { name: 'Read the loop range again' }).click();
    await expect.poll(() => noteCount(page), { timeout: 60_000 }).toBeLessThan(found);
    // Only that little range lost notes.
    await expect.poll(() => noteCount(page)).toBeGreaterThan(found - 40);
    await page.getByRole('button', { name: 'Undo' }).click();
    await expect.poll(() => noteCount(page)).toBe(found);
    await page.getByTestId('step-use').click();
    await page.getByRole('button', { name: 'Make a note part' }).click();
    await page.getByText(/beside the recording/).waitFor();
    await expect.poll(() => noteCount(page)).toBe(found);
    await saved(page);
  });
});

describe('an electric piano', () => {
  it('is read with a sensitivity, and made two parts by register in one step', async () => {
    const { page } = app;
    await openDemo(page);
    await read(page, 'Electric piano', 'Read notes');
    const usual = await noteCount(page);
    await page.getByTestId('step-read').click();
    const sensitivity = page.getByRole('slider', { name: 'Sensitivity' });
    await sensitivity.press('Home');
    await page.getByRole('button', { name: 'Read again' }).click();
    await expect.poll(() => noteCount(page), { timeout: 60_000 }).toBeLessThan(usual);
    await page.getByTestId('step-use').click();
    await page.getByRole('button', { name: /upper and lower/ }).click();
    await page.getByText(/notes in the upper part/).waitFor();
    await page.getByRole('link', { name: 'Timeline' }).click();
    await expect.poll(() => parts(page)).toBe(10);
    await page.getByRole('button', { name: 'Undo' }).click();
    await expect.poll(() => parts(page)).toBe(8);
    await saved(page);
  });
});

describe('a hand drum', () => {
  it('is read by kind and taken apart into one part for each drum', async () => {
    const { page } = app;
    await openDemo(page);
    await read(page, 'Hand drum', 'Read hits');
    const hits = await noteCount(page);
    // Seven strokes or so a bar, and a shaker in eighths.
    expect(hits).toBeGreaterThan(200);
    await page.getByTestId('step-use').click();
    await page.getByRole('button', { name: /Take apart/ }).click();
    await page.getByText(/drum parts made/).waitFor();
    await page.getByRole('link', { name: 'Timeline' }).click();
    await page.getByRole('button', { name: 'Hand drum · Shaker', exact: true }).click();
    await page.waitForURL(/\/notes\//);
    const shakers = await noteCount(page);
    // All but a few of its 160 eighths, also where a hand strikes with them.
    expect(shakers).toBeGreaterThan(130);
    expect(shakers).toBeLessThan(hits);
    await page.getByTestId('line-canvas').focus();
    await page.keyboard.press('Control+a');
    await expect.poll(() => selectedCount(page)).toBe(shakers);
    // Another drum for all of them, chosen by its name.
    const drum = page.locator('.side-sheet').getByLabel('Drum', { exact: true });
    await drum.click();
    await page.getByTitle('Cabasa', { exact: true }).click();
    await page.getByRole('button', { name: 'Undo' }).click();
    await page.locator('.side-sheet').getByTitle('Shaker', { exact: true }).waitFor();
    // Muted hits stay where they are.
    await page.getByTestId('line-canvas').focus();
    await page.keyboard.press('m');
    await page.getByRole('button', { name: 'Unmute', exact: true }).waitFor();
    await page.keyboard.press('m');
    await page.getByRole('button', { name: 'Mute', exact: true }).last().waitFor();
    await expect.poll(() => noteCount(page)).toBe(shakers);
    // The rhythm of one drum in another part.
    await page.keyboard.press('Control+c');
    await page.keyboard.press('Home');
    await page.getByRole('link', { name: 'Timeline' }).click();
    await page.getByRole('button', { name: 'Synth line', exact: true }).click();
    await page.getByText('Sound of the part').waitFor();
    const written = await noteCount(page);
    await page.getByTestId('line-canvas').focus();
    await page.keyboard.press('Control+v');
    await expect.poll(() => noteCount(page)).toBe(written + shakers);
    await expect.poll(() => selectedCount(page)).toBe(shakers);
    await saved(page);
  });
});
