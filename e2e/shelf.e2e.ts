/** The shelf: found, heard with the song, put in, kept, brought in as files, dragged beside the Timeline. */
import type { Page } from 'playwright-core';
import { describe, expect, it } from 'vitest';
import { encodeWav } from '@plundra/core/formats';
import { createTimeMap, passageEndTicks, type RecordingPart, type Song } from '@plundra/core/song';
import { keyName } from '@plundra/core/theory';
import { appForEachTest, newSong, openDemo, saved, storedSong, tapOutput } from './app.ts';

const app = appForEachTest((page) => tapOutput(page), undefined, true);
const BAR = 3840;

const shelfLink = (page: Page) => page.getByRole('navigation', { name: 'Places' }).getByText('Shelf');
const sheet = (page: Page) => page.getByLabel('Side sheet');
async function openShelf(page: Page): Promise<void> {
  await shelfLink(page).click();
  await page.getByText('32 items').waitFor();
}
async function search(page: Page, text: string): Promise<void> {
  await page.getByLabel('Search the shelf').fill(text);
}
const namesShown = (page: Page) =>
  page.locator('.shelf-table .ant-table-cell:nth-child(2) strong').allInnerTexts();
const partNamed = (song: Song, name: string) =>
  song.parts.find((part) => part.name === name) as RecordingPart | undefined;
/** Loudest sample of the next moments. */
const loudest = (page: Page, ms: number) =>
  page.evaluate(async (time) => {
    const { ears } = window as unknown as { ears?: AnalyserNode[] };
    const data = new Float32Array(8192);
    let most = 0;
    const end = performance.now() + time;
    while (performance.now() < end) {
      for (const ear of ears ?? []) {
        ear.getFloatTimeDomainData(data);
        most = data.reduce((sum, value) => Math.max(sum, Math.abs(value)), most);
      }
      await new Promise((resolve) => setTimeout(resolve, 50));
    }
    return most;
  }, ms);

describe('the shelf', () => {
  it('fits a loop in F at 100 bpm to a song in G at 92, and fills with it to a bar', async () => {
    const { page } = app;
    await openDemo(page);
    await openShelf(page);
    await search(page, 'low tide');
    await page.getByText('Low tide walk').click();
    await sheet(page).getByText('F major → G major, +2 semitones').waitFor();
    await sheet(page).getByText('100 → 92 bpm, 9 % longer').waitFor();
    const before = await storedSong(page);

    // Heard with the song, it is not in it.
    await page.getByRole('button', { name: 'Hear Low tide walk' }).click();
    await page.getByRole('button', { name: 'Stop Low tide walk' }).waitFor();
    await page.getByRole('button', { name: 'Stop', exact: true }).waitFor();
    await page.getByRole('button', { name: 'Stop Low tide walk' }).click();
    await page.getByRole('button', { name: 'Play', exact: true }).waitFor();
    expect(await storedSong(page)).toEqual(before);

    await page.getByLabel('Where it goes').fill('5.1.0');
    await page.getByLabel('Where it goes').press('Enter');
    await page.getByLabel('Fill to bar').fill('19');
    await page.getByRole('button', { name: 'Put in, bars 5–18' }).click();
    await page.getByText('is in a part of its own, bars 5–18').waitFor();
    const song = await storedSong(page);
    const part = partNamed(song, 'Low tide walk')!;
    expect(part.material).toBe('bass');
    expect(part.passages.map(({ startTicks }) => startTicks / BAR)).toEqual([4, 8, 12, 16]);
    expect(passageEndTicks(part.passages[3], createTimeMap(song))).toBe(18 * BAR);
    for (const { clock, key } of part.passages) {
      expect(clock).toEqual({ keeps: 'song', bpm: 100 });
      expect(key && keyName(key)).toBe('G major');
    }
    expect(part.takes.map(({ stretch }) => stretch?.semitones)).toEqual([2, 2, 2, 2]);

    // What it says of itself goes along when the song goes to another key.
    await page.getByRole('button', { name: 'Show it' }).click();
    await page.waitForURL(/\/timeline$/);
    await sheet(page).getByText('4 passages').waitFor();
    await page.getByLabel('Key of the song').click();
    await page.locator('.ant-select-item-option').getByText('A major', { exact: true }).click();
    await page
      .getByRole('button', { name: /^Transpose/ })
      .last()
      .click();
    await saved(page);
    const moved = partNamed(await storedSong(page), 'Low tide walk')!;
    expect(moved.passages.map(({ key }) => key && keyName(key))).toEqual(Array(4).fill('A major'));
    expect(moved.takes[0].stretch?.semitones).toBe(4);

    await page.keyboard.press('Control+z');
    await page.keyboard.press('Control+z');
    await expect.poll(async () => (await storedSong(page)).parts.length).toBe(before.parts.length);
    expect(await storedSong(page)).toEqual(before);
  });

  it('is heard in an empty song, and alone', async () => {
    const { page } = app;
    await newSong(page, 'Harbour');
    await openShelf(page);
    await search(page, 'open strum');
    await page.getByRole('button', { name: 'Hear Open strum' }).click();
    await page.getByRole('button', { name: 'Stop Open strum' }).waitFor();
    await expect.poll(() => loudest(page, 500), { timeout: 20_000 }).toBeGreaterThan(0.02);
    await page.keyboard.press('Space');
    await page.getByRole('button', { name: 'Hear Open strum' }).waitFor();
    expect((await storedSong(page)).parts).toEqual([]);
    // Outside of a song it is heard as it was played; a phrase by the instrument it was written for.
    await page.goto('/shelf');
    for (const name of ['Open strum', 'Gull song']) {
      await search(page, name);
      await page.getByRole('button', { name: `Hear ${name}` }).click();
      await expect.poll(() => loudest(page, 500), { timeout: 20_000 }).toBeGreaterThan(0.02);
      await page.getByRole('button', { name: `Stop ${name}` }).click();
      await expect.poll(() => loudest(page, 300), { timeout: 20_000 }).toBeLessThan(0.001);
    }
  });

  it('goes where it is heard, and the song plays on', async () => {
    const { page } = app;
    await openDemo(page);
    await openShelf(page);
    await search(page, 'harbour hands');
    await page.getByText('Harbour hands').click();
    await page.getByRole('button', { name: 'Play', exact: true }).click();
    await page.getByRole('button', { name: 'Stop', exact: true }).waitFor();
    await page.waitForTimeout(700);
    await page.keyboard.press('h');
    await sheet(page).getByText('where it is heard').waitFor();
    const bar = Number((await page.getByLabel('Where it goes').inputValue()).split('.')[0]);
    expect(bar).toBeGreaterThan(1);
    await page.getByRole('button', { name: `Put in, bars ${bar}–${bar + 1}` }).click();
    await page.getByText('is in a part of its own').waitFor();
    await page.getByRole('button', { name: 'Hear Harbour hands' }).waitFor();
    expect(await page.getByRole('button', { name: 'Stop', exact: true }).count()).toBe(1);
    const part = partNamed(await storedSong(page), 'Harbour hands')!;
    expect(part.passages.map(({ startTicks }) => startTicks)).toEqual([(bar - 1) * BAR]);
    // Drums stay as they are.
    expect(part.takes[0]).not.toHaveProperty('stretch');
    expect(part.passages[0]).not.toHaveProperty('key');
  });

  it('is searched and filtered, and worked by keys alone', async () => {
    const { page } = app;
    await openDemo(page);
    await openShelf(page);
    await search(page, 'waltz');
    await expect.poll(() => namesShown(page)).toHaveLength(4);
    await page.getByText('4 of 32 shown').waitFor();
    await search(page, '');
    await page.getByLabel('Kind', { exact: true }).getByText('phrases').click();
    await page.getByText('6 of 32 shown').waitFor();
    await page.getByLabel('Kind', { exact: true }).getByText('all').click();
    await search(page, 'no such thing');
    const nothing = page.getByText('Nothing on the shelf is like this');
    await nothing.waitFor();
    // It once stood in the narrow first column, letter by letter.
    expect((await nothing.boundingBox())!.height).toBeLessThan(40);
    await page.getByRole('button', { name: 'Show all 32' }).click();
    await page.getByText('32 items').waitFor();
    await expect.poll(() => page.getByLabel('Search the shelf').inputValue()).toBe('');
    await search(page, 'ferry riff');
    await expect.poll(() => namesShown(page)).toEqual(['Ferry riff']);
    await page.locator('.shelf-table').focus();
    await page.keyboard.press('ArrowDown');
    await sheet(page).getByLabel('Name on the shelf').waitFor();
    await page.keyboard.press('Enter');
    await page.getByText('is in a part of its own').waitFor();
    const part = (await storedSong(page)).parts.at(-1)!;
    expect(part).toMatchObject({ kind: 'notes', program: 81, name: 'Ferry riff' });
    expect(part.passages).toHaveLength(1);
  });

  it('keeps a passage, with key and tempo of its song; taken off, it can be put back', async () => {
    const { page } = app;
    await openDemo(page);
    const row = page.getByTestId('part-row').filter({ hasText: 'Steel guitar' });
    await row.locator('.part-picture').click({ position: { x: 150, y: 30 } });
    await sheet(page).getByRole('button', { name: 'Keep on the shelf' }).click();
    await page.getByText('“Verse” is on the shelf').waitFor();
    await shelfLink(page).click();
    await page.getByText('33 items').waitFor();
    await search(page, 'verse');
    await page.locator('.shelf-table').getByText('Verse', { exact: true }).click();
    await sheet(page).getByText('From Ferry at Six, with its key and tempo there.').waitFor();
    expect(await page.getByLabel('Tempo of the item').inputValue()).toBe('92');
    await page.getByLabel('Name on the shelf').fill('Quay strum');
    await page.getByLabel('Name on the shelf').press('Enter');
    await search(page, 'quay strum');
    await expect.poll(() => namesShown(page)).toEqual(['Quay strum']);
    await page.locator('.shelf-table').getByText('Quay strum').click();
    await page.getByRole('button', { name: 'Take off the shelf' }).click();
    await page.getByText('“Quay strum” is off the shelf').waitFor();
    await page.getByText('0 of 32 shown').waitFor();
    await page.locator('.ant-notification').getByRole('button', { name: 'Undo' }).click();
    await page.getByText('1 of 33 shown').waitFor();
  });

  it('takes files, listens to them, and says in a sentence what it cannot take', async () => {
    const { page } = app;
    const rate = 22_050;
    const samples = new Float32Array(4 * rate);
    for (let beat = 0; beat < 16; beat++)
      for (let n = 0; n < 900; n++)
        samples[Math.round(beat * 0.25 * rate) + n] +=
          (beat % 8 === 0 ? 0.8 : beat % 2 === 0 ? 0.5 : 0.2) * Math.sin(n * 0.4) * Math.exp(-n / 150);
    await page.goto('/shelf');
    await page.getByText('32 items').waitFor();
    await page.getByLabel('Files for the shelf').setInputFiles([
      { name: 'deck clicks.wav', mimeType: 'audio/wav', buffer: Buffer.from(encodeWav([samples], rate, 16)) },
      { name: 'broken.wav', mimeType: 'audio/wav', buffer: Buffer.from('no sound at all') },
    ]);
    await page.getByText('1 of 2 files did not get on the shelf').waitFor();
    await search(page, 'deck clicks');
    await page.getByText('Deck clicks').click();
    await page.getByText(/Found by listening: tempo sure to/).waitFor();
    expect(await page.getByLabel('Tempo of the item').inputValue()).toBe('120');
    await page.getByRole('button', { name: '÷ 2' }).click();
    await expect.poll(() => page.getByLabel('Tempo of the item').inputValue()).toBe('60');
    await page.getByText('As it was said by hand or by its file.').waitFor();
  });

  it('beside the Timeline, an item is dragged to where it goes', async () => {
    const { page } = app;
    await openDemo(page);
    await page.locator('.steps').getByRole('button', { name: 'Shelf' }).click();
    const panel = page.getByRole('complementary', { name: 'Shelf' });
    await panel.getByLabel('Search the shelf').fill('winch');
    const row = page.getByTestId('part-row').filter({ hasText: 'Steel guitar' });
    const box = (await row.locator('.part-picture').boundingBox())!;
    await panel.getByText('Winch line').dragTo(row, { targetPosition: { x: 280 + box.width / 3, y: 30 } });
    await page.getByText(/“Winch line” is in Steel guitar, bars/).waitFor();
    const part = partNamed(await storedSong(page), 'Steel guitar')!;
    const passage = part.passages.find(({ name }) => name === 'Winch line')!;
    expect(passage.startTicks % 960).toBe(0);
    expect(passage.startTicks).toBeGreaterThan(BAR);
    // E minor has the notes of G major.
    expect(passage.key && keyName(passage.key)).toBe('E minor');
    // Notes do not go into a part of recordings: they get one of their own.
    await panel.getByLabel('Search the shelf').fill('gull song');
    await panel.getByText('Gull song').dragTo(row, { targetPosition: { x: 300, y: 30 } });
    await page.getByText(/“Gull song” is in a part of its own/).waitFor();
  });
});
