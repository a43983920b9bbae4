/** The frame of a song and what lies in it: keys, tempo, and notes that were made from a recording. */
import { writeMidi } from 'midi-file';
import type { Page } from 'playwright-core';
import { describe, expect, it } from 'vitest';
import type { NotePart, RecordingPart, Song } from '@plundra/core/song';
import { appForEachTest, newSong, openDemo, readPart, storedSong } from './app.ts';

const app = appForEachTest();

const startsOf = (part: NotePart) =>
  part.passages.flatMap(({ startTicks, notes }) => notes.map((note) => startTicks + note.startTicks));
const partOf = <P extends NotePart | RecordingPart>(song: Song, name: string | RegExp): P =>
  song.parts.find((part) => (typeof name === 'string' ? part.name === name : name.test(part.name))) as P;

/** By how many pixels the playhead is seen below the first row of a part: what cuts it off counts. */
const seenPlayhead = (page: Page): Promise<number> =>
  page.evaluate(
    () =>
      new Promise((resolve) => {
        const firstRow = document.querySelector('[data-testid="part-row"]')!.getBoundingClientRect();
        new IntersectionObserver(([{ intersectionRect }]) =>
          resolve(intersectionRect.bottom - firstRow.bottom),
        ).observe(document.querySelector('[data-testid="playhead"]')!);
      }),
  );

async function setTempo(page: Page, bpm: number): Promise<void> {
  await page.getByRole('button', { name: /^Tempo / }).click();
  await page.getByLabel('Tempo in bpm').fill(String(bpm));
  await page.getByRole('button', { name: 'Set tempo' }).click();
}

describe('the key', () => {
  it('is one of all of the circle, found by its name with either sign', async () => {
    const { page } = app;
    await openDemo(page);
    const list = page.getByRole('combobox', { name: 'Key of the song' });
    const offered = () => page.locator('.ant-select-item-option').allInnerTexts();
    await list.click();
    await list.fill('C#');
    await expect.poll(offered).toEqual(['C♯ major', 'C♯ minor']);
    await list.fill('Db');
    await expect.poll(offered).toEqual(['D♭ major']);
    await list.fill('g# min');
    await expect.poll(offered).toEqual(['G♯ minor']);
    await list.press('Enter');
    await page.getByRole('button', { name: 'Only name the key' }).click();
    expect((await storedSong(page)).key).toEqual({ fifths: 5, mode: 'minor' });
    await page.locator('.ant-modal').waitFor({ state: 'hidden' });
    // The keys act on the song again: undo needs no click elsewhere.
    await page.keyboard.press('Control+z');
    await expect.poll(async () => (await storedSong(page)).key).toEqual({ fifths: 1, mode: 'major' });
  });
});

describe('another tempo', () => {
  it('asks: notes stay where they sound, or keep their bars and come apart from their recording', async () => {
    const { page } = app;
    await openDemo(page);
    await readPart(page, 'Bass');
    await page.getByTestId('step-use').click();
    await page.getByRole('button', { name: 'Make a note part' }).click();
    await page.waitForURL(/\/notes\//);
    const before = await storedSong(page);
    const made = startsOf(partOf<NotePart>(before, /^Bass · /));

    await setTempo(page, 100);
    await page.getByText(/come apart from their recording: Bass · .* \(from Bass\)/).waitFor();
    await page.getByRole('button', { name: 'Stay where they sound' }).click();
    const stayed = await storedSong(page);
    expect(stayed.tempoMap[0].bpm).toBe(100);
    startsOf(partOf<NotePart>(stayed, /^Bass · /)).forEach((ticks, i) =>
      expect(Math.abs(ticks - (made[i] * 100) / 92)).toBeLessThan(2),
    );
    await page.keyboard.press('Control+z');
    await page.getByRole('button', { name: 'Tempo 92 bpm' }).waitFor();
    await setTempo(page, 100);
    await page.getByRole('button', { name: 'Keep their bars' }).click();
    expect(startsOf(partOf<NotePart>(await storedSong(page), /^Bass · /))).toEqual(made);
  });

  it('makes a song of notes alone slower, without a question', async () => {
    const { page } = app;
    await newSong(page, 'Scale');
    const notes = [60, 62, 64, 65].flatMap((noteNumber) => [
      { type: 'noteOn', channel: 0, deltaTime: 0, noteNumber, velocity: 64 },
      { type: 'noteOff', channel: 0, deltaTime: 480, noteNumber, velocity: 0 },
    ]);
    const name = { deltaTime: 0, meta: true, type: 'trackName', text: 'Scale' };
    const bytes = writeMidi({
      header: { format: 1, numTracks: 1, ticksPerBeat: 480 },
      tracks: [[name, ...notes, { deltaTime: 0, meta: true, type: 'endOfTrack' }]],
    } as never);
    await page
      .getByLabel('Recordings, MIDI files or scores')
      .setInputFiles({ name: 'scale.mid', mimeType: 'audio/midi', buffer: Buffer.from(bytes) });
    await page.getByRole('img', { name: 'Scale: 1 passage' }).waitFor();
    const before = partOf<NotePart>(await storedSong(page), 'Scale');
    await setTempo(page, 60);
    await page.getByRole('button', { name: 'Tempo 60 bpm' }).waitFor();
    expect(partOf<NotePart>(await storedSong(page), 'Scale').passages).toEqual(before.passages);
  });

  it('counts the dotted quarter in 6/8, and says so', async () => {
    const { page } = app;
    await openDemo(page);
    await page.getByRole('button', { name: 'Metre 4/4' }).click();
    await page.getByLabel('Beats in a bar').fill('6');
    await page.getByRole('combobox', { name: 'Note value of a beat' }).click();
    await page.locator('.ant-select-item-option').getByText('8', { exact: true }).click();
    await page.getByRole('button', { name: 'Set', exact: true }).click();
    await page.getByRole('button', { name: 'Tempo 61.33 bpm' }).click();
    await page.getByText('Counts the dotted quarter.').waitFor();
    await page.getByLabel('Tempo in bpm').fill('60');
    await page.getByRole('button', { name: 'Set tempo' }).click();
    await page.getByRole('button', { name: 'Stay where they sound' }).click();
    expect((await storedSong(page)).tempoMap[0].bpm).toBe(90);
  });
});

describe('notes made from a recording', () => {
  it('are named in Clean up without a sound changing, tuned in Tune, and follow the recording when asked', async () => {
    const { page } = app;
    await openDemo(page);
    await readPart(page, 'Backing voice');
    await page.getByTestId('step-use').click();
    await page.getByLabel('Pitch bend from the contour').click();
    await page.getByRole('button', { name: 'Make a note part' }).click();
    await page.waitForURL(/\/notes\//);
    await page.getByTestId('following').getByText('Up to date with it.').waitFor();
    const made = partOf<NotePart>(await storedSong(page), /^Backing voice · /);
    expect(made.passages[0].notes.some((note) => note.bends)).toBe(true);

    const lineOf = async () => partOf<RecordingPart>(await storedSong(page), 'Backing voice').takes[0].line!;
    await page.getByRole('link', { name: 'Timeline' }).click();
    await page.getByRole('button', { name: 'Backing voice', exact: true }).click();
    await page.getByTestId('step-clean').click();
    await page.getByTestId('line-canvas').focus();
    await page.keyboard.press('Control+a');
    await page.keyboard.press('ArrowUp');
    const named = await lineOf();
    expect(named.notes.every((note) => note.target === undefined && note.namedMidi !== undefined)).toBe(true);
    await page.keyboard.press('ArrowDown');
    await page.getByTestId('step-tune').click();
    await page.getByRole('button', { name: 'Pull to the rails' }).click();
    await page.keyboard.press('ArrowUp');
    const tuned = await lineOf();
    expect(tuned.notes.every((note) => note.target?.midi !== undefined && note.namedMidi === undefined)).toBe(
      true,
    );

    await page.getByRole('link', { name: 'Timeline' }).click();
    await page.getByRole('button', { name: /^Backing voice · / }).click();
    await page
      .getByTestId('following')
      .getByText(/would change/)
      .waitFor();
    await page.getByRole('button', { name: 'Follow the recording again' }).click();
    await page.getByTestId('following').getByText('Up to date with it.').waitFor();
    const after = partOf<NotePart>(await storedSong(page), /^Backing voice · /).passages[0].notes;
    expect(after.map(({ midi }) => midi)).toEqual(made.passages[0].notes.map(({ midi }) => midi + 1));
  });
});

describe('keys after a control was clicked', () => {
  it('stay with a control that was given them after a click elsewhere', async () => {
    const { page } = app;
    await openDemo(page);
    await page.getByRole('button', { name: 'Zoom in' }).click();
    const level = page.getByTestId('part-row').first().getByRole('slider').first();
    await level.focus();
    // Longer than a list takes to close.
    await page.waitForTimeout(400);
    expect(await level.evaluate((slider) => slider === document.activeElement)).toBe(true);
  });

  it('act on the song: Space plays, and letters do what they do', async () => {
    const { page } = app;
    await openDemo(page);
    await readPart(page, 'Steel guitar');
    await page.getByRole('combobox', { name: 'Grid' }).click();
    await page.locator('.ant-select-item-option').getByText('1/8', { exact: true }).click();
    await expect.poll(() => page.evaluate(() => document.activeElement === document.body)).toBe(true);
    await page.keyboard.press(' ');
    await page.getByRole('button', { name: 'Stop', exact: true }).waitFor();
    await page.keyboard.press(' ');
    await page.getByRole('button', { name: 'Play', exact: true }).waitFor();
    await page.getByText('Notes', { exact: true }).last().click();
    await page.keyboard.press('n');
    await page.getByRole('heading', { name: /^\d+ notes?( · |$)/ }).waitFor();
    // The playhead stands a beat before what is doubtful: the first is where the song begins, the next is not.
    await page.keyboard.press('n');
    await expect.poll(() => page.getByTestId('position').innerText()).not.toBe('1.1.000');
  });
});

describe('keys on the Timeline', () => {
  it('act on the part whose control has the focus, and say what they removed', async () => {
    const { page } = app;
    await openDemo(page);
    await expect.poll(() => seenPlayhead(page)).toBeGreaterThan(0);
    await page.getByRole('button', { name: 'Mute Steel guitar' }).focus();
    await page.keyboard.press('Delete');
    await page.getByText('Steel guitar removed').waitFor();
    expect((await storedSong(page)).parts.some(({ name }) => name === 'Steel guitar')).toBe(false);
    await page.locator('.ant-message').getByRole('button', { name: 'Undo' }).click();
    await expect
      .poll(async () => (await storedSong(page)).parts.some(({ name }) => name === 'Steel guitar'))
      .toBe(true);
    // A recording is moved by a beat, and typed back.
    await page
      .getByText('Hand drum')
      .first()
      .click({ position: { x: -20, y: 5 }, force: true });
    await page.keyboard.press('ArrowRight');
    const drum = async () =>
      partOf<RecordingPart>(await storedSong(page), 'Hand drum').passages[0].startTicks;
    await expect.poll(drum).toBe(960);
    await page.getByLabel('Start of the recording').fill('1.1.000');
    await page.keyboard.press('Enter');
    await expect.poll(drum).toBe(0);
  });
});
