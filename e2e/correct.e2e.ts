/** Correcting pitch and timing as a user does it, and hearing it. */
import type { Page } from 'playwright-core';
import { readFileSync } from 'node:fs';
import { decodeAudio, encodeWav } from '@plundra/core/formats';
import { describe, expect, it } from 'vitest';
import { appForEachTest, newSong, openDemo, readMelody, readPart, saved, tapOutput } from './app.ts';

const app = appForEachTest((page) => tapOutput(page));

/** Pitch of a stretch of sound as a MIDI note, by the most alike distance (autocorrelation); 0 when nothing sounds. */
function heardMidi(sound: Float32Array, rateHz: number): number {
  const likeness = (lag: number) => {
    let [cross, one, two] = [0, 0, 0];
    for (let i = 0; i + lag < sound.length; i++) {
      cross += sound[i] * sound[i + lag];
      one += sound[i] ** 2;
      two += sound[i + lag] ** 2;
    }
    return one * two > 1e-8 ? cross / Math.sqrt(one * two) : 0;
  };
  const [shortest, longest] = [Math.round(rateHz / 1000), Math.round(rateHz / 35)];
  const values = Array.from({ length: longest - shortest }, (_, i) => likeness(shortest + i));
  const most = Math.max(...values);
  if (most < 0.6) return 0;
  const first = values.findIndex((v, i) => v > 0.93 * most && v >= values[i - 1] && v >= values[i + 1]);
  return 69 + 12 * Math.log2(rateHz / (shortest + first) / 440);
}

/** Waits until a pitch class leads; where the recording has ended meanwhile on a slow machine, it is played again. */
async function hears(page: Page, pitchClass: number): Promise<void> {
  const play = page.getByRole('button', { name: 'Play', exact: true });
  const share = async () => {
    if ((await play.count()) > 0) await play.click();
    return shareOf(page, pitchClass);
  };
  await expect.poll(share, { timeout: 45_000 }).toBeGreaterThan(0.8);
}

/** Stops, where it has not come to its end by then. */
async function stop(page: Page): Promise<void> {
  const button = page.getByRole('button', { name: 'Stop' });
  if ((await button.count()) > 0) await button.click({ timeout: 3000 }).catch(() => undefined);
  await page.getByRole('button', { name: 'Play', exact: true }).waitFor();
}

/** Share of what is heard over some seconds that has a pitch class. */
async function shareOf(page: Page, pitchClass: number): Promise<number> {
  const { heard, rateHz } = await page.evaluate(async () => {
    const analyser = (window as unknown as { ears?: AnalyserNode[] }).ears?.[0];
    const heard: string[] = [];
    const data = new Float32Array(4096);
    for (let i = 0; i < 30; i++) {
      analyser?.getFloatTimeDomainData(data);
      // Half of the samples do for a pitch.
      heard.push(data.filter((_, n) => n % 2 === 0).join(' '));
      await new Promise((done) => setTimeout(done, 90));
    }
    return { heard, rateHz: (analyser?.context.sampleRate ?? 0) / 2 };
  });
  const midi = heard.map((sound) => heardMidi(Float32Array.from(sound.split(' '), Number), rateHz));
  const sounding = midi.filter((each) => each > 0);
  expect(sounding.length).toBeGreaterThan(12);
  const off = (each: number) => Math.abs(((((each - pitchClass + 6) % 12) + 12) % 12) - 6);
  return sounding.filter((each) => off(each) < 0.7).length / sounding.length;
}

/** A song with one recording, open in Notes: A, with harmonics, struck anew every second. */
async function openLowA(page: Page, seconds: number, rateHz: number): Promise<void> {
  const second = Float32Array.from({ length: rateHz }, (_, i) => {
    const fade = Math.exp((-1.5 * i) / rateHz) * Math.min(1, i / 60);
    return [1, 2, 3].reduce(
      (sum, h) => sum + ((0.3 * fade) / h) * Math.sin((2 * Math.PI * 220 * h * i) / rateHz),
      0,
    );
  });
  const sound = new Float32Array(seconds * rateHz);
  for (let i = 0; i < seconds; i++) sound.set(second, i * rateHz);
  await newSong(page, 'Transposed');
  await page.getByLabel('Recordings, MIDI files or scores').setInputFiles({
    name: 'Low A.wav',
    mimeType: 'audio/wav',
    buffer: Buffer.from(encodeWav([sound], rateHz)),
  });
  await page.getByRole('button', { name: 'Low A', exact: true }).click();
  await page.waitForURL(/notes/);
}

describe('tuning', () => {
  it('moves what is heard, also while it plays; B lets hear before', async () => {
    const { page } = app;
    await openDemo(page);
    await readPart(page, 'Bass');
    await page.keyboard.press('1');
    await page.keyboard.press('Space');
    await page.getByRole('button', { name: 'Stop' }).waitFor();
    // The whole line on one note: then it does not matter where in it the ear is.
    const A = 9;
    await page.getByTestId('step-tune').click();
    await page.getByRole('button', { name: 'Pull to the rails' }).click();
    await page.getByLabel('Note of the rails').fill('A1');
    await page.getByLabel('Note of the rails').press('Enter');
    await page.getByTestId('line-canvas').focus();
    await page.getByRole('button', { name: 'Before', exact: true }).waitFor();
    await hears(page, A);
    await page.keyboard.down('b');
    await page.waitForTimeout(500);
    const before = await shareOf(page, A);
    await page.keyboard.up('b');
    expect(before).toBeLessThan(0.6);
    await page.keyboard.press('Space');
    await saved(page);
  });

  it('shows figures before and after, warns, and comes back to what was played', async () => {
    const { page } = app;
    await openDemo(page);
    await readPart(page, 'Backing voice');
    await page.getByTestId('step-tune').click();
    const figures = page.getByTestId('pitch-figures');
    const median = async () =>
      ((await figures.innerText()).match(/median\s+(\d+) cents\s+(\d+) cents/) ?? []).slice(1).map(Number);
    await page.getByRole('button', { name: 'To A4 = 440 Hz' }).click();
    const [flat, unchanged] = await median();
    expect(flat).toBeGreaterThan(10);
    expect(unchanged).toBe(flat);
    await page.keyboard.press('t');
    await expect.poll(median).toEqual([flat, 0]);
    await page.getByTestId('step-tune').getByText('0 off').waitFor();
    await page.getByLabel('Vibrato kept in per cent').press('Home');
    await page.getByRole('button', { name: 'Pitch as played' }).click();
    await expect.poll(median).toEqual([flat, flat]);
    await page.keyboard.press('Control+z');
    await expect.poll(median).toEqual([flat, 0]);
    // Whole octaves are heard: the sheet says so beforehand and selects them.
    await page.getByTestId('line-canvas').focus();
    await page.keyboard.press('Control+a');
    await page.keyboard.press('Shift+ArrowUp');
    await page.getByTestId('risks').getByText('large shift').waitFor();
    await saved(page);
  });
});

describe('timing', () => {
  it('says what a pull would do, does it, and takes it back', async () => {
    const { page } = app;
    await openDemo(page);
    await readPart(page, 'Backing voice');
    await page.getByTestId('step-time').click();
    const report = page.getByTestId('pull-report');
    await report
      .getByText(/\d+ of \d+ notes move, median \d+ ms, furthest \d+ ms → bar \d+ beat \d/)
      .waitFor();
    await page.getByRole('switch', { name: 'Leave alone what is far from the grid' }).click();
    const moving = Number(/^(\d+) of/.exec(await report.innerText())![1]);
    await page.getByRole('button', { name: /^Pull \d+ notes$/ }).click();
    await page.getByTestId('step-time').getByText(`${moving} moved`).waitFor();
    await page.getByRole('button', { name: 'Timing as played' }).click();
    await page.getByTestId('step-time').getByText('moved').waitFor({ state: 'detached' });
    await page.keyboard.press('Control+z');
    await page.getByTestId('step-time').getByText(`${moving} moved`).waitFor();
    await saved(page);
  });

  it('locks the doubled guitar to the synth line, and survives that the synth line goes', async () => {
    const { page } = app;
    await openDemo(page);
    await readPart(page, 'Lead guitar');
    await page.getByTestId('step-time').click();
    await page.getByLabel('Lock to').click();
    await page.getByTitle('Synth line').click();
    await page
      .getByTestId('lock-pairs')
      .getByText(/\d{2} pairs/)
      .waitFor();
    const figures = await page.getByTestId('lock-figures').innerText();
    const [, playedMs, playedCents, lockedMs, lockedCents] =
      /median\s+(\d+) ms, (\d+) cents\s+(\d+) ms, (\d+) cents/.exec(figures)!.map(Number);
    expect(playedMs + playedCents).toBeGreaterThan(10);
    expect([lockedMs, lockedCents]).toEqual([0, 0]);
    await page.getByRole('button', { name: /^Lock \d+ notes$/ }).click();
    await page
      .getByTestId('step-time')
      .getByText(/\d+ moved/)
      .waitFor();
    await saved(page);
    await page.getByRole('link', { name: 'Timeline' }).click();
    const row = page.getByTestId('part-row').filter({ hasText: 'Synth line' });
    await row.click({ position: { x: 600, y: 10 } });
    await page.getByRole('button', { name: 'Remove' }).click();
    await page.getByRole('button', { name: 'Lead guitar', exact: true }).click();
    await page
      .getByTestId('step-time')
      .getByText(/\d+ moved/)
      .waitFor();
    await page.getByTestId('step-time').click();
    await page.getByText('No other part has notes yet').waitFor();
  });
});

describe('a new key', () => {
  it('moves the song after saying what moves, and one undo brings it back', async () => {
    const { page } = app;
    await openDemo(page);
    await readPart(page, 'Bass');
    const choose = async (name: string) => {
      await page.getByLabel('Key of the song').click();
      await page.getByLabel('Key of the song').fill(name);
      await page.locator('.ant-select-item-option-active').getByText(name).waitFor();
      await page.keyboard.press('Enter');
    };
    await choose('A major');
    const dialog = page.getByRole('dialog');
    const moves = dialog.getByText('Moves:').locator('..');
    await moves.waitFor();
    const said = await moves.innerText();
    expect(said).toMatch(/Synth line \(\d+ notes\)/);
    expect(said).toMatch(/Bass \(\d+ notes, recording\)/);
    expect(said).toMatch(/Steel guitar \(the whole recording\)/);
    await dialog.getByRole('button', { name: 'Transpose 2 semitones up' }).click();
    await page.getByText('A major').filter({ visible: true }).first().waitFor();
    await saved(page);
    const pitches = () =>
      page.evaluate(async () => {
        const answer = await fetch(`/api/songs/${location.pathname.split('/')[2]}`);
        const { song } = (await answer.json()) as {
          song: { parts: { name: string; passages: { notes?: { midi: number }[] }[] }[] };
        };
        return song.parts
          .find((part) => part.name === 'Synth line')!
          .passages[0].notes!.map((note) => note.midi);
      });
    const moved = await pitches();
    await page.getByRole('button', { name: 'Undo' }).click();
    await page.getByText('G major').filter({ visible: true }).first().waitFor();
    await saved(page);
    await expect.poll(pitches).toEqual(moved.map((midi) => midi - 2));
  });
});

describe('a recording that is not read', () => {
  /** Opens Time and waits for the onsets. */
  async function openOnsets(page: Page, name: string): Promise<number> {
    await page.getByRole('button', { name, exact: true }).click();
    await page.waitForURL(/notes/);
    await page.getByTestId('step-time').click();
    await page.getByLabel(/Onsets on a canvas, \d{2}/).waitFor();
    const text = await page.getByTestId('onset-scope').innerText();
    return Number(/^(\d+) onsets/.exec(text)![1]);
  }

  it('is pulled to the grid by its onsets, which can be added, moved and removed', async () => {
    const { page } = app;
    await openDemo(page);
    const found = await openOnsets(page, 'Steel guitar');
    expect(found).toBeGreaterThan(80);
    expect(await page.getByTestId('pull-report').innerText()).toMatch(
      /^\d+ of \d+ onsets move, median \d+ ms, furthest \d+ ms → bar \d+ beat \d$/,
    );
    await page.getByRole('button', { name: /^Pull \d+ onsets/ }).click();
    await page.getByRole('button', { name: 'Nothing to pull' }).waitFor();
    await page.getByTestId('step-time').getByText(/moved/).waitFor();
    await page.getByRole('button', { name: 'Before', exact: true }).waitFor();
    await page.getByRole('button', { name: 'Timing as played' }).click();
    await expect.poll(() => page.getByTestId('onset-scope').innerText()).toMatch(/, 0 moved/);

    // Between the first two strums nothing was played.
    const box = (await page.getByTestId('line-canvas').boundingBox())!;
    await page.getByTestId('line-canvas').focus();
    await page.keyboard.press('d');
    await page.mouse.click(box.x + 80, box.y + box.height - 40);
    await page.getByLabel(new RegExp(`Onsets on a canvas, ${found + 1} onsets, 1 selected`)).waitFor();
    await page.keyboard.press('Escape');
    await page.mouse.move(box.x + 80, box.y + box.height - 104 + 11);
    await page.mouse.down();
    await page.mouse.move(box.x + 90, box.y + box.height - 90, { steps: 3 });
    await page.mouse.up();
    await expect.poll(() => page.getByTestId('onset-scope').innerText()).toBe('For the 1 onset selected.');
    await page.getByTestId('step-time').getByText('1 moved').waitFor();
    await page.keyboard.press('Delete');
    await page.getByLabel(new RegExp(`Onsets on a canvas, ${found} onsets`)).waitFor();
    await page.keyboard.press('Control+z');
    await page.getByTestId('step-time').getByText('1 moved').waitFor();
    await saved(page);

    await page.getByTestId('step-use').click();
    const download = page.waitForEvent('download');
    await page.getByRole('button', { name: 'Save the corrected recording' }).click();
    const file = await download;
    expect(file.suggestedFilename()).toBe('Steel guitar corrected.wav');
    const { format, frames } = await decodeAudio([readFileSync(await file.path())], () => undefined);
    expect(format).toBe('wav');
    expect(frames).toBeGreaterThan(44100 * 20);
  });

  it('is transposed as a whole, and heard so; a reading keeps it there', async () => {
    const { page } = app;
    await openLowA(page, 12, 22050);
    await page.getByTestId('step-tune').click();
    await page.keyboard.press('1');
    await page.keyboard.press('Space');
    await page.getByRole('button', { name: 'Stop' }).waitFor();
    const [A, B] = [9, 11];
    await hears(page, A);
    await stop(page);
    await page.getByLabel('Transpose in semitones').fill('2');
    await page.getByLabel('Transpose in semitones').press('Tab');
    await page.getByTestId('step-tune').getByText('+2').waitFor();
    await page.getByRole('button', { name: 'Before', exact: true }).waitFor();
    await page.getByTestId('line-canvas').focus();
    await page.keyboard.press('Home');
    await page.keyboard.press('Space');
    await page.getByRole('button', { name: 'Stop' }).waitFor();
    await hears(page, B);
    await stop(page);
    await page.getByTestId('step-read').click();
    await readMelody(page);
    await page.getByLabel(/Notes on a canvas, 1\d notes/).waitFor();
    await page.keyboard.press('Home');
    await page.keyboard.press('Space');
    await page.getByRole('button', { name: 'Stop' }).waitFor();
    await hears(page, B);
    await saved(page);
  });

  it('is heard transposed where it is too long to be held, also while it plays', async () => {
    const { page } = app;
    await openLowA(page, 21 * 60, 8000);
    await page.getByTestId('step-tune').click();
    await page.keyboard.press('1');
    await page.keyboard.press('Space');
    await page.getByRole('button', { name: 'Stop' }).waitFor();
    const [A, B] = [9, 11];
    await hears(page, A);
    await page.getByLabel('Transpose in semitones').fill('2');
    await page.getByLabel('Transpose in semitones').press('Tab');
    await page.getByRole('button', { name: 'Before', exact: true }).waitFor();
    await hears(page, B);
    await stop(page);
    await saved(page);
  });
});
