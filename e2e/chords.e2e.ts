/** The chords of a song: read, corrected, tried, made a part. */
import type { Page } from 'playwright-core';
import { describe, expect, it } from 'vitest';
import { appForEachTest, newSong, openDemo, saved } from './app.ts';

const app = appForEachTest();

const chords = (page: Page) => page.getByTestId('chord-sheet').getByRole('button');
const names = async (page: Page) =>
  (await chords(page).evaluateAll((all) => all.map((each) => each.getAttribute('aria-label')!))).map(
    (label) => label.replace(/,.*/, ''),
  );

/** Chooses what chords are read from, and reads them. */
async function readFrom(page: Page, ...parts: string[]): Promise<void> {
  const list = page.locator('.chords-tools .ant-select').first();
  const remove = list.locator('.ant-select-selection-item-remove');
  for (let left = await remove.count(); left > 0; left--) {
    await remove.first().click();
    await expect.poll(() => remove.count()).toBe(left - 1);
  }
  const open = page.locator('.ant-select-dropdown:not(.ant-select-dropdown-hidden)');
  // Taking a name out may have opened the list; a click on it would close it again.
  await page.keyboard.press('Escape');
  await open.waitFor({ state: 'hidden' });
  await list.click();
  await open.waitFor();
  // While it slides open a click may miss.
  await expect.poll(() => page.locator('.ant-select-dropdown[class*="ant-slide-up"]').count()).toBe(0);
  for (const [i, name] of parts.entries()) {
    const option = page.locator('.ant-select-item-option').getByText(name, { exact: true });
    // A long list shows its end when it is scrolled there.
    if ((await option.count()) === 0) {
      await open.hover();
      await page.mouse.wheel(0, 2000);
    }
    await option.click();
    await expect.poll(() => remove.count()).toBe(i + 1);
  }
  await page.keyboard.press('Escape');
  await open.waitFor({ state: 'hidden' });
  await page.getByRole('button', { name: 'Read chords' }).click();
  await page
    .getByRole('heading', {
      name: `Read from ${parts.length === 1 ? parts[0] : `${parts.length} recordings`}`,
    })
    .waitFor();
}

/** Clicks a later beat of a chord, which chooses that beat. */
const ON_NAME = { position: { x: 14, y: 22 } };
const take = (page: Page) => page.getByRole('button', { name: 'Take as the song’s chords' }).click();

describe('the chords of the demo song', () => {
  it('are read, corrected, tried and made a part', async () => {
    const { page } = app;
    await openDemo(page);
    await page.getByRole('link', { name: 'Chords', exact: true }).click();
    await page.getByText(/No chords yet/).waitFor();
    await readFrom(page, 'Lead guitar');
    await page.getByText(/No chords were found in Lead guitar/).waitFor();
    await page.getByRole('button', { name: 'Close' }).click();
    // Guitar and keys together; nothing is changed until it is taken, and the report says what would move.
    await readFrom(page, 'Electric piano', 'Steel guitar');
    await page.getByText(/G major, \d+ %/).waitFor();
    await page.getByText('Every boundary lies on beats already.').waitFor();
    await page.getByText('As played', { exact: true }).click();
    await page.getByText('Every boundary stays where it was played.').waitFor();
    await page.getByLabel('Boundaries').getByText('Beats', { exact: true }).click();
    expect(await page.getByRole('button', { name: 'Undo' }).isDisabled()).toBe(true);
    await take(page);
    // The first eight bars of "Ferry at Six", as both play them.
    expect((await names(page)).slice(0, 8)).toEqual(['G', 'C', 'G', 'D', 'G', 'Em', 'C', 'D']);

    // Another reading at a click, then a typed one; a wrong spelling is explained and changes nothing.
    await chords(page).nth(5).click(ON_NAME);
    const others = page.locator('.side-sheet .chord-choices').first();
    const taken = (await others.getByRole('button').first().getAttribute('title'))!.replace(/.* · /, '');
    await others.getByRole('button').first().click();
    await expect.poll(async () => (await names(page))[5]).toBe(taken);
    const field = page.getByRole('textbox', { name: 'Chord' });
    await expect.poll(async () => (await field.inputValue()).replace('b', '♭').replace('#', '♯')).toBe(taken);
    await field.fill('Emaj#9x');
    await page
      .getByRole('alert')
      .getByText(/“x” in “Emaj#9x” is not understood/)
      .waitFor();
    await field.fill('E7(b9)/G#');
    await field.press('Enter');
    await expect.poll(async () => (await names(page))[5]).toBe('E7(♭9)/G♯');
    await page.keyboard.press('Control+z');
    await expect.poll(async () => (await names(page))[5]).toBe(taken);
    // Escape leaves nothing chosen: then the whole song is meant.
    await page.keyboard.press('Escape');
    await page.getByRole('heading', { name: 'Who follows' }).waitFor();

    // Something else: a click says why and is heard in its place, a second takes it.
    await chords(page).nth(6).click(ON_NAME);
    const map = page.getByRole('group', { name: 'Chord map' });
    const before = (await names(page))[6];
    await map.locator('.from-elsewhere').first().click();
    await page.getByText(/borrowed.*Tried in its place; click again to take it/).waitFor();
    // The sheet shows it in its place, as tried.
    await page.locator('.chord-box.tried').waitFor();
    const tried = (await names(page))[6];
    expect(tried).not.toBe(before);
    await page.getByRole('button', { name: 'Hear it in its place' }).click();
    await expect.poll(() => page.getByTestId('position').textContent()).toMatch(/^6\./);
    await page.getByRole('button', { name: 'Stop', exact: true }).click();
    await page.getByRole('button', { name: 'Leave it' }).click();
    await expect.poll(async () => (await names(page))[6]).toBe(before);
    await map.locator('.from-elsewhere').first().click();
    await map.locator('.ant-btn-primary').click();
    await expect.poll(async () => (await names(page))[6]).toBe(tried);
    expect(await page.locator('.chord-box.tried').count()).toBe(0);

    // Split, merge, copy, paste, remove.
    const count = await chords(page).count();
    await chords(page).nth(0).click(ON_NAME);
    await page.getByRole('button', { name: 'Split' }).click();
    await expect.poll(() => chords(page).count()).toBe(count + 1);
    await page.getByRole('button', { name: 'Merge with next' }).click();
    await expect.poll(() => chords(page).count()).toBe(count);
    await chords(page).nth(0).click(ON_NAME);
    await chords(page)
      .nth(1)
      .click({ modifiers: ['Shift'] });
    await page.keyboard.press('Control+c');
    await chords(page).nth(2).click(ON_NAME);
    await page.keyboard.press('Control+v');
    await expect.poll(async () => (await names(page)).slice(2, 4)).toEqual(['G', 'C']);

    // Dragged to another beat, and back by undo; a bar put in and taken out; a section that begins a row.
    const placed = await names(page);
    const start = (await chords(page).nth(1).boundingBox())!;
    await page.mouse.move(start.x + 20, start.y + 20);
    await page.mouse.down();
    await page.mouse.move(start.x + start.width * 0.6, start.y + 20, { steps: 6 });
    await page.mouse.up();
    await expect.poll(async () => (await chords(page).nth(1).boundingBox())!.x).toBeGreaterThan(start.x + 50);
    await page.keyboard.press('Control+z');
    await expect.poll(async () => (await chords(page).nth(1).boundingBox())!.x).toBeLessThan(start.x + 5);
    await chords(page).nth(4).click(ON_NAME);
    // The recordings begin before bar 5 and go on.
    await page.getByText(/^Lead voice, .* sound across the place and will be cut there/).waitFor();
    await page.getByRole('button', { name: 'Insert a bar before' }).click();
    await page.locator('[data-bar="5"]').locator('.chord-held').waitFor();
    await page.getByRole('button', { name: 'Remove bar 5', exact: true }).click();
    await expect.poll(() => names(page)).toEqual(placed);
    await page.getByText('Chords only').click();
    await expect.poll(() => page.getByText(/will be cut there/).count()).toBe(0);
    await page.getByLabel('How many bars').fill('2');
    await page.getByRole('button', { name: 'Insert 2 bars before' }).click();
    await page.locator('[data-bar="6"]').locator('.chord-held').waitFor();
    await page.keyboard.press('Control+z');
    await expect.poll(() => names(page)).toEqual(placed);
    await page.getByLabel('Section').fill('Chorus');
    await page.getByLabel('Section').press('Enter');
    await page.getByRole('heading', { name: 'Chorus' }).waitFor();
    // The field says what is there, also when bars move it away.
    await page.getByRole('button', { name: 'Insert 2 bars before' }).click();
    await expect.poll(() => page.getByLabel('Section').inputValue()).toBe('');
    await page.keyboard.press('Control+z');
    await expect.poll(() => page.getByLabel('Section').inputValue()).toBe('Chorus');
    await saved(page);

    await page.keyboard.press('Escape');
    await page.getByRole('link', { name: 'Timeline' }).click();
    await page.getByTestId('part-row').first().waitFor();
    await page.getByRole('link', { name: 'Chords', exact: true }).click();
    await page.getByTestId('chord-sheet').waitFor();
    // The synth line goes with a changed chord; what was written stays.
    await page.getByLabel('Synth line follows').click();
    await page.getByText(/Nothing moves yet/).waitFor();
    await chords(page).nth(1).click(ON_NAME);
    await field.fill('Cm');
    await field.press('Enter');
    await page.getByRole('link', { name: 'Timeline' }).click();
    await page.getByTestId('part-row').first().waitFor();
    await page.getByRole('link', { name: 'Chords', exact: true }).click();
    await page.getByTestId('chord-sheet').waitFor();
    await page.getByRole('button', { name: 'Synth line', exact: true }).click();
    await page.getByText(/E5 → E♭5/).waitFor();
    await page.getByLabel('Following, in the whole song').click();
    await page.getByLabel('Following, in the whole song').click();
    await page.getByRole('button', { name: 'Make it permanent' }).click();
    await expect.poll(() => page.getByLabel('Synth line follows').getAttribute('aria-checked')).toBe('false');
    await page.getByRole('button', { name: 'Undo' }).click();
    await expect.poll(() => page.getByLabel('Synth line follows').getAttribute('aria-checked')).toBe('true');
    await page.getByLabel('Voicing').click();
    await page.getByTitle('Guitar, six strings', { exact: true }).click();
    await page.getByLabel('Rhythm', { exact: true }).click();
    await page.getByTitle('Strummed eighths', { exact: true }).click();
    await page.getByRole('button', { name: /Make a part of \d{3,} notes/ }).click();
    await page.waitForURL(/\/notes\//);
    await page.getByLabel(/Notes on a canvas, \d{3}/).waitFor();
    await saved(page);
    await page.reload();
    await page.getByLabel(/Notes on a canvas, \d{3}/).waitFor();

    // The part that was made says the same chords again, read from its notes.
    await page.getByRole('link', { name: 'Chords', exact: true }).click();
    await chords(page).first().waitFor();
    const made = await names(page);
    await readFrom(page, 'Chords · Steel guitar');
    // A voicing may have another note below.
    const again = (await names(page)).map((name) => name.replace(/\/.*/, ''));
    // All in their order; a chord of half a bar may have gone into its neighbour, and silence is not played.
    let at = 0;
    for (const name of again) at = made.indexOf(name, at) + 1 || Infinity;
    expect(at).toBeLessThanOrEqual(made.length);
    expect(again.length).toBeGreaterThanOrEqual(made.length - 3);
    await page.getByRole('button', { name: 'Leave it' }).click();

    // A recording keeps its own; they can be taken later.
    await readFrom(page, 'Electric piano');
    // It was played to the song's beats; those that are heard in it lie elsewhere, and have a tempo of their own.
    const over = page.getByLabel('Beats that it was read over');
    const chosen = over.locator('.ant-segmented-item-selected');
    await expect.poll(() => chosen.textContent()).toBe('The song’s');
    await page.getByText('Every boundary lies on beats already.').waitFor();
    await over.getByText('As heard').click();
    await page.getByLabel('Metre that was read').waitFor();
    await page.getByText(/boundaries move to beats, furthest \d+ ms/).waitFor();
    await over.getByText('The song’s').click();
    await page.getByText('Every boundary lies on beats already.').waitFor();
    await page.getByRole('button', { name: 'Keep as the recording’s own' }).click();
    await page.getByRole('button', { name: 'Its own chords' }).click();
    await take(page);
    await expect.poll(async () => (await names(page)).slice(0, 4)).toEqual(['G', 'C', 'G', 'D']);
    await saved(page);
  });
});

describe('an empty song', () => {
  it('is given chords by typing, bar by bar', async () => {
    const { page } = app;
    await newSong(page, 'Quay');
    await page.getByRole('link', { name: 'Chords', exact: true }).click();
    await page.getByTestId('chord-sheet').waitFor();
    await page
      .locator('.chord-bar')
      .first()
      .click({ position: { x: 20, y: 50 } });
    const field = page.getByRole('textbox', { name: 'Chord' });
    // Letters open the field, B like any other; Enter goes to the next bar.
    for (const symbol of ['Dm', 'Bb', 'A7', 'B7']) await page.keyboard.type(`${symbol}\n`);
    await expect.poll(() => names(page)).toEqual(['Dm', 'B♭', 'A7', 'B7']);
    // From a beat to the next beat; a click on a later beat of a chord chooses that beat.
    const first = (await page.locator('.chord-bar').first().boundingBox())!;
    await page.mouse.click(first.x + first.width * 0.6, first.y + 50);
    await page.getByText('Bar 1, beat 3').waitFor();
    await page.keyboard.type('Gm\n');
    await page.getByText('Bar 1, beat 4').waitFor();
    await expect.poll(() => names(page)).toEqual(['Dm', 'Gm', 'B♭', 'A7', 'B7']);
    await page.keyboard.press('Control+a');
    await page.getByRole('heading', { name: '5 chords' }).waitFor();
    // Beside the bars nothing is chosen; a double click types.
    await page.locator('.chords-scroll').click({ position: { x: 300, y: 400 } });
    await page.getByText('Click a bar or a beat').waitFor();
    await page.locator('.chord-bar').nth(5).dblclick();
    await page.keyboard.type('C\n');
    await expect.poll(() => names(page)).toEqual(['Dm', 'Gm', 'B♭', 'A7', 'B7', 'C']);
    await page.keyboard.press('Control+z');
    await expect.poll(() => names(page)).toHaveLength(5);
    await expect.poll(() => field.count()).toBe(1);
    await page.getByText('Alone', { exact: true }).click();
    await page.keyboard.press('Home');
    await page.keyboard.press(' ');
    await page.locator('.chord-box.playing').first().waitFor();
    await page.keyboard.press(' ');
    await saved(page);
  });
});
