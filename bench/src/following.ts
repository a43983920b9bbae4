/**
 * How soon a changed chord is heard in a part that follows the chords: the song plays, the chord under the playhead is typed
 * anew, and the first note of the part that the sampler is told to strike is due.
 */
import type { Page } from 'playwright-core';
import { median } from '@plundra/core/signal';
import type { NotePart } from '@plundra/core/song';
import type { Chord } from '@plundra/core/theory';
import { makeSong } from './makeSong.ts';

const BARS = 60;
const BAR_TICKS = 3840;
const EDITS = 10;
const C: Chord = { root: 'C', degrees: ['1', '3', '5'] };
const NAMES = ['Dm', 'F', 'G7', 'Am'];

/** A song with a chord of a whole bar in every bar, and two parts that follow. */
export function prepareFollowing(url: string): Promise<string> {
  const changes = Array.from({ length: BARS }, (_, bar) => ({
    id: `c${bar}`,
    startTicks: bar * BAR_TICKS,
    chord: C,
  }));
  const part = (id: string, mark: string, pitches: number[]): NotePart => ({
    kind: 'notes',
    id,
    name: id,
    mark,
    colour: 0,
    levelDb: 0,
    pan: 0,
    mute: false,
    solo: false,
    program: 4,
    follows: { aim: 'chord', way: 'root', bassOnBass: false, writtenOver: changes },
    passages: [
      {
        type: 'notes',
        id: `${id}-passage`,
        startTicks: 0,
        lengthTicks: BARS * BAR_TICKS,
        notes: Array.from({ length: BARS }, (_, bar) =>
          pitches.map((midi, i) => ({
            id: `${id}${bar}-${i}`,
            startTicks: bar * BAR_TICKS,
            lengthTicks: BAR_TICKS - 60,
            midi,
            velocity: 80,
          })),
        ).flat(),
      },
    ],
  });
  return makeSong(url, 'Following', {
    type: 'batch',
    edits: [
      { type: 'part.add', part: part('keys', 'KE', [60, 64, 67]), index: 0 },
      { type: 'part.add', part: part('bass', 'BA', [36]), index: 1 },
      { type: 'changes.put', remove: [], put: changes },
    ],
  });
}

interface Watched {
  /** Channels of the sampler that the parts play on. */
  channels: number[];
  watching: 'channels' | 'edit' | null;
  pressed: number;
  due: Record<number, number>;
}

/** Milliseconds from the key to the first note that is due in the part that comes last; the median. */
export async function measureFollowing(page: Page, url: string): Promise<number> {
  // The compiler names inner functions through a helper that the page does not have.
  await page.addInitScript('globalThis.__name = (named) => named');
  await page.addInitScript(() => {
    const store = window as unknown as { watched: Watched; audio?: BaseAudioContext };
    store.watched = { channels: [], watching: null, pressed: 0, due: {} };
    const connect = AudioNode.prototype.connect as (...all: unknown[]) => unknown;
    AudioNode.prototype.connect = function (this: AudioNode, ...all: unknown[]) {
      store.audio = this.context;
      return connect.apply(this, all);
    } as typeof AudioNode.prototype.connect;
    const post = MessagePort.prototype.postMessage as (...all: unknown[]) => void;
    MessagePort.prototype.postMessage = function (this: MessagePort, ...all: unknown[]) {
      const { messageData, options } =
        (all[0] as { data?: { messageData?: Uint8Array; options?: { time?: number } } } | null)?.data ?? {};
      const { watched } = store;
      if (messageData && (messageData[0] & 0xf0) === 0x90 && messageData[2] > 0) {
        const channel = messageData[0] & 0x0f;
        if (watched.watching === 'channels') watched.channels.push(channel);
        if (watched.watching === 'edit')
          watched.due[channel] ??=
            performance.now() +
            Math.max(0, (options?.time ?? 0) - store.audio!.currentTime) * 1000 -
            watched.pressed;
      }
      post.apply(this, all);
    } as typeof MessagePort.prototype.postMessage;
    window.addEventListener(
      'keydown',
      (event) => {
        if (event.key === 'Enter')
          Object.assign(watchedOf(), { pressed: event.timeStamp, due: {}, watching: 'edit' });
      },
      { capture: true },
    );
    const watchedOf = () => store.watched;
  });
  const set = (watching: Watched['watching']) =>
    page.evaluate((value) => {
      (window as unknown as { watched: Watched }).watched.watching = value;
    }, watching);
  await page.goto(url);
  await page.getByTestId('chord-sheet').waitFor();
  await set('channels');
  await page.keyboard.press('Space');
  await page.getByRole('button', { name: 'Stop', exact: true }).waitFor({ timeout: 30_000 });
  await page.waitForTimeout(2500);
  await set(null);
  const waits: number[] = [];
  for (let i = 0; i < EDITS; i++) {
    // A little after the bar line: the chord of this bar sounds, and the next start is far away.
    const bar = await page.evaluate(async () => {
      const position = () =>
        document.querySelector('[data-testid="position"]')!.textContent.split('.').map(Number);
      const [first] = position();
      while (position()[0] === first) await new Promise((resolve) => setTimeout(resolve, 10));
      return position()[0];
    });
    // On the chord itself: further right would be another beat of its bar.
    const chord = page.locator(`[data-bar="${bar}"]`).getByRole('button').first();
    await chord.click({ position: { x: 10, y: 20 } });
    const field = page.getByRole('textbox', { name: 'Chord' });
    await field.fill(NAMES[i % NAMES.length]);
    await field.press('Enter');
    await page.waitForTimeout(400);
    const { channels, due } = await page.evaluate(() => (window as unknown as { watched: Watched }).watched);
    await set(null);
    waits.push(Math.max(...[...new Set(channels)].map((channel) => due[channel] ?? Infinity)));
  }
  await page.keyboard.press('Escape');
  return median(waits);
}
