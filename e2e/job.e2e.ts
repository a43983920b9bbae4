/** The whole job as a new user does it: demo → read → clean up → use → listen → MIDI out → MIDI in. */
import { readFileSync } from 'node:fs';
import { parseMidi } from 'midi-file';
import { describe, expect, it } from 'vitest';
import { appForEachTest, noteCount, openDemo, readPart, saved, selectedCount } from './app.ts';

const app = appForEachTest();

describe('from a recorded line to a MIDI part', () => {
  it('cleans up doubtful notes and takes a proposal', async () => {
    const { page } = app;
    await openDemo(page);
    // Chords read as one line leave doubt enough.
    await readPart(page, 'Steel guitar');
    const read = await noteCount(page);

    // Doubtful notes: go to the first, drop it, undo, drop again.
    await page.keyboard.press('n');
    await expect.poll(() => selectedCount(page)).toBe(1);
    await page.getByText('doubtful', { exact: true }).waitFor();
    await page.keyboard.press('Delete');
    await expect.poll(() => noteCount(page)).toBe(read - 1);
    await page.keyboard.press('Control+z');
    await expect.poll(() => noteCount(page)).toBe(read);
    await page.keyboard.press('Control+Shift+z');
    await expect.poll(() => noteCount(page)).toBe(read - 1);

    // A proposal: shown with its count, then taken.
    await page.keyboard.press('Escape');
    await page.getByTestId('proposal-ghosts').getByRole('button', { name: 'Show' }).click();
    const proposal = page.getByTestId('proposal');
    await proposal.getByRole('slider').press('End');
    const drop = proposal.getByRole('button', { name: /^Drop [1-9]/ });
    const ghosts = Number(/\d+/.exec(await drop.innerText())![0]);
    await drop.click();
    await expect.poll(() => noteCount(page)).toBe(read - 1 - ghosts);
    await page.getByRole('button', { name: 'Undo' }).click();
    await expect.poll(() => noteCount(page)).toBe(read - 1);

    // What was heard less surely is offered, and comes in one step.
    const faint = page.getByTestId('proposal-faint');
    await faint.getByRole('button', { name: 'Show' }).click();
    const add = proposal.getByRole('button', { name: /^Add [1-9]/ });
    const offered = Number(/\d+/.exec(await add.innerText())![0]);
    await add.click();
    await expect.poll(() => noteCount(page)).toBe(read - 1 + offered);
    await faint.getByText('none to add').waitFor();
    await page.getByRole('button', { name: 'Undo' }).click();
    await expect.poll(() => noteCount(page)).toBe(read - 1);
    await faint.getByText(`${offered} fainter note`).waitFor();
  });

  it('is done in one go', async () => {
    const { page } = app;
    await openDemo(page);
    await readPart(page, 'Lead voice');
    const read = await noteCount(page);
    expect(read).toBeGreaterThan(50);

    // Use it with another sound.
    await page.getByTestId('step-use').click();
    await page.getByRole('button', { name: 'Flute' }).click();
    await page.getByRole('switch', { name: 'Pitch bend from the contour' }).click();
    await page.getByRole('button', { name: 'Make a note part' }).click();
    await page.getByText('Lead voice · Flute').first().waitFor();
    await expect.poll(() => noteCount(page)).toBe(read);
    await saved(page);

    // Listen to both: the playhead runs.
    await page.keyboard.press('4');
    await page.keyboard.press('Space');
    await page.getByRole('button', { name: 'Stop' }).waitFor();
    const position = page.getByTestId('position');
    const before = await position.innerText();
    await expect.poll(() => position.innerText(), { timeout: 5000 }).not.toBe(before);
    await page.keyboard.press('Space');
    await page.getByRole('button', { name: 'Play', exact: true }).waitFor();

    // MIDI out, and in again as a song of its own.
    await page.getByRole('button', { name: 'Export' }).click();
    const download = page.waitForEvent('download');
    await page.getByRole('button', { name: 'Save MIDI file' }).click();
    const file = await download;
    expect(file.suggestedFilename()).toBe('Ferry at Six.mid');
    const path = (await file.path())!;
    const tracks = parseMidi(readFileSync(path)).tracks;
    const flute = tracks.find((track) =>
      track.some((event) => event.type === 'programChange' && event.programNumber === 73),
    )!;
    expect(flute.filter((event) => event.type === 'noteOn')).toHaveLength(read);
    expect(flute.filter((event) => event.type === 'pitchBend').length).toBeGreaterThan(100);
    await page.goto('/');
    await page
      .getByLabel('MIDI file')
      .setInputFiles({ name: 'back.mid', mimeType: 'audio/midi', buffer: readFileSync(path) });
    await page.waitForURL(/\/timeline$/);
    await expect.poll(() => page.getByTestId('part-row').count()).toBe(2);
    await page.getByRole('button', { name: 'Tempo 92 bpm' }).waitFor();
    await page.getByRole('button', { name: 'Lead voice · Flute', exact: true }).click();
    await expect.poll(() => noteCount(page)).toBe(read);
  });

  it('survives a reload in the middle of a reading, and of the editing', async () => {
    const { page } = app;
    await openDemo(page);
    await page.getByRole('button', { name: 'Bass', exact: true }).click();
    await page.getByRole('button', { name: 'Read melody' }).last().click();
    await page.waitForTimeout(150);
    await page.reload();
    await page
      .getByTestId('step-read')
      .getByText(/\d+ notes/)
      .waitFor();
    await page.getByLabel(/Notes on a canvas, \d{2}/).waitFor();
    const count = await noteCount(page);
    await page.keyboard.press('Control+a');
    await expect.poll(() => selectedCount(page)).toBe(count);
    await page.keyboard.press('Shift+ArrowUp');
    await saved(page);
    await page.reload();
    await page.getByRole('button', { name: 'Undo' }).click();
    await page.getByText(`Undone: Correct pitch of ${count} notes`).waitFor();
  });
});

describe('editing on the canvas', () => {
  it('selects, moves, trims, joins, cuts and draws with pointer and keys', async () => {
    const { page } = app;
    await openDemo(page);
    await page.getByRole('button', { name: 'Synth line', exact: true }).click();
    const canvas = page.getByTestId('line-canvas');
    await canvas.waitFor();
    const count = await noteCount(page);
    const box = (await canvas.boundingBox())!;

    // Everything by a marquee over the whole band.
    await page.mouse.move(box.x + 70, box.y + 60);
    await page.mouse.down();
    await page.mouse.move(box.x + box.width - 5, box.y + box.height - 5, { steps: 4 });
    await page.mouse.up();
    await expect.poll(() => selectedCount(page)).toBeGreaterThan(5);

    // One note after another by keyboard; typed values.
    await page.keyboard.press('Escape');
    await page.keyboard.press('d');
    await page.mouse.move(box.x + 300, box.y + box.height - 60);
    await page.mouse.down();
    await page.mouse.move(box.x + 420, box.y + box.height - 60, { steps: 4 });
    await page.mouse.up();
    await expect.poll(() => noteCount(page)).toBe(count + 1);
    await expect.poll(() => selectedCount(page)).toBe(1);
    const pitch = page.getByLabel('Pitch', { exact: true });
    await pitch.fill('C5');
    await pitch.press('Enter');
    await page.getByRole('heading', { name: '1 note · C5' }).waitFor();
    await page.getByLabel('Start', { exact: true }).fill('3.2.120');
    await page.getByLabel('Start', { exact: true }).press('Enter');
    await expect.poll(() => page.getByLabel('Start', { exact: true }).inputValue()).toBe('3.2.120');
    await pitch.fill('nonsense');
    await page.getByText('A note such as').waitFor();
    await pitch.press('Escape');
    await page.getByRole('button', { name: 'Cut', exact: true }).first().click();
    await expect.poll(() => noteCount(page)).toBe(count + 2);
    await expect.poll(() => selectedCount(page)).toBe(2);
    await page.getByRole('button', { name: 'Join' }).click();
    await expect.poll(() => noteCount(page)).toBe(count + 1);
    await page.getByRole('button', { name: 'Duplicate' }).click();
    await expect.poll(() => noteCount(page)).toBe(count + 2);
    await page.getByRole('button', { name: 'Same pitch' }).click();
    await expect.poll(() => selectedCount(page)).toBeGreaterThanOrEqual(2);
    await page.getByRole('button', { name: 'Drop' }).click();
    await saved(page);
    for (let i = 0; i < 7; i++) await page.keyboard.press('Control+z');
    await expect.poll(() => noteCount(page)).toBe(count);
  });

  it('moves a note by keys and takes typed velocities', async () => {
    const { page } = app;
    await openDemo(page);
    await page.getByRole('button', { name: 'Synth line', exact: true }).click();
    const canvas = page.getByTestId('line-canvas');
    await canvas.focus();
    const box = (await canvas.boundingBox())!;
    // The first note lies at the left edge, right behind the labels.
    await page.mouse.move(box.x + 64, box.y + 60);
    await page.mouse.down();
    await page.mouse.move(box.x + 70, box.y + box.height - 5, { steps: 3 });
    await page.mouse.up();
    await page.getByRole('heading', { name: '1 note · D5' }).waitFor();
    await page.keyboard.press('ArrowUp');
    await page.getByRole('heading', { name: '1 note · E♭5' }).waitFor();
    await page.keyboard.press('ArrowRight');
    await expect.poll(() => page.getByLabel('Start', { exact: true }).inputValue()).not.toBe('1.1.000');
    const velocity = page.getByLabel('Velocity', { exact: true });
    await velocity.fill('33');
    await velocity.press('Enter');
    await expect.poll(() => velocity.inputValue()).toBe('33');
    await saved(page);
  });

  it('plays a line on the drum kit, as a drum part', async () => {
    const { page } = app;
    await openDemo(page);
    await readPart(page, 'Bass');
    const read = await noteCount(page);
    await page.getByTestId('step-use').click();
    await page.getByRole('button', { name: 'Drum kit' }).click();
    await page.getByRole('button', { name: 'Make a note part' }).click();
    await page.getByText('Bass · Drum kit').first().waitFor();
    await expect.poll(() => noteCount(page)).toBe(read);
    await saved(page);
    await page.getByRole('button', { name: 'Export' }).click();
    const download = page.waitForEvent('download');
    await page.getByRole('button', { name: 'Save MIDI file' }).click();
    const events = parseMidi(readFileSync((await (await download).path())!)).tracks.flat();
    // General MIDI: percussion is on channel 10, counted from 0 here.
    expect(events.filter((event) => event.type === 'noteOn' && event.channel === 9)).toHaveLength(read);
  });

  it('zooms by two fingers', async () => {
    const { page } = app;
    await openDemo(page);
    await page.getByRole('button', { name: 'Synth line', exact: true }).click();
    const canvas = page.getByTestId('line-canvas');
    await canvas.waitFor();
    const box = (await canvas.boundingBox())!;
    const touch = await app.context.newCDPSession(page);
    const fingers = (points: [number, number][]) =>
      points.map(([x, y], id) => ({ x: box.x + x, y: box.y + y, id }));
    await touch.send('Emulation.setTouchEmulationEnabled', { enabled: true, maxTouchPoints: 2 });
    const bars = () => page.getByTestId('line-canvas').screenshot();
    const before = await bars();
    await touch.send('Input.dispatchTouchEvent', { type: 'touchStart', touchPoints: fingers([[300, 200]]) });
    await touch.send('Input.dispatchTouchEvent', {
      type: 'touchStart',
      touchPoints: fingers([
        [300, 200],
        [400, 200],
      ]),
    });
    for (let x = 420; x <= 700; x += 40) {
      await touch.send('Input.dispatchTouchEvent', {
        type: 'touchMove',
        touchPoints: fingers([
          [300, 200],
          [x, 200],
        ]),
      });
    }
    await touch.send('Input.dispatchTouchEvent', { type: 'touchEnd', touchPoints: [] });
    await expect.poll(async () => (await bars()).equals(before), { timeout: 5000 }).toBe(false);
    // The first finger began nothing that stays: no note is selected or moved.
    await expect.poll(() => selectedCount(page)).toBe(0);
    expect(await page.getByRole('button', { name: 'Undo' }).isDisabled()).toBe(true);
  });
});
