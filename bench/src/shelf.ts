/** A full shelf in the browser: opening it, and from a key press in the search to the list that it finds. */
import type { Page } from 'playwright-core';
import type { AddToShelf } from '@plundra/contract';
import { createRandom, median } from '@plundra/core/signal';
import { createSong } from '@plundra/core/song';
import type { SpeedRow } from './pages.ts';

const ITEMS = 2000;
const SEARCHES = 20;
const WORDS = [
  'harbour',
  'tide',
  'lantern',
  'quay',
  'anchor',
  'gull',
  'rope',
  'fog',
  'deck',
  'winch',
  'kettle',
  'ferry',
];
const MATERIALS = ['voice', 'guitar', 'keys', 'bass', 'drums', 'other'] as const;

export async function measureShelf(page: Page, url: string): Promise<SpeedRow[]> {
  const random = createRandom(31);
  const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)];
  for (let i = 0; i < ITEMS; i++) await post(url, '/api/shelf', itemOf(i, pick, random));
  const { song } = (await post(url, '/api/songs', { title: createSong('s', 'Shelf').title })) as {
    song: { id: string };
  };
  const address = `${url}/songs/${song.id}/shelf`;
  await page.goto(address);
  // What comes with the application is put there by the first look.
  await page.getByText(/^\d+ items · drop/).waitFor({ timeout: 60_000 });
  const opening: number[] = [];
  for (let i = 0; i < 5; i++) {
    const start = performance.now();
    await page.goto(address);
    await page.locator('.shelf-table .ant-table-row').first().waitFor();
    opening.push(performance.now() - start);
  }
  await page.getByText(/^\d+ items · drop/).waitFor();
  const searches: number[] = [];
  const field = page.getByLabel('Search the shelf');
  for (let i = 0; i < SEARCHES; i++) {
    const word = WORDS[i % WORDS.length];
    await field.fill('');
    await page.waitForTimeout(200);
    await field.focus();
    await page.evaluate(watchFoot);
    await page.keyboard.press(word[0]);
    searches.push(await page.evaluate(() => (window as unknown as { found: Promise<number> }).found));
  }
  return [
    {
      what: `opening the shelf with ${ITEMS} items (5 runs, median)`,
      wanted: '–',
      measured: `${median(opening).toFixed(0)} ms`,
    },
    {
      what: `key press in the search of ${ITEMS} items to the painted list (median of ${SEARCHES})`,
      wanted: '≤ 100 ms',
      measured: `${median(searches).toFixed(0)} ms`,
    },
  ];
}

function itemOf(i: number, pick: <T>(list: readonly T[]) => T, random: () => number): AddToShelf {
  const notes = Array.from({ length: 24 }, (_, k) => ({
    id: `n${k}`,
    startTicks: 160 * k,
    lengthTicks: 140,
    midi: 48 + Math.floor(24 * random()),
    velocity: 80,
  }));
  return {
    name: `${pick(WORDS)} ${pick(WORDS)} ${i}`,
    kind: 'phrase',
    material: pick(MATERIALS),
    tags: [pick(WORDS), pick(WORDS)],
    key: { fifths: Math.floor(15 * random()) - 7, mode: pick(['major', 'minor'] as const) },
    bpm: 60 + Math.round(120 * random()),
    metre: { beats: 4, unit: 4 },
    sound: { type: 'notes', program: 0, lengthTicks: 3840, upbeatTicks: 0, noteCount: notes.length },
    notes,
  };
}

async function post(url: string, path: string, body: unknown): Promise<unknown> {
  const response = await fetch(url + path, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify(body),
  });
  if (!response.ok) throw new Error(`${path}: ${await response.text()}`);
  return response.json();
}

/** In the page: from the next key press until the list that says how many it shows is on the screen. */
function watchFoot(): void {
  const foot = document.querySelector('.shelf-foot')!;
  (window as unknown as { found: Promise<number> }).found = new Promise((resolve) => {
    let start = 0;
    window.addEventListener('keydown', () => (start = performance.now()), { once: true, capture: true });
    const observer = new MutationObserver(() => {
      observer.disconnect();
      requestAnimationFrame(() => setTimeout(() => resolve(performance.now() - start)));
    });
    observer.observe(foot, { subtree: true, characterData: true, childList: true });
  });
}
