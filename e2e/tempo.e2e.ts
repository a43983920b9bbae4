/** What lies over the song: its tempo, with passages that follow it, and its sections. */
import { readFileSync } from 'node:fs';
import type { Page } from 'playwright-core';
import { decodeWhole, encodeWav } from '../core/src/formats/index.ts';
import { createRandom } from '../core/src/signal/index.ts';
import { createPassageTime, createTimeMap, type RecordingPart, type Song } from '../core/src/song/index.ts';
import { describe, expect, it } from 'vitest';
import { appForEachTest, newSong, openDemo, storedSong } from './app.ts';

const app = appForEachTest();

const drumOf = (song: Song) =>
  (song.parts.find(({ name }) => name === 'Hand drum') as RecordingPart).passages[0];

async function choosePassage(page: Page, part: string): Promise<void> {
  const picture = page
    .getByTestId('part-row')
    .filter({ has: page.getByRole('button', { name: part, exact: true }) })
    .locator('.part-picture');
  await picture.click({ position: { x: 200, y: 40 } });
  await page.getByText(`of ${part}`).waitFor();
}
const typeInto = async (page: Page, label: string, value: string) => {
  await page.getByLabel(label).fill(value);
  await page.keyboard.press('Enter');
};
const pick = async (page: Page, label: string, option: string) => {
  await page.getByLabel(label).click();
  await page.locator('.ant-select-item-option', { hasText: option }).click();
};

const RATE = 22_050;
/** Strokes of a chord on every beat, louder where a bar begins, with a weak one between. @param bend 0.11: played freely, at 84 to 123 bpm */
function strokes(bend: number): { sound: Float32Array; beats: number[] } {
  const sound = new Float32Array(32 * RATE);
  const beats = [0.6];
  while (beats[beats.length - 1] < 30)
    beats.push(beats[beats.length - 1] + 0.6 + bend * Math.sin(beats.length / 6));
  const random = createRandom(1);
  const chords = [
    [196, 247, 294],
    [131, 165, 196],
    [147, 185, 220],
  ];
  const stroke = (seconds: number, chord: number[], level: number) => {
    const from = Math.round(seconds * RATE);
    for (let i = 0; i < 0.45 * RATE && from + i < sound.length; i++) {
      const t = i / RATE;
      const tone = chord.reduce(
        (sum, hz) => sum + Math.sin(2 * Math.PI * hz * t) + 0.5 * Math.sin(4 * Math.PI * hz * t),
        0,
      );
      const noise = (2 * random() - 1) * Math.exp(-60 * t);
      sound[from + i] += level * Math.exp(-5 * t) * (0.25 * tone + 0.8 * noise);
    }
  };
  beats.forEach((at, i) => {
    const chord = chords[Math.floor(i / 4) % chords.length];
    stroke(at, chord, i % 4 === 0 ? 0.5 : 0.3);
    if (i + 1 < beats.length) stroke((at + beats[i + 1]) / 2, chord, 0.12);
  });
  return { sound, beats };
}

const importStrokes = (page: Page, sound: Float32Array) =>
  page.getByLabel('Recordings, MIDI files or scores').setInputFiles({
    name: 'Strokes.wav',
    mimeType: 'audio/wav',
    buffer: Buffer.from(encodeWav([sound], RATE)),
  });

describe('a recording that was played freely', () => {
  it('gives the song its tempo, beat by beat, and goes along when that becomes one', async () => {
    const { page } = app;
    const { sound, beats } = strokes(0.11);
    await newSong(page, 'Freely');
    await importStrokes(page, sound);
    await page.getByRole('button', { name: 'Find the beat' }).click();
    await page.getByText('The tempo changes as it was played').waitFor();
    await page.getByRole('button', { name: 'Set tempo, metre and first bar' }).click();
    await expect.poll(async () => (await storedSong(page)).tempoMap.length).toBeGreaterThan(5);
    const passageOf = ({ parts }: Song) => (parts[0] as RecordingPart).passages[0];
    // What is heard on beats lies on those of the song, the first on a bar line.
    const beatsOf = (song: Song) => {
      const { toTicks } = createPassageTime(passageOf(song), createTimeMap(song));
      return beats.map((seconds) => toTicks(seconds) / 960);
    };
    const played = await storedSong(page);
    const first = Math.round(beatsOf(played)[0]);
    expect(first % 4).toBe(0);
    beatsOf(played).forEach((beat, i) => expect(Math.abs(beat - first - i)).toBeLessThan(0.08));

    await page.getByRole('button', { name: /^Tempo [\d.]+ bpm$/ }).click();
    await page.getByLabel('Tempo in bpm').fill('100');
    await page.getByRole('button', { name: 'One tempo throughout' }).click();
    await page.getByRole('button', { name: 'Recordings go along' }).click();
    await expect.poll(async () => (await storedSong(page)).tempoMap).toEqual([{ startTicks: 0, bpm: 100 }]);
    const even = await storedSong(page);
    beatsOf(even).forEach((beat, i) => expect(beat).toBeCloseTo(beatsOf(played)[i], 2));
    await page
      .getByTestId('part-row')
      .locator('.part-picture')
      .click({ position: { x: 200, y: 40 } });
    await page.getByText('It goes along beat by beat').waitFor();

    // And so it is heard: the loud first strokes of the bars come every 2.4 s.
    await page.getByRole('button', { name: 'Export' }).click();
    await page.getByRole('button', { name: 'Save as sound' }).click();
    const download = page.waitForEvent('download');
    await page.getByRole('button', { name: 'Save sound file' }).click();
    const { samples, sampleRateHz } = await decodeWhole([
      new Uint8Array(readFileSync(await (await download).path())),
    ]);
    const level = (seconds: number, until: number) =>
      samples[0]
        .subarray(Math.round(seconds * sampleRateHz), Math.round(until * sampleRateHz))
        .reduce((sum, x) => sum + x * x, 0);
    for (let bar = 0; bar < 12; bar++) {
      const at = (beatsOf(even)[0] + 4 * bar) * 0.6;
      expect(level(at - 0.06, at + 0.14)).toBeGreaterThan(3 * level(at - 0.26, at - 0.06));
    }
  });

  it('has its beats put right where they were misheard', async () => {
    const { page } = app;
    const { sound, beats } = strokes(0);
    await newSong(page, 'Misheard');
    await importStrokes(page, sound);
    await page.getByRole('button', { name: 'Find the beat' }).click();
    const tempo = page.getByLabel('Tempo that was read');
    await expect.poll(() => tempo.inputValue()).toBe('100');

    // A typed tempo that is no other by octaves is looked for.
    await tempo.fill('150');
    await page.keyboard.press('Enter');
    await expect.poll(async () => Number(await tempo.inputValue())).toBeGreaterThan(125);
    await tempo.fill('100');
    await page.keyboard.press('Enter');
    await expect.poll(() => tempo.inputValue()).toBe('100');

    // Bars are those of the metre that is chosen.
    const status = page.getByRole('dialog').getByRole('status');
    await pick(page, 'Metre that was read', '2/4');
    await page.getByRole('button', { name: 'Check the beats' }).click();
    await status.getByText('50 beats, 25 bars of 2').waitFor();
    await page.getByRole('button', { name: 'Leave them' }).click();
    await pick(page, 'Metre that was read', '4/4');
    await page.getByRole('button', { name: 'Later', exact: true }).click();
    await page.getByRole('button', { name: 'Check the beats' }).click();
    await status.getByText('50 beats, 13 bars of 4').waitFor();
    await page.getByLabel('Beats over the sound of Strokes').focus();
    await page.keyboard.press('ArrowRight');
    await status.getByText('Before bar 1, at 0.60 s').waitFor();
    await page.keyboard.press('ArrowRight');
    await status.getByText('Bar 1, beat 1, at 1.20 s').waitFor();
    await page.keyboard.press('ArrowRight');
    await page.keyboard.press('Enter');
    await status.getByText('Bar 1, beat 1, at 1.80 s').waitFor();
    for (const key of ['Alt+ArrowRight', 'Alt+ArrowRight']) await page.keyboard.press(key);
    await status.getByText('at 1.81 s').waitFor();
    for (const key of ['Control+z', 'Control+z']) await page.keyboard.press(key);

    // Onsets are found meanwhile.
    await page.locator('.beats-focus[aria-busy=false]').waitFor();
    const picture = (await page.getByTestId('beats-canvas').boundingBox())!;
    const drag = async (fromSeconds: number, toSeconds: number) => {
      // The picture begins with the recording, 90 pixels a second.
      await page.mouse.move(picture.x + 90 * fromSeconds, picture.y + 20);
      await page.mouse.down();
      await page.mouse.move(picture.x + 90 * toSeconds, picture.y + 60, { steps: 4 });
      await page.mouse.up();
    };
    // Beside a stroke it goes there, with Alt it stays.
    await drag(beats[3], beats[3] + 0.26);
    await status.getByText('Bar 1, beat 2, at 2.69 s').waitFor();
    await page.keyboard.down('Alt');
    await drag(2.7, beats[3] + 0.24);
    await page.keyboard.up('Alt');
    await status.getByText(/Bar 1, beat 2, at 2.6[345] s/).waitFor();
    await page.keyboard.press('Delete');
    await page.mouse.click(picture.x + 400, picture.y + 100);
    await status.getByText('49 beats').waitFor();
    await page.mouse.dblclick(picture.x + 90 * beats[3], picture.y + 100);
    await status.getByText('Bar 1, beat 2, at 2.40 s').waitFor();

    // What was changed is not lost by a key.
    await page.keyboard.press('Escape');
    await page.getByRole('button', { name: 'Go on' }).click();
    await page.getByRole('button', { name: 'Use these beats' }).click();
    await page.getByRole('button', { name: 'Set tempo, metre and first bar' }).click();
    await expect.poll(async () => (await storedSong(page)).tempoMap.length).toBe(1);
    const song = await storedSong(page);
    const { toTicks } = createPassageTime((song.parts[0] as RecordingPart).passages[0], createTimeMap(song));
    expect(toTicks(beats[2]) % 3840).toBeLessThan(30);
  });

  it('has its beats tapped where none were found', async () => {
    const { page } = app;
    await newSong(page, 'Tapped');
    // A tone that swells and fades says nothing of a beat.
    const length = 14 * RATE;
    const tone = Float32Array.from(
      { length },
      (_, i) => 0.2 * Math.sin((2 * Math.PI * 220 * i) / RATE) * Math.sin((Math.PI * i) / length) ** 2,
    );
    await importStrokes(page, tone);
    await page.getByRole('button', { name: 'Find the beat' }).click();
    await page.getByRole('button', { name: /^(Check|Tap) the beats$/ }).click();
    await page.getByRole('button', { name: 'Tap along' }).click();
    await page.getByRole('button', { name: 'Tap a beat' }).waitFor();
    await page.getByLabel('Beats over the sound of Strokes').focus();
    for (let i = 0; i < 9; i++) {
      await page.waitForTimeout(500);
      await page.keyboard.press('t');
    }
    const status = page.getByRole('dialog').getByRole('status');
    await status.getByText('9 tapped. They are taken when it stops.').waitFor();
    await page.keyboard.press('Space');
    await status.getByText(/^\d+ beats/).waitFor();
    await page.keyboard.press('ArrowLeft');
    const last = Number(/at ([\d.]+) s/.exec((await status.textContent())!)![1]);
    await page.keyboard.press('ArrowLeft');
    const before = Number(/at ([\d.]+) s/.exec((await status.textContent())!)![1]);
    expect(last - before).toBeGreaterThan(0.4);
    expect(last - before).toBeLessThan(0.9);
    await page.getByRole('button', { name: 'Undo a beat' }).click();
    await page.getByRole('button', { name: 'Leave them' }).click();
    await page.getByRole('dialog').waitFor({ state: 'detached' });
  });
});

describe('tempo', () => {
  it('is a line with points, which slow down, move by keys, and go', async () => {
    const { page } = app;
    await openDemo(page);
    await page.getByRole('button', { name: 'Tempo', exact: true }).click();
    const lane = page.getByLabel('Tempo over the song');
    await lane.dblclick({ position: { x: 300, y: 40 } });
    await page.getByText('Goes evenly to the next tempo').waitFor();
    await page.keyboard.press('Escape');
    await lane.dblclick({ position: { x: 480, y: 40 } });
    await typeInto(page, 'Tempo of the point', '60');
    await expect.poll(async () => (await storedSong(page)).tempoMap.at(-1)?.bpm).toBe(60);
    expect((await storedSong(page)).tempoMap).toHaveLength(3);

    const points = page.getByRole('button', { name: /^Tempo [\d.]+ bpm at/ });
    // Dragged up it is faster; Escape in the middle of a drag leaves it.
    await page.keyboard.press('Escape');
    const box = (await points.nth(2).locator('circle').last().boundingBox())!;
    const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
    await page.mouse.move(x, y);
    await page.mouse.down();
    await page.mouse.move(x, y - 12, { steps: 3 });
    await page.keyboard.press('Escape');
    await page.mouse.up();
    await page.mouse.move(x, y);
    await page.mouse.down();
    await page.mouse.move(x, y - 8, { steps: 3 });
    await page.mouse.up();
    await expect.poll(async () => (await storedSong(page)).tempoMap.at(-1)!.bpm).toBeGreaterThan(62);
    await page.keyboard.press('Control+z');
    await expect.poll(async () => (await storedSong(page)).tempoMap.at(-1)?.bpm).toBe(60);
    await points.nth(1).press('Enter');
    await page.getByText('Goes evenly to the next tempo').click();
    await expect.poll(async () => (await storedSong(page)).tempoMap[1].ramp).toBe(true);
    await points.nth(2).press('ArrowUp');
    await points.nth(2).press('Delete');
    await expect.poll(async () => (await storedSong(page)).tempoMap.length).toBe(2);
    await page.keyboard.press('Control+z');
    await page.keyboard.press('Control+z');
    await expect.poll(async () => (await storedSong(page)).tempoMap.at(2)?.bpm).toBe(60);
  });

  it('is followed by a passage that is told to, and a stretched edge says what it was recorded at', async () => {
    const { page } = app;
    await openDemo(page);
    await choosePassage(page, 'Hand drum');
    await pick(page, 'Time of the passage', 'follows the tempo');
    await expect.poll(async () => drumOf(await storedSong(page)).clock).toEqual({ keeps: 'song', bpm: 92 });
    const length = page.getByLabel('Length of the passage');
    const before = Number(await length.inputValue());
    await page.getByRole('button', { name: 'Tempo', exact: true }).click();
    await page.getByRole('button', { name: /^Tempo 92 bpm at/ }).press('Enter');
    await typeInto(page, 'Tempo of the point', '115');
    // A quarter faster: four fifths as long.
    await expect.poll(async () => Number(await length.inputValue())).toBeCloseTo(before * 0.8, 2);
    await page.keyboard.press('Escape');
    await typeInto(page, 'Tempo of the recording', '46');
    await expect.poll(async () => Number(await length.inputValue())).toBeCloseTo(before * 0.4, 2);
    await pick(page, 'Time of the passage', 'keeps its own');
    await expect
      .poll(async () => drumOf(await storedSong(page)).clock)
      .toMatchObject({ keeps: 'own', speed: 2.5 });
    // It is heard as fast as that: what is saved of it ends with it.
    await page.getByRole('button', { name: 'Export' }).click();
    await page.getByRole('button', { name: 'Save as sound' }).click();
    await pick(page, 'Parts in the sound file', 'Hand drum');
    await page.keyboard.press('Escape');
    const download = page.waitForEvent('download');
    await page.getByRole('button', { name: 'Save sound file' }).click();
    const file = await download;
    expect(file.suggestedFilename()).toBe('Ferry at Six - Hand drum.wav');
    const { samples, sampleRateHz } = await decodeWhole([new Uint8Array(readFileSync(await file.path()))]);
    const loudest = (from: number, to: number) =>
      samples[0].subarray(from * sampleRateHz, to * sampleRateHz).reduce((most, x) => Math.max(most, x), 0);
    // The last stroke of the recording comes two seconds before its end.
    expect(loudest(before * 0.4 - 2, before * 0.4)).toBeGreaterThan(0.01);
    expect(loudest(before * 0.4 + 0.1, before)).toBeLessThan(1e-4);
    await page.getByText('Saved. The loudest moment').waitFor();
  });
});

describe('sections', () => {
  it('are named, made longer, looped, and copied with everything in them', async () => {
    const { page } = app;
    await openDemo(page);
    const band = page.getByTestId('sections');
    await band.dblclick({ position: { x: 140, y: 12 } });
    await typeInto(page, 'Name of the section', 'Verse');
    await page.getByRole('button', { name: 'Section Verse' }).waitFor();
    const [added] = (await storedSong(page)).sections!;
    expect(added).toMatchObject({ name: 'Verse', startTicks: 4 * 3840 });
    await page.keyboard.press('Escape');
    // Another begins in its middle, and is taken back.
    await band.dblclick({ position: { x: 380, y: 12 } });
    await typeInto(page, 'Name of the section', 'Chorus');
    await page.getByRole('button', { name: 'Section Chorus' }).press('Delete');
    await expect.poll(async () => (await storedSong(page)).sections!.length).toBe(1);
    // It lasts to the end of the song; four bars are meant.
    for (let i = 0; i < 13; i++) await page.getByRole('button', { name: 'Section Verse' }).press('ArrowLeft');
    await expect.poll(async () => (await storedSong(page)).sections![0].endTicks! / 3840).toBeLessThan(9);
    const verse = (await storedSong(page)).sections![0];

    await page.getByRole('button', { name: 'Section Verse' }).click();
    await page.getByRole('button', { name: 'Copy behind itself' }).click();
    await expect.poll(async () => (await storedSong(page)).sections!.length).toBe(2);
    const { sections, parts } = await storedSong(page);
    const length = verse.endTicks! - verse.startTicks;
    expect(sections![1]).toMatchObject({ name: 'Verse', startTicks: verse.endTicks });
    // Every part that sounds there has its piece twice.
    for (const { passages } of parts) {
      const starts = passages.map(({ startTicks }) => startTicks);
      expect(starts).toEqual(expect.arrayContaining([verse.startTicks, verse.startTicks + length]));
    }
    await page.keyboard.press('Control+z');
    await expect
      .poll(async () => (await storedSong(page)).parts.every(({ passages }) => passages.length === 1))
      .toBe(true);
    await page.getByRole('button', { name: 'Section Verse' }).click();
    await page.getByRole('button', { name: 'Loop it' }).click();
    await page.getByRole('button', { name: /5–/ }).waitFor();
  });
});
