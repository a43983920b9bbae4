/** Chord keys: filled, changed, played by computer keys, pointer and MIDI keyboard, and recorded. */
import type { Page } from 'playwright-core';
import { describe, expect, it } from 'vitest';
import { appForEachTest, newSong, saved, tapOutput } from './app.ts';

/** A MIDI keyboard that the test plays through `window.playMidi`, in the shape of the Web MIDI API. */
async function plugInKeyboard(page: Page): Promise<void> {
  await page.addInitScript(() => {
    const input = Object.assign(new EventTarget(), {
      name: 'Test keyboard',
      onmidimessage: null as ((event: { data: Uint8Array }) => void) | null,
    });
    const access = { inputs: new Map([['one', input]]), onstatechange: null };
    Object.assign(navigator, { requestMIDIAccess: async () => access });
    Object.assign(window, {
      playMidi: (...bytes: number[]) => input.onmidimessage?.({ data: Uint8Array.from(bytes) }),
    });
  });
}

const app = appForEachTest(async (page) => {
  await tapOutput(page);
  await plugInKeyboard(page);
});

const midi = (page: Page, ...bytes: number[]) =>
  page.evaluate((data) => (window as unknown as { playMidi(...b: number[]): void }).playMidi(...data), bytes);
const loudness = (page: Page) =>
  page.evaluate(() => {
    const ears = (window as unknown as { ears?: AnalyserNode[] }).ears;
    if (!ears) return 0;
    const samples = new Float32Array(ears[0].fftSize);
    ears[0].getFloatTimeDomainData(samples);
    return Math.sqrt(samples.reduce((sum, value) => sum + value * value, 0) / samples.length);
  });
const keyNames = async (page: Page) =>
  (
    await page.locator('.chord-key').evaluateAll((all) => all.map((each) => each.getAttribute('aria-label')!))
  ).map((label) => label.replace(/^Chord key \d+, /, ''));

async function typeChords(page: Page, symbols: string[]): Promise<void> {
  await page
    .locator('.chord-bar')
    .first()
    .click({ position: { x: 20, y: 50 } });
  for (const symbol of symbols) {
    await page.keyboard.press(symbol[0].toLowerCase());
    const field = page.getByRole('textbox', { name: 'Chord', exact: true });
    await field.fill(symbol);
    await field.press('Enter');
  }
}

describe('chord keys', () => {
  it('hold the chords of the song, are changed in place, and a take becomes a part', async () => {
    const { page } = app;
    await newSong(page, 'Mooring');
    await page.getByRole('link', { name: 'Chords', exact: true }).click();
    // Without chords they hold those of the key.
    await expect.poll(async () => (await keyNames(page)).slice(0, 3)).toEqual(['C', 'Dm', 'Em']);
    await typeChords(page, ['G', 'Em', 'C', 'D7', 'G']);
    await expect.poll(async () => (await keyNames(page)).slice(0, 5)).toEqual(['G', 'Em', 'C', 'D7', 'Dm']);

    // Inversion, an added tone, a typed chord with a bass of its own; what is not understood is said.
    await page.locator('.chord-key').nth(1).click();
    await page.getByLabel('Added tones').getByRole('button', { name: '7', exact: true }).click();
    await expect.poll(async () => (await keyNames(page))[1]).toBe('Em7');
    await page.locator('.chord-key').nth(4).click();
    const field = page.getByLabel('Chord of key 5');
    await field.fill('Hx');
    await page.getByRole('alert').waitFor();
    await field.fill('Am/C');
    await field.press('Enter');
    await expect.poll(async () => (await keyNames(page))[4]).toBe('Am/C');

    // Computer keys: letters play instead of typing chords, Space still starts and stops.
    await page.getByLabel('Computer keys play').click();
    await page.keyboard.down('a');
    await page.getByRole('status', { name: 'Played' }).getByText('G', { exact: true }).waitFor();
    await expect.poll(() => loudness(page)).toBeGreaterThan(0.003);
    await page.keyboard.up('a');
    expect(await page.getByRole('textbox', { name: 'Chord', exact: true }).inputValue()).not.toContain('a');

    await page.getByRole('button', { name: 'Record a take' }).click();
    await page.getByRole('button', { name: 'End the take (0)' }).waitFor();
    await expect
      .poll(() => page.getByTestId('position').textContent(), { timeout: 20_000 })
      .not.toMatch(/^1\.1\.0/);
    for (const key of ['a', 's', 'd', 'f']) {
      await page.keyboard.down(key);
      await page.waitForTimeout(260);
      await page.keyboard.up(key);
    }
    await page.getByRole('button', { name: 'End the take (4)' }).waitFor();
    await page.keyboard.press(' ');
    const taken = page.getByRole('group', { name: 'Take' });
    await taken.getByText('A take, 4 played').waitFor();
    // Escape gives the letters back.
    await page.keyboard.press('Escape');
    await expect.poll(() => page.getByLabel('Computer keys play').getAttribute('aria-checked')).toBe('false');
    await taken.getByRole('button', { name: 'Make a part', exact: true }).click();
    await page.waitForURL(/\/notes\//);
    await page.getByLabel(/Notes on a canvas, 1\d/).waitFor();
    await saved(page);
    await page.reload();
    await page.getByRole('link', { name: 'Chords', exact: true }).click();
    await expect
      .poll(async () => (await keyNames(page)).slice(0, 5))
      .toEqual(['G', 'Em7', 'C', 'D7', 'Am/C']);
  });

  it('hear a MIDI keyboard: its chords get a name and a place', async () => {
    const { page } = app;
    await newSong(page, 'Slipway');
    await page.getByRole('link', { name: 'Chords', exact: true }).click();
    await typeChords(page, ['C']);
    await page.getByRole('button', { name: 'MIDI keyboard' }).click();
    await page.getByTitle('Test keyboard', { exact: true }).waitFor();
    await page.getByText('Notes', { exact: true }).last().waitFor();
    await page.locator('.chord-keys').getByText('Notes', { exact: true }).click();
    // F A♭ C E♭ over C: Fm7/C by its intervals (Harte et al. 2005).
    for (const note of [48, 53, 56, 60, 63]) await midi(page, 0x90, note, 80);
    await page.getByRole('status', { name: 'Played' }).getByText('Fm').waitFor();
    await expect.poll(() => loudness(page)).toBeGreaterThan(0.003);
    for (const note of [48, 53, 56, 60, 63]) await midi(page, 0x80, note, 0);
    await page.getByRole('button', { name: /Put at bar/ }).click();
    await page
      .getByTestId('chord-sheet')
      .getByRole('button', { name: /^Fm7\/C/ })
      .waitFor();
    // As chord keys: its white keys from C3 on.
    await page.locator('.chord-keys').getByText('Chords', { exact: true }).click();
    await midi(page, 0x90, 48, 90);
    await page.locator('.chord-key.chosen').waitFor();
    await page.getByRole('status', { name: 'Played' }).getByText('C', { exact: true }).waitFor();
    await midi(page, 0x90, 48, 0);
    await saved(page);
  });
});
