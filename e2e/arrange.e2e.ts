/** Arranging on the Timeline with the pointer and with keys, and one part over all of its passages in Notes. */
import type { Locator, Page } from 'playwright-core';
import type { NotePart, RecordingPart, Song } from '../core/src/song/index.ts';
import { describe, expect, it } from 'vitest';
import {
  appForEachTest,
  noteCount,
  openDemo,
  readPart,
  selectedCount,
  tapOutput,
  storedSong,
} from './app.ts';

const app = appForEachTest((page) => tapOutput(page));
const BAR = 3840;

const partOf = <P extends RecordingPart | NotePart>(song: Song, name: string) =>
  song.parts.find((part) => part.name === name) as P;
/** Start in bars from 0 and length in seconds of each passage, in order of their start. */
async function placesOf(page: Page, name: string): Promise<number[][]> {
  const { passages } = partOf<RecordingPart>(await storedSong(page), name);
  return passages
    .toSorted((a, b) => a.startTicks - b.startTicks)
    .map(({ startTicks, durationSeconds }) => [startTicks / BAR, Math.round(durationSeconds * 100) / 100]);
}

const pictureOf = (page: Page, name: string): Locator =>
  page
    .getByTestId('part-row')
    .filter({ has: page.getByRole('button', { name, exact: true }) })
    .locator('.part-picture');

/** Bars on the Timeline of the demo, where they are now: it has 20, and a bar lasts 240/92 s. */
async function barX(page: Page, name: string, bar: number): Promise<{ x: number; y: number }> {
  await pictureOf(page, name).scrollIntoViewIfNeeded();
  const box = (await pictureOf(page, name).boundingBox())!;
  const view = await page.evaluate(() => {
    const ruler = document.querySelector<HTMLElement>('[data-pixels-per-second]')!;
    return { start: Number(ruler.dataset.startSeconds), scale: Number(ruler.dataset.pixelsPerSecond) };
  });
  return { x: box.x + ((bar - 1) * (240 / 92) - view.start) * view.scale, y: box.y + box.height / 2 };
}

async function drag(page: Page, from: { x: number; y: number }, to: { x: number; y: number }): Promise<void> {
  await page.mouse.move(from.x, from.y);
  await page.mouse.down();
  await page.mouse.move((from.x + to.x) / 2, to.y, { steps: 4 });
  await page.mouse.move(to.x, to.y, { steps: 4 });
  await page.mouse.up();
}

const undo = (page: Page) => page.keyboard.press('Control+z');

describe('passages', () => {
  it('are cut, moved, joined, trimmed and faded, and each step can be taken back', async () => {
    const { page } = app;
    await openDemo(page);
    const whole = await placesOf(page, 'Lead voice');
    const at = (bar: number) => barX(page, 'Lead voice', bar);
    const cutAt = async (bar: number) => {
      const { x, y } = await at(bar);
      await page.keyboard.press('Escape');
      await page.mouse.move(x, y);
      await page.keyboard.press('x');
    };
    await page.getByRole('button', { name: 'Zoom out' }).click();
    await pictureOf(page, 'Lead voice').hover();
    await page.mouse.click((await at(3)).x, (await at(3)).y);
    await page.getByRole('heading', { name: 'Passage', exact: true }).waitFor();
    await cutAt(9);
    await cutAt(13);
    const bar = 240 / 92;
    await expect
      .poll(() => placesOf(page, 'Lead voice'))
      .toEqual([
        [0, expect.closeTo(8 * bar, 1)],
        [8, expect.closeTo(4 * bar, 1)],
        [12, expect.closeTo(whole[0][1] - 12 * bar, 1)],
      ]);

    // The middle one behind the last, on a bar.
    await page.keyboard.press('Escape');
    await drag(page, await at(11), await at(26.1));
    await expect
      .poll(async () => (await placesOf(page, 'Lead voice')).map(([start]) => start))
      .toEqual([0, 12, 23]);
    await undo(page);
    await expect
      .poll(async () => (await placesOf(page, 'Lead voice')).map(([start]) => start))
      .toEqual([0, 8, 12]);

    // All three are one again.
    await page.keyboard.press('Escape');
    await page.mouse.click((await at(3)).x, (await at(3)).y);
    await page.keyboard.down('Shift');
    await page.mouse.click((await at(11)).x, (await at(11)).y);
    await page.mouse.click((await at(15)).x, (await at(15)).y);
    await page.keyboard.up('Shift');
    await page.getByRole('heading', { name: '3 passages' }).waitFor();
    await page.keyboard.press('j');
    await expect.poll(() => placesOf(page, 'Lead voice')).toEqual(whole);

    // Its start is trimmed to where the voice comes in, and what is hidden comes back.
    const edge = await at(1);
    await drag(page, { x: edge.x + 2, y: edge.y }, { x: (await at(5)).x + 2, y: edge.y });
    await expect
      .poll(() => placesOf(page, 'Lead voice'))
      .toEqual([[4, expect.closeTo(whole[0][1] - 4 * bar, 1)]]);
    await page.getByLabel('Fade in').fill('0.5');
    await page.keyboard.press('Enter');
    await page.getByLabel('Level of the passage').fill('-6');
    await page.keyboard.press('Enter');
    await expect
      .poll(async () => partOf<RecordingPart>(await storedSong(page), 'Lead voice').passages)
      .toMatchObject([{ fadeInSeconds: 0.5, gainDb: -6 }]);
    for (let i = 0; i < 3; i++) await undo(page);
    await expect.poll(() => placesOf(page, 'Lead voice')).toEqual(whole);
  });

  it('that cannot be joined say why, and what is dragged against its neighbour stops there', async () => {
    const { page } = app;
    await openDemo(page);
    await page.mouse.click((await barX(page, 'Bass', 3)).x, (await barX(page, 'Bass', 3)).y);
    await page.keyboard.press('Control+d');
    await expect.poll(() => placesOf(page, 'Bass')).toHaveLength(2);
    await page.keyboard.press('Control+a');
    await page.getByRole('heading', { name: '9 passages' }).waitFor();
    await page.keyboard.press('j');
    await page.getByText(/can be joined\. Move them together first/).waitFor();
    await expect.poll(() => placesOf(page, 'Bass')).toHaveLength(2);
  });

  it('are repeated to a bar, with the hand drum following the tempo by its beats', async () => {
    const { page } = app;
    await openDemo(page);
    const at = (bar: number) => barX(page, 'Hand drum', bar);
    // Four bars of it, from bar 1.
    await page.mouse.move((await at(5)).x, (await at(5)).y);
    await page.mouse.click((await at(2)).x, (await at(2)).y);
    await page.mouse.move((await at(5)).x, (await at(5)).y);
    await page.keyboard.press('x');
    await expect.poll(() => placesOf(page, 'Hand drum')).toHaveLength(2);
    await page.keyboard.press('Delete');
    await expect.poll(() => placesOf(page, 'Hand drum')).toHaveLength(1);
    await page.mouse.click((await at(2)).x, (await at(2)).y);
    await page.getByLabel('Repeat until bar').fill('19');
    await page.getByRole('button', { name: 'Repeat', exact: true }).click();
    const bar = 240 / 92;
    await expect
      .poll(() => placesOf(page, 'Hand drum'))
      .toEqual([0, 4, 8, 12, 16].map((start) => [start, expect.closeTo((start === 16 ? 2 : 4) * bar, 1)]));
    // A copy is muted, and named.
    await page.mouse.click((await at(10)).x, (await at(10)).y);
    await page.getByRole('textbox', { name: 'Name of the passage' }).fill('Break');
    await page.keyboard.press('Enter');
    await page.getByRole('switch', { name: 'Passage muted' }).click();
    await expect
      .poll(async () =>
        partOf<RecordingPart>(await storedSong(page), 'Hand drum').passages.find(
          ({ startTicks }) => startTicks === 8 * BAR,
        ),
      )
      .toMatchObject({ name: 'Break', muted: true });
    await page.keyboard.press('Escape');
    await page.mouse.click((await at(14)).x, (await at(14)).y, { button: 'right' });
    await page.getByRole('menuitem', { name: /Select everything from here on/ }).click();
    await page.getByRole('heading', { name: '2 passages' }).waitFor();
    await page.keyboard.press('ArrowRight');
    await expect
      .poll(async () => (await placesOf(page, 'Hand drum')).map(([start]) => start).slice(3))
      .toEqual([12.5, 16.5]);
  });

  it('are chosen by a rectangle, and Escape takes a drag back', async () => {
    const { page } = app;
    await openDemo(page);
    await page.getByRole('button', { name: 'Zoom out' }).click();
    const [from, to] = [await barX(page, 'Lead voice', 24), await barX(page, 'Lead guitar', 20)];
    await drag(page, from, to);
    await page.getByRole('heading', { name: '3 passages' }).waitFor();
    // A click among them is meant for one; with Ctrl it adds or takes away.
    const clickOn = async (name: string) => {
      const { x, y } = await barX(page, name, 3);
      await page.mouse.click(x, y);
    };
    const selected = (heading: string) => page.getByRole('heading', { name: heading, exact: true }).waitFor();
    await clickOn('Backing voice');
    await selected('Passage');
    await page.keyboard.down('Control');
    await clickOn('Lead voice');
    await selected('2 passages');
    await clickOn('Backing voice');
    await page.keyboard.up('Control');
    await selected('Passage');
    await page.getByText('of Lead voice', { exact: true }).waitFor();
    const start = await barX(page, 'Bass', 3);
    await page.mouse.move(start.x, start.y);
    await page.mouse.down();
    await page.mouse.move(start.x + 90, start.y, { steps: 4 });
    await page.keyboard.press('Escape');
    await page.mouse.up();
    expect((await placesOf(page, 'Bass'))[0][0]).toBe(0);
  });

  it('make room for bars that are put in by a double click on the ruler', async () => {
    const { page } = app;
    await openDemo(page);
    const { x } = await barX(page, 'Lead voice', 1);
    const ruler = (await page.getByTestId('ruler').boundingBox())!;
    await page.mouse.dblclick(x + 6, ruler.y + 10);
    await page.getByLabel('How many bars').fill('4');
    await page.getByLabel('How many bars').press('Enter');
    await page.getByRole('button', { name: 'Insert 4 bars before' }).click();
    await expect.poll(async () => (await placesOf(page, 'Bass'))[0][0]).toBe(4);
    await page.getByLabel('How many bars').waitFor({ state: 'hidden' });
    await undo(page);
    await expect.poll(async () => (await placesOf(page, 'Bass'))[0][0]).toBe(0);
  });
});

describe('a part of several passages', () => {
  it('is one in Notes: read once, selected, tuned and pulled across its passages', async () => {
    const { page } = app;
    await openDemo(page);
    await readPart(page, 'Backing voice');
    const count = await noteCount(page);
    await page.getByRole('link', { name: 'Timeline' }).click();
    await page.getByTestId('part-row').first().waitFor();
    const at = (bar: number) => barX(page, 'Backing voice', bar);
    await page.mouse.move((await at(13)).x, (await at(13)).y);
    await page.keyboard.press('x');
    await expect.poll(() => placesOf(page, 'Backing voice')).toHaveLength(2);
    await page.getByRole('textbox', { name: 'Start of the passage' }).fill('33');
    await page.keyboard.press('Enter');
    await expect.poll(async () => (await placesOf(page, 'Backing voice'))[1][0]).toBe(32);
    // Once more, as a copy with notes of its own.
    await page.keyboard.press('Control+d');
    await page.getByRole('button', { name: 'Open in Notes' }).click();
    await page.waitForURL(/passage=/);
    await page.getByTestId('line-canvas').waitFor();
    await expect.poll(() => noteCount(page)).toBeGreaterThan(count);
    const all = await noteCount(page);
    await page.getByTestId('step-tune').click();
    await page.getByText(`For all ${all} notes.`).waitFor();
    await page.getByRole('button', { name: 'Pull to the rails' }).click();
    const notes = async () =>
      partOf<RecordingPart>(await storedSong(page), 'Backing voice').takes.flatMap(({ line }) => line!.notes);
    await expect
      .poll(async () => (await notes()).filter(({ target }) => target?.centre === 1).length)
      .toBe(all);
    await undo(page);
    await expect.poll(async () => (await notes()).filter(({ target }) => target).length).toBe(0);
    // A selection over both reaches both.
    await page.getByTestId('step-clean').click();
    await page.getByTestId('line-canvas').focus();
    await page.keyboard.press('Control+a');
    expect(await selectedCount(page)).toBe(all);
    await page.keyboard.press('ArrowUp');
    const renamed = async () =>
      (await notes()).filter(({ namedMidi, midi }) => Math.abs((namedMidi ?? midi) - midi) > 0.4).length;
    await expect.poll(renamed).toBe(all);
    await undo(page);
    // One note part of all of it, each passage where it lies.
    await page.getByTestId('step-use').click();
    await page.getByRole('button', { name: /Make a note part/ }).click();
    await page.waitForURL(/notes\/(?!.*passage)/);
    const song = await storedSong(page);
    const made = song.parts.find(
      (part): part is NotePart => part.kind === 'notes' && part.name.startsWith('Backing voice'),
    )!;
    expect(made.passages).toHaveLength(3);
    expect(made.passages.map(({ startTicks }) => startTicks / BAR)).toContain(32);
  });

  it('sounds where its passages lie, also when one is moved while it plays', async () => {
    const { page } = app;
    await openDemo(page);
    const heard = (seconds: number) =>
      page.evaluate(async (time) => {
        const { ears } = window as unknown as { ears?: AnalyserNode[] };
        const data = new Float32Array(8192);
        let most = 0;
        const end = performance.now() + time * 1000;
        while (performance.now() < end) {
          ears?.[0].getFloatTimeDomainData(data);
          most = Math.max(most, Math.sqrt(data.reduce((sum, value) => sum + value * value, 0) / data.length));
          await new Promise((resolve) => setTimeout(resolve, 40));
        }
        return most;
      }, seconds);
    await page.getByRole('button', { name: 'Solo Bass', exact: true }).click();
    const at = await barX(page, 'Bass', 3);
    await page.mouse.click(at.x, at.y);
    // Eight bars later: the song begins with nothing.
    await page.getByRole('textbox', { name: 'Start of the passage' }).fill('9');
    await page.keyboard.press('Enter');
    await expect.poll(async () => (await placesOf(page, 'Bass'))[0][0]).toBe(8);
    await page.getByRole('button', { name: 'Play', exact: true }).click();
    await page.getByRole('button', { name: 'Stop' }).waitFor();
    expect(await heard(0.8)).toBeLessThan(0.001);
    await page.getByRole('textbox', { name: 'Start of the passage' }).fill('1');
    await page.keyboard.press('Enter');
    expect(await heard(1.2)).toBeGreaterThan(0.01);
    await page.getByRole('switch', { name: 'Passage muted' }).click();
    await page.waitForTimeout(400);
    expect(await heard(0.6)).toBeLessThan(0.002);
    await page.getByRole('button', { name: 'Stop' }).click();
  });
});

describe('an action', () => {
  it('is found by its name or by that of the trade, and done by Enter', async () => {
    const { page } = app;
    await openDemo(page);
    const search = page.getByRole('combobox', { name: 'Find an action' });
    const find = async (typed: string) => {
      await page.keyboard.press('Control+k');
      await search.waitFor();
      await expect.poll(() => search.evaluate((element) => element === document.activeElement)).toBe(true);
      await page.keyboard.type(typed);
    };
    await find('regions');
    await page.keyboard.press('Enter');
    await page.getByRole('heading', { name: '8 passages' }).waitFor();
    await find('clone pass');
    await page.locator('.ant-select-item-option').getByText('Duplicate the selected passages').waitFor();
    await page.keyboard.press('Enter');
    await expect.poll(() => placesOf(page, 'Bass')).toHaveLength(2);
    // What cannot be done now is shown, and does nothing.
    await page.keyboard.press('Escape');
    await find('glue');
    await page.keyboard.press('Enter');
    expect(await search.isVisible()).toBe(true);
    await page.keyboard.press('Escape');
    await search.waitFor({ state: 'hidden' });
    // Also from a field, and to another place.
    await page.getByRole('button', { name: 'Bass', exact: true }).click();
    await page.waitForURL(/notes\//);
    await find('zzz');
    await page.getByText(/Nothing here is called that/).waitFor();
    await page.keyboard.press('Escape');
    await find('arrange');
    await page.keyboard.press('Enter');
    await page.waitForURL(/timeline$/);
    await expect.poll(() => placesOf(page, 'Bass')).toHaveLength(2);
  });
});
