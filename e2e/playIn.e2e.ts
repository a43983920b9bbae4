/** Playing a part in: with the computer keys, a MIDI keyboard and the pointer, with help of the scale and pull to the grid. */
import type { Page } from 'playwright-core';
import { describe, expect, it } from 'vitest';
import { placedNotes, type NotePart, type Song } from '@plundra/core/song';
import { appForEachTest, newSong, openDemo, storedSong, tapOutput } from './app.ts';

const app = appForEachTest((page) => tapOutput(page), undefined, true);
const NAME = 'Synth line';
const BAR = 3840;

const notesOf = (song: Song) =>
  placedNotes(song.parts.find(({ name }) => name === NAME) as NotePart).toSorted(
    (a, b) => a.startTicks - b.startTicks,
  );

/** Keyboards that are not there, as `window.keyboards`: each takes the bytes of MIDI messages. */
async function simulateKeyboards(page: Page, names = ['Harbour keys']): Promise<void> {
  await page.addInitScript((all) => {
    const inputs = all.map((name, i) =>
      Object.assign(new EventTarget(), {
        id: String(i),
        name,
        state: 'connected',
        onmidimessage: undefined as ((event: unknown) => void) | undefined,
      }),
    );
    const access = { inputs: new Map(inputs.map((input) => [input.id, input])), onstatechange: null };
    Object.defineProperty(navigator, 'requestMIDIAccess', { value: () => Promise.resolve(access) });
    (window as unknown as { keyboards: Keyboard[] }).keyboards = inputs.map(
      (input) =>
        (...bytes) =>
          input.onmidimessage?.({ data: Uint8Array.from(bytes), target: input }),
    );
  }, names);
}
type Keyboard = (...bytes: number[]) => void;
const sendFrom = (page: Page, keyboard: number, ...bytes: number[]) =>
  page.evaluate(([at, data]) => (window as unknown as { keyboards: Keyboard[] }).keyboards[at](...data), [
    keyboard,
    bytes,
  ] as const);
const send = (page: Page, ...bytes: number[]) => sendFrom(page, 0, ...bytes);

async function openKeys(page: Page): Promise<void> {
  await openDemo(page);
  await page.getByRole('button', { name: NAME, exact: true }).click();
  await page.getByRole('button', { name: 'Play in' }).click();
  await page.getByTestId('piano').waitFor();
}
const choose = async (page: Page, label: string, option: string) => {
  await page.getByLabel(label).click();
  await page.getByTitle(option, { exact: true }).last().click();
};
const recording = async (page: Page) => {
  await page.getByRole('button', { name: 'Record notes' }).click();
  await page.getByRole('button', { name: /^Stop and keep/ }).waitFor();
};
const keep = async (page: Page, count: number) => {
  await page.getByRole('button', { name: `Stop and keep (${count})` }).click();
  await page.getByRole('button', { name: 'Record notes' }).waitFor();
};

describe('playing a part in', () => {
  it('adds notes of the scale, pulled to the grid, and can be taken back', async () => {
    const { page } = app;
    await openKeys(page);
    const before = notesOf(await storedSong(page));
    await choose(page, 'What the keys sound', 'Sounds: of the scale');
    await choose(page, 'Pull while playing', 'Pull: 1/8');
    await page.getByRole('switch', { name: 'Computer keys play' }).click();
    // G major has no F natural: the key sounds the nearest note that is in it.
    await page.getByRole('button', { name: 'Key F4, sounds E4' }).waitFor();
    await recording(page);
    await page.waitForTimeout(700);
    for (const letter of ['a', 'f', 'g']) {
      await page.keyboard.down(letter);
      await page.waitForTimeout(180);
      await page.keyboard.up(letter);
      await page.waitForTimeout(180);
    }
    await keep(page, 3);
    await expect.poll(async () => notesOf(await storedSong(page)).length).toBe(before.length + 3);
    const known = new Set(before.map(({ id }) => id));
    const added = notesOf(await storedSong(page)).filter(({ id }) => !known.has(id));
    expect(added.map(({ midi }) => midi)).toEqual([60, 64, 67]);
    for (const { startTicks, lengthTicks } of added)
      expect([startTicks % 480, lengthTicks % 480]).toEqual([0, 0]);
    // The keys play letters only as long as they are told to.
    await page.keyboard.press('Escape');
    await page.keyboard.press('Control+z');
    await expect.poll(async () => notesOf(await storedSong(page))).toEqual(before);
  });

  it('keeps each round of the loop as a take, of which another can be chosen and heard', async () => {
    const { page } = app;
    await openDemo(page);
    await page.getByRole('button', { name: 'Play in' }).click();
    await page.getByTestId('piano').waitFor();
    await choose(page, 'Where it is played into', `Into: ${NAME}`);
    const before = notesOf(await storedSong(page));
    await choose(page, 'What playing in does', 'Each round a take');
    await page.getByRole('switch', { name: 'Computer keys play' }).click();
    // Bar 5 goes round.
    const ruler = (await page.getByTestId('ruler').boundingBox())!;
    const view = await page.evaluate(() => {
      const { startSeconds, pixelsPerSecond } =
        document.querySelector<HTMLElement>('[data-pixels-per-second]')!.dataset;
      return { start: Number(startSeconds), scale: Number(pixelsPerSecond) };
    });
    const x = (bar: number) => ruler.x + ((bar - 1) * (240 / 92) - view.start) * view.scale;
    await page.keyboard.down('Shift');
    await page.mouse.move(x(5) + 1, ruler.y + 10);
    await page.mouse.down();
    await page.mouse.move(x(6), ruler.y + 10, { steps: 4 });
    await page.mouse.up();
    await page.keyboard.up('Shift');
    await page.mouse.click(x(5) + 1, ruler.y + 10);
    await recording(page);
    const rounds = () => page.getByTestId('position').textContent();
    // A note in the second beat of each round, each higher than the last.
    for (const letter of ['a', 's', 'd']) {
      await expect.poll(rounds, { interval: 20 }).toMatch(/^5\.2/);
      await page.keyboard.press(letter, { delay: 80 });
      await expect.poll(rounds, { interval: 20 }).toMatch(/^5\.[34]/);
    }
    await keep(page, 3);
    const table = page.getByTestId('take-table');
    await table.getByText('Take 3', { exact: true }).waitFor();
    const added = async () => {
      const known = new Set(before.map(({ id }) => id));
      return notesOf(await storedSong(page)).filter(({ id }) => !known.has(id));
    };
    await expect.poll(async () => (await added()).map(({ midi }) => midi)).toEqual([64]);
    expect(Math.floor((await added())[0].startTicks / BAR)).toBe(4);
    await table.getByRole('button', { name: /^Phrase 1 from Take 1: \d+ ms off/ }).click();
    await expect.poll(async () => (await added()).map(({ midi }) => midi)).toEqual([60]);
    await page.keyboard.press('Escape');
    await page.keyboard.press('Control+z');
    await expect.poll(async () => (await added()).map(({ midi }) => midi)).toEqual([64]);
    await page.keyboard.press('Control+z');
    await expect.poll(async () => notesOf(await storedSong(page))).toEqual(before);
  });

  it('takes velocity and pedal of a keyboard, and replaces what was there', async () => {
    const { page } = app;
    await simulateKeyboards(page);
    await openKeys(page);
    const before = notesOf(await storedSong(page));
    await page.getByRole('button', { name: 'MIDI keyboard' }).click();
    await page.getByText('Harbour keys plays now.').waitFor();
    await choose(page, 'What playing in does', 'Playing replaces');
    await recording(page);
    await page.waitForTimeout(400);
    await send(page, 0xb0, 64, 127);
    await send(page, 0x90, 74, 33);
    await page.waitForTimeout(100);
    await send(page, 0x80, 74, 0);
    // Held by the pedal: it sounds on, and its key is down on the screen.
    await page.locator('.piano-key.down').waitFor();
    await page.waitForTimeout(600);
    await send(page, 0xb0, 64, 0);
    await expect.poll(() => page.locator('.piano-key.down').count()).toBe(0);
    await page.waitForTimeout(300);
    await keep(page, 1);
    const known = new Set(before.map(({ id }) => id));
    await expect
      .poll(async () => notesOf(await storedSong(page)).filter(({ id }) => !known.has(id)).length)
      .toBe(1);
    const after = notesOf(await storedSong(page));
    const [note] = after.filter(({ id }) => !known.has(id));
    expect([note.midi, note.velocity]).toEqual([74, 33]);
    // Six tenths of a second at 92 bpm are 880 ticks.
    expect(note.lengthTicks).toBeGreaterThan(700);
    // What began while it was played is gone, what comes later is there.
    expect(after.filter(({ startTicks }) => startTicks < note.startTicks)).toEqual([]);
    const later = (notes: typeof after) => notes.filter(({ startTicks }) => startTicks >= 8 * BAR);
    expect(later(after)).toEqual(later(before));
  });

  it('sounds by the pointer as well, without anything being recorded', async () => {
    const { page } = app;
    await openKeys(page);
    const before = notesOf(await storedSong(page));
    const loudness = () =>
      page.evaluate(() => {
        const analyser = (window as unknown as { ears?: AnalyserNode[] }).ears?.[0];
        if (!analyser) return 0;
        const data = new Float32Array(4096);
        analyser.getFloatTimeDomainData(data);
        return Math.max(...data);
      });
    const box = (await page.getByRole('button', { name: 'Key C5', exact: true }).boundingBox())!;
    await page.mouse.move(box.x + box.width / 2, box.y + box.height - 12);
    await page.mouse.down();
    await expect.poll(loudness, { timeout: 20_000 }).toBeGreaterThan(0.01);
    await page.mouse.up();
    await expect.poll(() => page.locator('.piano-key.down').count()).toBe(0);
    expect(notesOf(await storedSong(page))).toEqual(before);
  });

  it('takes the pitch wheel along, and listens to the keyboard that is chosen', async () => {
    const { page } = app;
    await simulateKeyboards(page, ['Harbour keys', 'Pier keys']);
    await openKeys(page);
    const before = notesOf(await storedSong(page));
    await page.getByRole('button', { name: 'MIDI keyboard' }).click();
    await page.getByText('Harbour keys, Pier keys play now.').waitFor();
    await choose(page, 'MIDI keyboard that plays', 'Pier keys');
    await recording(page);
    await page.waitForTimeout(400);
    await sendFrom(page, 0, 0x90, 50, 90);
    await sendFrom(page, 1, 0x90, 74, 90);
    await page.waitForTimeout(200);
    // All the way up is two semitones.
    await sendFrom(page, 1, 0xe0, 127, 127);
    await page.waitForTimeout(200);
    await sendFrom(page, 1, 0xe0, 0, 64);
    await page.waitForTimeout(100);
    await sendFrom(page, 0, 0x80, 50, 0);
    await sendFrom(page, 1, 0x80, 74, 0);
    await keep(page, 1);
    const known = new Set(before.map(({ id }) => id));
    const added = async () => notesOf(await storedSong(page)).filter(({ id }) => !known.has(id));
    await expect.poll(async () => (await added()).length).toBe(1);
    const [note] = await added();
    expect(note.midi).toBe(74);
    expect(note.bends).toHaveLength(2);
    expect(note.bends![0].semitones).toBeCloseTo(2, 2);
    expect(note.bends![1].semitones).toBe(0);
    expect(note.bends![0].afterTicks).toBeGreaterThan(100);
  });
});

describe('playing in on the Timeline', () => {
  const strike = async (page: Page, letters: string) => {
    for (const letter of letters) {
      await page.keyboard.down(letter);
      await page.waitForTimeout(80);
      await page.keyboard.up(letter);
      await page.waitForTimeout(170);
    }
  };

  it('makes a part of an empty song, and the next pass goes into it', async () => {
    const { page } = app;
    await newSong(page, 'Played');
    await page.getByRole('button', { name: 'Play in' }).click();
    await page.getByLabel('Sound of the new part').click();
    await page.locator('.ant-select-item-option').getByText('Drum kit').click();
    await page.getByTestId('drum-pads').waitFor();
    await page.getByRole('switch', { name: 'Computer keys play' }).click();
    await recording(page);
    await page.waitForTimeout(300);
    await strike(page, 'asdfa');
    // No take is recorded.
    expect(await page.getByTestId('take-row').count()).toBe(0);
    await keep(page, 5);
    await page.getByRole('img', { name: 'Played · Drum kit: 1 passage' }).waitFor();
    await page
      .getByRole('status')
      .getByText(/^Last pass: 5 notes, /)
      .waitFor();
    const drumsOf = async () => {
      const [part] = (await storedSong(page)).parts as NotePart[];
      return { kind: part.kind, keys: placedNotes(part).map(({ midi }) => midi) };
    };
    // Kick, snare, closed and open hi-hat: letters play no pitches.
    expect(await drumsOf()).toEqual({ kind: 'drums', keys: [36, 38, 42, 46, 36] });
    await page.getByRole('button', { name: 'To the start' }).click();
    await recording(page);
    await page.waitForTimeout(300);
    await strike(page, 'd');
    await keep(page, 1);
    await expect.poll(async () => (await drumsOf()).keys.length).toBe(6);
    expect((await storedSong(page)).parts).toHaveLength(1);
    await page.keyboard.press('Escape');
    await page.keyboard.press('Control+z');
    await expect.poll(async () => (await drumsOf()).keys.length).toBe(5);
    await page.keyboard.press('Control+z');
    await expect.poll(async () => (await storedSong(page)).parts.length).toBe(0);
  });

  it('goes on into the part it was begun for, whatever is chosen meanwhile', async () => {
    const { page } = app;
    await openDemo(page);
    const before = await storedSong(page);
    await page.locator('[data-testid="part-row"]', { hasText: NAME }).getByText('dB').click();
    await page.getByRole('button', { name: 'Play in' }).click();
    await page.getByTitle(`Into: ${NAME}`, { exact: true }).waitFor();
    await page.getByRole('switch', { name: 'Computer keys play' }).click();
    await recording(page);
    await page.waitForTimeout(200);
    await strike(page, 'ag');
    await page.locator('[data-testid="part-row"]', { hasText: 'Bass' }).getByText('dB').click();
    await page.getByTitle('Into: a new part', { exact: true }).waitFor();
    await keep(page, 2);
    await expect.poll(async () => notesOf(await storedSong(page)).length).toBe(notesOf(before).length + 2);
    expect((await storedSong(page)).parts).toHaveLength(before.parts.length);
  });
});
