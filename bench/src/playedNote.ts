/** From the message of a MIDI key that reaches the page to the first sample of its note, in the page's own audio. */
import type { Page } from 'playwright-core';
import { median } from '@plundra/core/signal';
import type { SpeedRow } from './pages.ts';

const NOTES = 20;
/** A note plays in again when the one before has rung out. */
const PAUSE_MS = 1500;

export async function measurePlayedNote(page: Page, url: string): Promise<SpeedRow[]> {
  await page.addInitScript(simulateKeyboard);
  await page.addInitScript(tapSound);
  await page.goto(url);
  await page.getByRole('button', { name: 'Open the demo' }).click();
  await page.waitForURL(/\/timeline$/, { timeout: 60_000 });
  await page.getByRole('button', { name: 'Synth line', exact: true }).click();
  await page.getByRole('button', { name: 'Play in' }).click();
  await page.getByRole('button', { name: /MIDI keyboard/ }).click();
  await page.waitForTimeout(PAUSE_MS);
  // The instruments are fetched with the first note.
  await page.evaluate(strike, 60).catch(() => 0);
  const seconds: number[] = [];
  for (let i = 0; i < NOTES; i++) {
    await page.waitForTimeout(PAUSE_MS);
    seconds.push(await page.evaluate(strike, 67 + (i % 5)));
  }
  return [
    {
      what: `a MIDI key that reaches the page to the first sample of its note (median of ${NOTES}; the way to the loudspeaker comes on top)`,
      wanted: '≤ 20 ms',
      measured: `${(1000 * median(seconds)).toFixed(1)} ms`,
    },
  ];
}

interface Bench {
  keyboard(...bytes: number[]): void;
  tap?: { analyser: AnalyserNode; context: BaseAudioContext };
}

/** In the page: a keyboard that is not there; it takes the bytes of messages. */
function simulateKeyboard(): void {
  const input = new EventTarget() as EventTarget & { onmidimessage?: (event: unknown) => void; name: string };
  input.name = 'Harbour keys';
  const access = { inputs: new Map([['1', input]]), onstatechange: null };
  Object.defineProperty(navigator, 'requestMIDIAccess', { value: () => Promise.resolve(access) });
  (window as unknown as Bench).keyboard = (...bytes) =>
    input.onmidimessage?.({ data: Uint8Array.from(bytes) });
}

/** In the page: hears what goes to the loudspeakers. */
function tapSound(): void {
  const store = window as unknown as Bench;
  const connect = AudioNode.prototype.connect as (...args: unknown[]) => AudioNode;
  AudioNode.prototype.connect = function (this: AudioNode, target: unknown, ...rest: unknown[]) {
    if (target instanceof AudioDestinationNode && !store.tap) {
      const analyser = this.context.createAnalyser();
      analyser.fftSize = 8192;
      store.tap = { analyser, context: this.context };
      connect.call(this, analyser);
    }
    return connect.call(this, target, ...rest);
  } as typeof AudioNode.prototype.connect;
}

/** In the page: strikes a key; seconds on the clock of the audio until its first sample, 0 where none came. */
async function strike(midi: number): Promise<number> {
  const { keyboard, tap } = window as unknown as Bench;
  const before = tap?.context.currentTime ?? 0;
  keyboard(0x90, midi, 110);
  const until = performance.now() + 1000;
  let found = 0;
  while (found === 0 && performance.now() < until) {
    await new Promise((resolve) => setTimeout(resolve, 4));
    const now = (window as unknown as Bench).tap;
    if (!now) continue;
    const data = new Float32Array(8192);
    now.analyser.getFloatTimeDomainData(data);
    const { currentTime, sampleRate } = now.context;
    const first = data.findIndex((value) => Math.abs(value) > 1e-4);
    if (first >= 0) found = currentTime - (data.length - first) / sampleRate - before;
  }
  keyboard(0x80, midi, 0);
  return found;
}
