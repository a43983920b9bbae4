import { appForEachTest, openDemo, readPart } from './app.ts';
import { it } from 'vitest';
const app = appForEachTest();
it('shots', async () => {
  const { page } = app;
  await openDemo(page);
  await page.waitForTimeout(800);
  await page.screenshot({ path: 'tmp/s1.png' });
  await page.getByRole('checkbox', { name: 'Count-in' }).check();
  await page.getByRole('button', { name: 'Record', exact: true }).click();
  await page.waitForTimeout(6500);
  await page.screenshot({ path: 'tmp/s2.png' });
  await page.getByRole('button', { name: 'Stop recording' }).click();
  await page.waitForTimeout(1500);
  await page.keyboard.press('Control+z');
  await page.waitForTimeout(500);
  await readPart(page, 'Backing voice');
  await page.getByTestId('step-tune').click();
  await page.getByRole('button', { name: 'Pull to the rails' }).click();
  await page.waitForTimeout(1500);
  await page.screenshot({ path: 'tmp/s3.png' });
  await page.getByRole('link', { name: 'Chords', exact: true }).click();
  await page
    .locator('.chord-bar')
    .first()
    .click({ position: { x: 20, y: 50 } });
  await page.keyboard.type('G\nBm7\nCsus2\nD7/F#\nEm\n');
  await page
    .locator('.chord-bar')
    .nth(5)
    .click({ position: { x: 120, y: 50 } });
  await page.keyboard.type('Csus2\nF#m7b5\n');
  await page
    .locator('.chord-box')
    .nth(2)
    .click({ position: { x: 14, y: 22 } });
  await page.waitForTimeout(600);
  await page.screenshot({ path: 'tmp/s4.png' });
  await page.setViewportSize({ width: 900, height: 700 });
  await page.waitForTimeout(600);
  await page.screenshot({ path: 'tmp/s5.png' });
  await page.getByRole('link', { name: 'Notes', exact: true }).click();
  await page.waitForTimeout(900);
  await page.getByRole('button', { name: 'More of the transport' }).click();
  await page.waitForTimeout(400);
  await page.screenshot({ path: 'tmp/s6.png' });
});
