/** Nothing lost, nothing stuck: leaving, closing, many windows, songs that cannot be read, bin and backups. */
import { cpSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { writeMidi, type MidiEvent } from 'midi-file';
import type { Page } from 'playwright-core';
import { FILE_NAME_HEADER, paths, type SongDocument } from '../contract/src/index.ts';
import { describe, expect, it } from 'vitest';
import { appForEachTest, launchWithoutSiteData, newSong, saved } from './app.ts';

const app = appForEachTest();

const idOf = (page: Page) => /songs\/([^/]+)/.exec(page.url())![1];
const songOf = async (id: string): Promise<SongDocument> =>
  (await (await fetch(`${app.server.url}/api/songs/${id}`)).json()) as SongDocument;

const PARTS = ['Lead voice', 'Backing voice', 'Bass', 'Synth line', 'Keys', 'Strings', 'Bells'];

/** Opens a song of note parts: what is looked at here is nothing that sounds, and many windows need not load recordings for it. */
async function openParts(page: Page): Promise<void> {
  const note = { channel: 0, noteNumber: 60, velocity: 64 };
  const track = (text: string, events: MidiEvent[] = []): MidiEvent[] => [
    { deltaTime: 0, meta: true, type: 'trackName', text },
    ...events,
    { deltaTime: 0, meta: true, type: 'endOfTrack' },
  ];
  const parts = PARTS.map((name) =>
    track(name, [
      { ...note, deltaTime: 0, type: 'noteOn' },
      { ...note, deltaTime: 480, type: 'noteOff' },
    ]),
  );
  const bytes = writeMidi({
    header: { format: 1, numTracks: 1 + parts.length, ticksPerBeat: 480 },
    tracks: [track('Harbour light'), ...parts],
  });
  const answer = await page.request.post(paths.midiImport, {
    headers: { 'Content-Type': 'audio/midi', [FILE_NAME_HEADER]: 'Harbour%20light.mid' },
    data: Buffer.from(bytes),
  });
  const { songId } = (await answer.json()) as { songId: string };
  await page.goto(`/songs/${songId}/timeline`);
  await page
    .getByTestId('part-row')
    .nth(PARTS.length - 1)
    .waitFor();
}

/** So many quick edits: the song is muted and unmuted part by part, by pointer. */
async function quickEdits(page: Page, count: number): Promise<void> {
  await page.evaluate((times) => {
    const buttons = [...document.querySelectorAll<HTMLButtonElement>('button[aria-label^="Mute "]')];
    for (let i = 0; i < times; i++) buttons[i % buttons.length].click();
  }, count);
}

describe('leaving', () => {
  it('a song right after twelve edits saves them all', async () => {
    const { page } = app;
    await openParts(page);
    const id = idOf(page);
    await quickEdits(page, 12);
    await page.getByRole('link', { name: 'All songs' }).click();
    await page.getByRole('button', { name: 'New song' }).waitFor();
    await expect.poll(async () => (await songOf(id)).revision).toBe(12);
    await expect.poll(() => page.getByTestId('waiting-songs').count()).toBe(0);
  });

  it('the window right after twelve edits loses none', async () => {
    const { page } = app;
    await openParts(page);
    const id = idOf(page);
    await quickEdits(page, 12);
    await page.close();
    const next = await app.newPage();
    await next.goto('/');
    await expect.poll(async () => (await songOf(id)).revision).toBe(12);
  });

  it('asks while anything waits, and the next page of any kind saves what was left', async () => {
    const { page } = app;
    await openParts(page);
    const id = idOf(page);
    await app.stopServer();
    await quickEdits(page, 12);
    await page.getByTestId('save-state').getByText('Offline · 12 waiting').waitFor();
    const asked = new Promise<string>((resolve) =>
      page.once('dialog', (dialog) => {
        resolve(dialog.type());
        void dialog.accept();
      }),
    );
    await page.close({ runBeforeUnload: true });
    expect(await asked).toBe('beforeunload');
    await expect.poll(() => page.isClosed()).toBe(true);
    await app.startServer();
    expect((await songOf(id)).revision).toBe(0);
    const next = await app.newPage();
    await next.goto('/');
    await next.getByText('12 changes to “Harbour light” from your last visit are being saved now.').waitFor();
    await expect.poll(async () => (await songOf(id)).revision).toBe(12);
    await next.reload();
    await next.waitForTimeout(1000);
    expect((await songOf(id)).revision).toBe(12);
  });

  it('the song while the server is away says on the songs page what waits', async () => {
    const { page } = app;
    await openParts(page);
    const id = idOf(page);
    await app.stopServer();
    await quickEdits(page, 1);
    await page.getByTestId('save-state').getByText('Offline').waitFor();
    await page.getByRole('link', { name: 'All songs' }).click();
    await page.getByText('1 change to “Harbour light” waits for the server').waitFor();
    await app.startServer();
    await expect.poll(() => page.getByTestId('waiting-songs').count()).toBe(0);
    expect((await songOf(id)).revision).toBe(1);
  });
});

describe('steps that the first release kept in its window', () => {
  it('are saved by this one after a reload', async () => {
    const { page } = app;
    await openParts(page);
    const id = idOf(page);
    await page.evaluate((songId) => {
      const edit = { type: 'song.set', patch: { title: 'Kept by the release before' } };
      const step = { kind: 'do', id: 'old', label: 'Rename', edit };
      sessionStorage.setItem(`plundra.unsaved.${songId}`, JSON.stringify([{ requestId: 'old-1', step }]));
    }, id);
    await page.reload();
    await expect.poll(async () => (await songOf(id)).song.title).toBe('Kept by the release before');
  });
});

describe('windows', () => {
  it('eight of them all save, and hear each other', async () => {
    const { page } = app;
    await openParts(page);
    const url = page.url();
    const pages = [page];
    for (let i = 0; i < 7; i++) {
      const next = await app.newPage();
      await next.goto(url);
      await next.getByTestId('part-row').first().waitFor();
      pages.push(next);
    }
    for (const each of pages) {
      await quickEdits(each, 1);
      await saved(each);
    }
    await expect.poll(async () => (await songOf(idOf(page))).revision).toBe(8);
    // Each window muted the first part or unmuted it again: an even number of times.
    for (const each of pages)
      await expect
        .poll(() =>
          each
            .getByRole('button', { name: /^Mute / })
            .first()
            .getAttribute('aria-pressed'),
        )
        .toBe('false');
    // The one that listens for all closes; another takes over.
    await pages[0].close();
    await quickEdits(pages[7], 1);
    await expect
      .poll(() =>
        pages[3]
          .getByRole('button', { name: /^Mute / })
          .first()
          .getAttribute('aria-pressed'),
      )
      .toBe('true');
  });

  it('an edit is kept whose neighbour is acknowledged late while another window edits', async () => {
    const { page } = app;
    await openParts(page);
    const id = idOf(page);
    const other = await app.newPage();
    await other.goto(page.url());
    await other.getByTestId('part-row').first().waitFor();
    let first = true;
    await page.route('**/steps', async (route) => {
      const answer = await route.fetch();
      if (first) {
        first = false;
        await new Promise((resolve) => setTimeout(resolve, 2500));
      }
      await route.fulfill({ response: answer });
    });
    await page.getByRole('button', { name: 'Mute Bass' }).click();
    await page.waitForTimeout(300);
    await page.getByRole('button', { name: 'Mute Lead voice' }).click();
    await other.getByRole('button', { name: 'Mute Synth line' }).click();
    await saved(other);
    await page.waitForTimeout(2600);
    await saved(page);
    const muted = (await songOf(id)).song.parts.filter(({ mute }) => mute).map(({ name }) => name);
    expect(muted.sort()).toEqual(['Bass', 'Lead voice', 'Synth line']);
    for (const each of [page, other])
      await expect
        .poll(() => each.locator('button[aria-label^="Mute "][aria-pressed="true"]').count())
        .toBe(3);
  });

  it('a song deleted in another window keeps what waits, and saves it when it is back', async () => {
    const { page } = app;
    await openParts(page);
    const id = idOf(page);
    await fetch(`${app.server.url}/api/songs/${id}`, { method: 'DELETE' });
    await quickEdits(page, 1);
    await page.getByTestId('save-state').getByText('Deleted · 1 waiting').waitFor();
    const other = await app.newPage();
    await other.goto('/');
    await other.getByRole('button', { name: 'Bin' }).click();
    await other.getByRole('button', { name: 'Bring back' }).click();
    await saved(page);
    expect((await songOf(id)).revision).toBe(1);
  });
});

describe('undo', () => {
  it('takes back what was done before the window was opened', async () => {
    const { page } = app;
    await openParts(page);
    await page.getByRole('button', { name: 'Mute Bass' }).click();
    await saved(page);
    await page.reload();
    const mute = page.getByRole('button', { name: 'Mute Bass' });
    await expect.poll(() => mute.getAttribute('aria-pressed')).toBe('true');
    await page.keyboard.press('Control+z');
    await page.getByText('Undone: ').waitFor();
    await expect.poll(() => mute.getAttribute('aria-pressed')).toBe('false');
    await page.keyboard.press('Control+Shift+z');
    await expect.poll(() => mute.getAttribute('aria-pressed')).toBe('true');
  });
});

describe('a MIDI file of six hundred tracks', () => {
  it('is taken into an open song as far as it goes, said, saved, and opens again', async () => {
    const { page } = app;
    await newSong(page, 'Crowd');
    const note = (type: string, deltaTime: number) => ({
      deltaTime,
      type,
      channel: 0,
      noteNumber: 60,
      velocity: 64,
    });
    const track = [note('noteOn', 0), note('noteOff', 100), { deltaTime: 0, meta: true, type: 'endOfTrack' }];
    const bytes = writeMidi({
      header: { format: 1, numTracks: 600, ticksPerBeat: 480 },
      tracks: Array.from({ length: 600 }, () => track),
    } as never);
    await page
      .getByLabel('Recordings, MIDI files or scores')
      .setInputFiles({ name: 'crowd.mid', mimeType: 'audio/midi', buffer: Buffer.from(bytes) });
    await page.getByText('100 of 600 tracks were left out: a song holds no more parts.').waitFor();
    await saved(page);
    await page.reload();
    await page.getByTestId('part-row').first().waitFor();
    expect((await songOf(idOf(page))).song.parts).toHaveLength(500);
  });
});

describe('a chord sheet without end', () => {
  it('is shown at once', async () => {
    const { page } = app;
    await newSong(page, 'Endless');
    const part = {
      kind: 'drums',
      id: 'd',
      name: 'Kit',
      mark: 'K',
      colour: 0,
      levelDb: 0,
      pan: 0,
      mute: false,
      solo: false,
      passages: [{ type: 'notes', id: 'p', startTicks: 999_990_000, lengthTicks: 10_000, notes: [] }],
    };
    await fetch(`${app.server.url}/api/songs/${idOf(page)}/steps`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({
        clientId: 'test',
        baseRevision: 0,
        steps: [
          {
            requestId: 'r',
            step: { kind: 'do', id: 's', label: 'x', edit: { type: 'part.add', part, index: 0 } },
          },
        ],
      }),
    });
    await page.reload();
    await page.getByRole('link', { name: 'Chords', exact: true }).click();
    await page.locator('[data-bar="1"]').waitFor();
    expect(await page.locator('[data-bar]').count()).toBeLessThan(200);
    await page.locator('.chords-scroll').evaluate((element) => (element.scrollTop = element.scrollHeight));
    await page.locator('[data-bar="260416"]').waitFor();
  });
});

describe('backups', () => {
  it('are made at the start, and bring a song back beside what it is now', async () => {
    const { page } = app;
    await newSong(page, 'Harbour light');
    await saved(page);
    await app.restartServer();
    await page.goto('/');
    await page.getByRole('button', { name: 'Delete Harbour light' }).click();
    await page.getByRole('button', { name: 'Backups' }).click();
    await page.getByText('in the bin now').waitFor();
    await page.getByRole('dialog').getByRole('button', { name: 'Bring back' }).click();
    await page.getByRole('link', { name: /^Harbour light \(as of / }).waitFor();
    await page.getByRole('button', { name: 'Error log' }).click();
    await page.getByText('Nothing has gone wrong so far.').waitFor();
  });
});

describe('a browser that keeps no site data', () => {
  it('opens songs and chords, saves, and says what is less safe', async () => {
    const profile = mkdtempSync(join(tmpdir(), 'plundra-profile-'));
    const context = await launchWithoutSiteData(profile);
    try {
      const page = await context.newPage();
      const errors: string[] = [];
      page.on('pageerror', (error) => errors.push(error.message));
      await page.goto(`${app.server.url}/`);
      expect(
        await page.evaluate(() => {
          try {
            return String(window.localStorage);
          } catch (error) {
            return (error as Error).name;
          }
        }),
      ).toBe('SecurityError');
      await page.getByText('This browser keeps no data for Plundra').waitFor();
      await page.getByRole('button', { name: 'Open the demo' }).click();
      await page.getByTestId('part-row').first().waitFor();
      await page.getByRole('button', { name: 'Mute Bass' }).click();
      await saved(page);
      expect((await songOf(idOf(page))).revision).toBe(1);
      await page.getByRole('link', { name: 'Chords', exact: true }).click();
      await page.getByTestId('chord-sheet').waitFor();
      await page.getByRole('link', { name: 'Notes', exact: true }).click();
      await page.getByTestId('line-canvas').waitFor();
      expect(errors).toEqual([]);
    } finally {
      await context.close();
      rmSync(profile, { recursive: true, force: true });
    }
  });
});

describe('a data folder of the first release', () => {
  const fixture = new URL('../server/src/test/fixtures/dataFolder1', import.meta.url).pathname;
  const old = appForEachTest(undefined, (dataFolder) => cpSync(fixture, dataFolder, { recursive: true }));

  it('opens its songs, and offers what can be read of one that it could save but never open', async () => {
    const { page } = old;
    await page.goto('/');
    await page.getByRole('link', { name: 'Ferry at Six' }).click();
    await page.getByRole('button', { name: 'Hand drum', exact: true }).waitFor();
    await page.getByRole('link', { name: 'All songs' }).click();
    await page.getByRole('link', { name: 'Still too many tracks' }).click();
    await page.getByText('This song could not be opened').waitFor();
    await page.getByText('The parts of a song are at most 500').waitFor();
    const download = page.waitForEvent('download');
    await page.getByRole('link', { name: 'Save its raw data' }).click();
    expect(readFileSync(await (await download).path(), 'utf8')).toContain('Still too many tracks');
    await page.getByRole('button', { name: 'Open the last state that can be read' }).click();
    await page.getByRole('button', { name: 'Too many tracks (recovered)' }).waitFor();
    await page.getByText('D minor').waitFor();
  });
});
