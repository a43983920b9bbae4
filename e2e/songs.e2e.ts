/** Songs, parts, files that are no good, two windows, a server that goes away. */
import { describe, expect, it } from 'vitest';
import { toneFile } from '../server/src/test/helpers.ts';
import { appForEachTest, newSong, openDemo, readPart, saved, storedSong } from './app.ts';

const app = appForEachTest();

const importFile = (name: string, buffer: Buffer) =>
  app.page
    .getByLabel('Recordings, MIDI files or scores')
    .setInputFiles({ name, mimeType: 'application/octet-stream', buffer });

describe('songs', () => {
  it('are listed, renamed, duplicated, deleted and brought back', async () => {
    const { page } = app;
    await page.goto('/');
    await page.getByText('No songs yet').waitFor();
    await newSong(page, 'Harbour light');
    await page.getByText('An empty song').waitFor();
    await page.getByRole('link', { name: 'All songs' }).click();
    await page.getByRole('button', { name: 'Rename Harbour light' }).click();
    await page.getByLabel('Title of the song').fill('Pier seven');
    await page.getByRole('dialog').getByRole('button', { name: 'Rename' }).click();
    await page.getByRole('link', { name: 'Pier seven' }).waitFor();
    await page.getByRole('button', { name: 'Duplicate Pier seven' }).click();
    await page.getByRole('link', { name: 'Pier seven (copy)' }).waitFor();
    await page.getByRole('button', { name: 'Delete Pier seven', exact: true }).click();
    await page.getByText('“Pier seven” is in the bin').waitFor();
    await expect.poll(() => page.getByRole('link', { name: 'Pier seven', exact: true }).count()).toBe(0);
    await page.getByRole('button', { name: 'Undo' }).click();
    await page.getByRole('link', { name: 'Pier seven', exact: true }).waitFor();
  });

  it('keep tempo, metre and key, and undo them after a reload', async () => {
    const { page } = app;
    await newSong(page, 'Frames');
    await page.getByRole('button', { name: 'Tempo 120 bpm' }).click();
    await page.getByLabel('Tempo in bpm').fill('92');
    await page.getByRole('button', { name: 'Set tempo' }).click();
    await page.getByRole('button', { name: 'Metre 4/4' }).click();
    await page.getByLabel('Beats in a bar').fill('3');
    await page.getByRole('button', { name: 'Set', exact: true }).click();
    await page.getByRole('button', { name: 'Metre 3/4' }).waitFor();
    await page.getByLabel('Key of the song').fill('D minor');
    await page.getByLabel('Key of the song').press('Enter');
    await saved(page);
    await page.reload();
    await page.getByRole('button', { name: 'Tempo 92 bpm' }).waitFor();
    await page.getByText('D minor').first().waitFor();
    for (let i = 0; i < 3; i++) await page.getByRole('button', { name: 'Undo' }).click();
    await page.getByRole('button', { name: 'Tempo 120 bpm' }).waitFor();
    await page.getByText('Key not set').waitFor();
  });
});

describe('files', () => {
  it('of every worth are taken or refused with a sentence', async () => {
    const { page } = app;
    await newSong(page, 'Imports');
    await importFile('my tone.wav', Buffer.from(toneFile([220, 330])));
    await page.getByRole('button', { name: 'My tone', exact: true }).waitFor();
    await importFile('lyrics.wav', Buffer.from('only words '.repeat(30)));
    await page.getByText('lyrics.wav was not imported').waitFor();
    await page.getByText('This is not a sound file that can be read').waitFor();
    await importFile('short.wav', Buffer.from(toneFile([262, 294]).slice(0, 40000)));
    await page.getByText('could be read. Use what is there').first().waitFor();
    await expect.poll(() => page.getByTestId('part-row').count()).toBe(2);
    await importFile('nothing.mid', Buffer.alloc(0));
    await page.getByText('This MIDI file is empty').waitFor();
  });
});

describe('a score', () => {
  const score = `<?xml version="1.0"?><score-partwise version="4.0"><part-list><score-part id="P1"><part-name>Second voice</part-name></score-part></part-list>
    <part id="P1"><measure><attributes><divisions>1</divisions><key><fifths>2</fifths></key><time><beats>3</beats><beat-type>4</beat-type></time></attributes>
    <direction><direction-type/><sound tempo="84"/></direction><harmony><root><root-step>D</root-step></root><kind>major</kind></harmony>
    <note><pitch><step>D</step><octave>4</octave></pitch><duration>3</duration><lyric><text>sea</text></lyric></note></measure></part></score-partwise>`;

  it('brings tempo, metre, key and chords into an empty song, and only its parts into another', async () => {
    const { page } = app;
    await newSong(page, 'From a score');
    await importFile('second.musicxml', Buffer.from(score));
    await page.getByRole('button', { name: 'Second voice', exact: true }).waitFor();
    // The word stays on its note.
    await expect
      .poll(async () =>
        (await storedSong(page)).parts.flatMap((part) => (part.kind === 'notes' ? part.passages : [])),
      )
      .toMatchObject([{ notes: [{ midi: 62, lyric: 'sea' }] }]);
    await page.getByRole('button', { name: 'Tempo 84 bpm' }).waitFor();
    await page.getByRole('button', { name: 'Metre 3/4' }).waitFor();
    await page.getByText('D major').first().waitFor();
    await page.getByRole('link', { name: 'Chords', exact: true }).click();
    await page.locator('[data-bar="1"]').getByText('D', { exact: true }).first().waitFor();
    await page.keyboard.press('Control+z');
    await page.getByRole('button', { name: 'Tempo 120 bpm' }).waitFor();
    await openDemo(page);
    await importFile('second.xml', Buffer.from(score));
    await page.getByRole('button', { name: 'Second voice', exact: true }).waitFor();
    await page.getByRole('button', { name: 'Tempo 92 bpm' }).waitFor();
    await importFile('broken.mxl', Buffer.from('PK and nothing more'));
    await page.getByText('This packed score is damaged').waitFor();
  });
});

describe('parts', () => {
  it('are muted, soloed, levelled and removed, with undo', async () => {
    const { page } = app;
    await openDemo(page);
    const mute = page.getByRole('button', { name: 'Mute Bass' });
    await mute.click();
    await expect.poll(() => mute.getAttribute('aria-pressed')).toBe('true');
    await page.getByRole('button', { name: 'Solo Lead voice' }).click();
    await page.getByLabel('Level of Lead voice').press('ArrowLeft');
    await page.getByText('−0.5 dB').first().waitFor();
    await saved(page);
    await page.getByRole('button', { name: 'Remove' }).click();
    await expect.poll(() => page.getByTestId('part-row').count()).toBe(7);
    for (let i = 0; i < 4; i++) await page.getByRole('banner').getByRole('button', { name: 'Undo' }).click();
    await expect.poll(() => page.getByTestId('part-row').count()).toBe(8);
    await expect.poll(() => mute.getAttribute('aria-pressed')).toBe('false');
  });

  it('are put in another order by hand and by key, and the keys are listed', async () => {
    const { page } = app;
    await openDemo(page);
    const names = () =>
      page
        .getByTestId('part-row')
        .evaluateAll((rows) => rows.map((row) => row.querySelector('.name')!.ariaLabel));
    const before = (await names()) as string[];
    const mark = (await page.getByTestId('part-row').nth(0).locator('.mark').boundingBox())!;
    const row = (await page.getByTestId('part-row').nth(2).boundingBox())!;
    await page.mouse.move(mark.x + 8, mark.y + 8);
    await page.mouse.down();
    await page.mouse.move(mark.x + 8, mark.y + 40, { steps: 4 });
    await page.mouse.move(mark.x + 8, row.y + row.height / 2, { steps: 6 });
    await page.mouse.up();
    const [first, second, third, ...others] = before;
    await expect.poll(names).toEqual([second, third, first, ...others]);
    // The part that was taken is the one that keys act on.
    await page.keyboard.press('Alt+ArrowUp');
    await expect.poll(names).toEqual([second, first, third, ...others]);
    await page.keyboard.press('Control+z');
    await page.keyboard.press('Control+z');
    await expect.poll(names).toEqual(before);
    await page.keyboard.press('?');
    await page.getByRole('dialog').getByText('Cut at the pointer').waitFor();
    await page.keyboard.press('Escape');
  });
});

describe('windows and servers', () => {
  it('a second window sees a change, and both can edit', async () => {
    const { page } = app;
    await openDemo(page);
    const other = await app.newPage();
    await other.goto(page.url());
    await other.getByTestId('part-row').first().waitFor();
    await page.getByRole('button', { name: 'Mute Bass' }).click();
    await expect
      .poll(() => other.getByRole('button', { name: 'Mute Bass' }).getAttribute('aria-pressed'))
      .toBe('true');
    await Promise.all([
      page.getByRole('button', { name: 'Solo Bass' }).click(),
      other.getByRole('button', { name: 'Mute Lead voice' }).click(),
    ]);
    for (const each of [page, other]) {
      await expect
        .poll(() => each.getByRole('button', { name: 'Solo Bass' }).getAttribute('aria-pressed'))
        .toBe('true');
      await expect
        .poll(() => each.getByRole('button', { name: 'Mute Lead voice' }).getAttribute('aria-pressed'))
        .toBe('true');
      await saved(each);
    }
  });

  it('a restarted server gets what was edited meanwhile', async () => {
    const { page } = app;
    await openDemo(page);
    await readPart(page, 'Steel guitar');
    await saved(page);
    await app.stopServer();
    await page.keyboard.press('n');
    await page.keyboard.press('Delete');
    await page.getByText(/Offline · 1 waiting/).waitFor();
    await app.startServer();
    await saved(page);
    await page.reload();
    await page.getByRole('button', { name: 'Undo' }).click();
    await page.getByText('Undone: Drop 1 note').waitFor();
  });

  it('an unknown song says so', async () => {
    const { page } = app;
    await page.goto('/songs/none/timeline');
    await page.getByText('This song could not be opened').waitFor();
    await page.getByText('it may have been deleted').waitFor();
  });
});
