/** What a song holds over its time and over its parts: changes of key and metre, groups, sections that are moved. */
import type { Locator, Page } from 'playwright-core';
import { describe, expect, it } from 'vitest';
import { keyAt, placedNotes, type NotePart, type RecordingPart, type Song } from '@plundra/core/song';
import { appForEachTest, openDemo, storedSong } from './app.ts';

const app = appForEachTest(undefined, undefined, true);
const BAR = 3840;

const partOf = <P extends RecordingPart | NotePart>(song: Song, name: string) =>
  song.parts.find((part) => part.name === name) as P;
const rowOf = (page: Page, name: string): Locator =>
  page.getByTestId('part-row').filter({ has: page.getByRole('button', { name, exact: true }) });

/** Pixels from the left of the pictures to the start of a bar of the demo before its last two bars: a bar lasts 240/92 s. */
async function barX(page: Page, bar: number): Promise<number> {
  const view = await page.evaluate(() => {
    const ruler = document.querySelector<HTMLElement>('[data-pixels-per-second]')!;
    return { start: Number(ruler.dataset.startSeconds), scale: Number(ruler.dataset.pixelsPerSecond) };
  });
  return ((bar - 1) * (240 / 92) - view.start) * view.scale;
}

describe('a change of key', () => {
  it('moves the music from its bar on, and every place uses the key of its bar', async () => {
    const { page } = app;
    await openDemo(page);
    const before = await storedSong(page);
    await page.getByTestId('ruler').dblclick({ position: { x: (await barX(page, 13)) + 6, y: 12 } });
    await page.getByText('From bar 13 on').waitFor();
    await page.getByLabel('Key from here on').fill('A maj');
    await page.keyboard.press('Enter');
    const asked = page.getByRole('dialog');
    await asked.getByText('at bar 13').last().waitFor();
    await asked.getByText(/Moves: Lead voice, Backing voice/).waitFor();
    await page.getByRole('button', { name: 'Transpose 2 semitones up' }).click();
    await page.getByRole('button', { name: 'Bar 13: A major' }).waitFor();
    const after = await storedSong(page);
    expect([keyAt(after, 12 * BAR - 1)?.fifths, keyAt(after, 12 * BAR)?.fifths]).toEqual([1, 3]);
    const pitches = (song: Song) => placedNotes(partOf<NotePart>(song, 'Synth line'));
    expect(pitches(after).map(({ midi }) => midi)).toEqual(
      pitches(before).map(({ midi, startTicks }) => (startTicks < 12 * BAR ? midi : midi + 2)),
    );
    // A recording that is not read sounds higher as a whole where it is meant, and nowhere else.
    const bass = partOf<RecordingPart>(after, 'Bass');
    expect(
      bass.passages
        .toSorted((a, b) => a.startTicks - b.startTicks)
        .map(({ takeId }) => bass.takes.find(({ id }) => id === takeId)?.stretch?.semitones ?? 0),
    ).toEqual([0, 0, 2, 2]);
    expect(partOf<RecordingPart>(after, 'Hand drum')).toEqual(partOf<RecordingPart>(before, 'Hand drum'));

    // Chords are named by the key of their bar.
    await page.getByRole('link', { name: 'Chords' }).click();
    await page.getByTestId('chord-sheet').getByText('A major').waitFor();
    for (const bar of [1, 13]) {
      await page.locator(`[data-bar="${bar}"]`).click({ position: { x: 20, y: 40 } });
      await page.keyboard.type('D');
      await page.keyboard.press('Enter');
    }
    await page.getByRole('button', { name: 'D, V', exact: true }).waitFor();
    await page.getByRole('button', { name: 'D, IV', exact: true }).waitFor();

    for (let i = 0; i < 3; i++) await page.keyboard.press('Control+z');
    await expect.poll(async () => (await storedSong(page)).parts).toEqual(before.parts);
    expect((await storedSong(page)).keyChanges ?? []).toEqual([]);
  });

  it('can be named only, with a metre at the same bar, and be taken away', async () => {
    const { page } = app;
    await openDemo(page);
    const before = await storedSong(page);
    await page.getByTestId('ruler').dblclick({ position: { x: (await barX(page, 9)) + 6, y: 12 } });
    await page.getByLabel('Beats in a bar from here on').fill('3');
    await page.getByLabel('Beats in a bar from here on').press('Enter');
    await expect.poll(async () => (await storedSong(page)).metreMap.length).toBe(2);
    await page.getByLabel('Key from here on').fill('E min');
    await page.keyboard.press('Enter');
    // E minor has the notes of G major: there is nothing to ask.
    await page.getByRole('button', { name: 'Bar 9: 3/4 · E minor' }).waitFor();
    const { parts, metreMap, keyChanges } = await storedSong(page);
    expect([parts, metreMap[1], keyChanges]).toEqual([
      before.parts,
      { startTicks: 8 * BAR, beats: 3, unit: 4 },
      [{ startTicks: 8 * BAR, key: { fifths: 1, mode: 'minor' } }],
    ]);
    await page.getByRole('button', { name: 'Key as before' }).click();
    await page.getByRole('button', { name: 'Metre as before' }).click();
    await expect.poll(async () => (await storedSong(page)).metreMap).toEqual(before.metreMap);
    expect((await storedSong(page)).keyChanges).toEqual([]);
  });
});

describe('transposing passages', () => {
  it('moves the selected ones only', async () => {
    const { page } = app;
    await openDemo(page);
    const picture = rowOf(page, 'Electric piano').locator('.part-picture');
    await picture.click({ position: { x: (await barX(page, 7)) + 4, y: 40 } });
    // Two clicks so close that the sheet is not painted between them: the second acts on what the first one made.
    const up = page.getByRole('button', { name: 'Transpose an octave up' });
    await up.evaluate(async (button: HTMLButtonElement) => {
      const down = document.querySelector<HTMLButtonElement>('[aria-label="Transpose a semitone down"]')!;
      button.click();
      await Promise.resolve();
      down.click();
    });
    await expect
      .poll(async () => {
        const { passages, takes } = partOf<RecordingPart>(await storedSong(page), 'Electric piano');
        return passages
          .toSorted((a, b) => a.startTicks - b.startTicks)
          .map(({ takeId }) => takes.find(({ id }) => id === takeId)?.stretch?.semitones ?? 0);
      })
      .toEqual([0, 11, 0, 0]);
    // The same passage is still selected, and drums offer nothing of the kind.
    await page.getByRole('heading', { name: 'Verse' }).waitFor();
    const drum = rowOf(page, 'Hand drum').locator('.part-picture');
    await drum.scrollIntoViewIfNeeded();
    await drum.click({ position: { x: (await barX(page, 7)) + 4, y: 40 } });
    await page.getByText('of Hand drum').waitFor();
    expect(await page.getByRole('button', { name: 'Transpose an octave up' }).count()).toBe(0);
  });
});

describe('a group of parts', () => {
  it('folds, is soloed, takes a part in and lets it go', async () => {
    const { page } = app;
    await openDemo(page);
    const rows = page.getByTestId('part-row');
    await page.getByRole('button', { name: 'Fold Lead line' }).click();
    await expect.poll(() => rows.count()).toBe(6);
    await page.getByLabel('Lead line, folded: 2 parts').waitFor();
    // It is how this browser looks at the song, also after a reload.
    await page.reload();
    await page.getByRole('button', { name: 'Unfold Lead line' }).click();
    await expect.poll(() => rows.count()).toBe(8);

    await page.getByRole('button', { name: 'Solo Lead line' }).click();
    await expect.poll(async () => (await storedSong(page)).groups?.[0].solo).toBe(true);
    const heard = () =>
      rows.evaluateAll((all) =>
        all
          .filter((row) => getComputedStyle(row).opacity === '1')
          .map((row) => row.querySelector('.name')?.getAttribute('aria-label')),
      );
    await expect.poll(heard).toEqual(['Lead guitar', 'Synth line']);

    // Up by a key: from below into the group, behind its last part.
    const groupOf = async (name: string) =>
      (await storedSong(page)).parts.find((part) => part.name === name)!.group;
    await rowOf(page, 'Steel guitar').locator('.mark').click();
    await page.keyboard.press('Alt+ArrowUp');
    await expect.poll(() => groupOf('Steel guitar')).toBe('demo-guitars');
    await expect.poll(heard).toEqual(['Lead guitar', 'Steel guitar', 'Synth line']);
    await page.getByLabel('Group of the part').click();
    await page.locator('.ant-select-item-option').filter({ hasText: 'None' }).click();
    await expect.poll(() => groupOf('Steel guitar')).toBeUndefined();
    // A part that leaves from between stands below the group; Ctrl+Z brings it back.
    await page.keyboard.press('Control+z');
    await expect.poll(() => groupOf('Steel guitar')).toBe('demo-guitars');

    await page.getByTestId('group-row').locator('.name').click();
    await page.getByRole('button', { name: 'Ungroup' }).click();
    await expect.poll(async () => (await storedSong(page)).groups).toEqual([]);
    expect(await page.getByTestId('group-row').count()).toBe(0);
  });
});

describe('a section', () => {
  it('is dragged to another bar with everything in it, and back by undo', async () => {
    const { page } = app;
    await openDemo(page);
    const before = await storedSong(page);
    const chorus = page.getByRole('button', { name: 'Section Chorus' });
    const box = (await chorus.boundingBox())!;
    const by = (await barX(page, 5)) - (await barX(page, 13));
    await page.mouse.move(box.x + 30, box.y + 8);
    await page.mouse.down();
    await page.mouse.move(box.x + 30 + by / 2, box.y + 8, { steps: 4 });
    await page.mouse.move(box.x + 30 + by, box.y + 8, { steps: 4 });
    await page.mouse.up();
    await expect
      .poll(async () =>
        (await storedSong(page)).sections!.map(({ name, startTicks }) => [name, startTicks / BAR + 1]),
      )
      .toEqual([
        ['Intro', 1],
        ['Chorus', 5],
        ['Verse', 11],
        ['Coda', 19],
      ]);
    // Letting go opened nothing.
    expect(await page.getByLabel('Name of the section').count()).toBe(0);
    const after = await storedSong(page);
    const places = (name: string) =>
      partOf<RecordingPart>(after, name)
        .passages.toSorted((a, b) => a.startTicks - b.startTicks)
        .map((passage) => [passage.name, passage.startTicks / BAR + 1]);
    expect(places('Bass')).toEqual([
      ['Intro', 1],
      ['Chorus', 5],
      ['Verse', 11],
      ['Coda', 19],
    ]);
    await page.keyboard.press('Control+z');
    await expect.poll(async () => (await storedSong(page)).parts).toEqual(before.parts);
    // By a key it goes a bar at a time.
    await chorus.press('Alt+ArrowLeft');
    await expect
      .poll(async () => (await storedSong(page)).sections!.find(({ name }) => name === 'Chorus')!.startTicks)
      .toBe(11 * BAR);
  });
});
