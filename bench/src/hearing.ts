/** How soon an edit is heard while the song plays: from the key, or from letting go, until the first sample that it changes is due. */
import { readFileSync } from 'node:fs';
import type { Page } from 'playwright-core';
import { encodeWav } from '@plundra/core/formats';
import { createRandom, median } from '@plundra/core/signal';
import type { NotePart, RecordingPart } from '@plundra/core/song';
import { makeSong } from './makeSong.ts';
import type { SpeedRow } from './pages.ts';
import type { PreparedSong } from './screen.ts';

const EDITS = 20;
const REARRANGED = 10;
/** Between edits: what the last one made is over. */
const PAUSE_MS = 400;
const TRIMMED_SECONDS = 20;
/** The whole song is in sight, and room behind it: a drag to the edge would scroll. */
const ZOOM = 1.4;

interface Watched {
  /** When what was pressed or let go last was, and when the first sound after it is due; 0: none yet. */
  pressed: number;
  source: number;
  /** Of a passage that is made while it plays: when it was there. */
  stream: number;
  note: number;
}

type Heard = 'source' | 'stream' | 'note';

/** Runs in the page before its own code: when recordings are started and notes are struck. */
function watchStarts(): void {
  const store = window as unknown as { watched: Watched; audio?: BaseAudioContext };
  store.watched = { pressed: 0, source: 0, stream: 0, note: 0 };
  const due = (audioSeconds: number, context: BaseAudioContext) =>
    performance.now() + Math.max(0, audioSeconds - context.currentTime) * 1000;
  // Of several that are begun at the same time, as the rounds of a loop are, the first counts.
  const earliest = (before: number, now: number) => (before > 0 ? Math.min(before, now) : now);
  const start = AudioBufferSourceNode.prototype.start as (...args: (number | undefined)[]) => void;
  AudioBufferSourceNode.prototype.start = function (this: AudioBufferSourceNode, ...args) {
    store.watched.source = earliest(store.watched.source, due(args[0] ?? 0, this.context));
    start.apply(this, args);
  };
  const Node = AudioWorkletNode;
  window.AudioWorkletNode = class extends Node {
    constructor(context: BaseAudioContext, name: string, options?: AudioWorkletNodeOptions) {
      super(context, name, options);
      if (name !== 'stream') return;
      this.port.addEventListener('message', ({ data }: MessageEvent<{ hereSeconds?: number }>) => {
        if (data.hereSeconds === undefined) return;
        const here = performance.now() + (data.hereSeconds - context.currentTime) * 1000;
        store.watched.stream = earliest(store.watched.stream, here);
      });
    }
  };
  const connect = AudioNode.prototype.connect as (...all: unknown[]) => unknown;
  AudioNode.prototype.connect = function (this: AudioNode, ...all: unknown[]) {
    store.audio = this.context;
    return connect.apply(this, all);
  } as typeof AudioNode.prototype.connect;
  const post = MessagePort.prototype.postMessage as (...all: unknown[]) => void;
  MessagePort.prototype.postMessage = function (this: MessagePort, ...all: unknown[]) {
    const { messageData, options } =
      (all[0] as { data?: { messageData?: Uint8Array; options?: { time?: number } } } | null)?.data ?? {};
    if (messageData && (messageData[0] & 0xf0) === 0x90 && messageData[2] > 0)
      store.watched.note = earliest(store.watched.note, due(options?.time ?? 0, store.audio!));
    post.apply(this, all);
  } as typeof MessagePort.prototype.postMessage;
  for (const type of ['keydown', 'pointerup'])
    window.addEventListener(type, (event) => (store.watched.pressed = event.timeStamp), { capture: true });
}

/** Milliseconds from an edit until what it changes is due. */
async function waitFor(page: Page, what: Heard, edit: () => Promise<void>): Promise<number> {
  await page.waitForTimeout(PAUSE_MS);
  await page.evaluate(() =>
    Object.assign((window as unknown as { watched: Watched }).watched, {
      source: 0,
      stream: 0,
      note: 0,
    }),
  );
  await edit();
  const wait = await page.waitForFunction((which) => {
    const { watched } = window as unknown as { watched: Watched };
    return watched[which] > 0 ? watched[which] - watched.pressed : false;
  }, what);
  return Number(await wait.jsonValue());
}

/** Key press to the time at which the sound with the moved note is due, while the passage runs in a loop. */
export async function measureHearing(page: Page): Promise<number> {
  await page.evaluate(watchStarts);
  // There the arrows move the rail of a note, which is heard; while cleaning up they only name it.
  await page.getByTestId('step-tune').click();
  await page.keyboard.press('1');
  await page.keyboard.press('Control+a');
  await page.keyboard.press('l');
  await page.keyboard.press('Space');
  await page.getByRole('button', { name: 'Stop' }).waitFor();
  await page.keyboard.press('Escape');
  await page.keyboard.press('n');
  const waits: number[] = [];
  for (let i = 0; i < EDITS; i++)
    waits.push(
      await waitFor(page, 'source', () => page.keyboard.press(i % 2 === 0 ? 'ArrowUp' : 'ArrowDown')),
    );
  await page.keyboard.press('Space');
  return median(waits);
}

/** On the Timeline while it plays: a passage moved by a key, an end that was dragged, another tempo. */
export async function measureRearranging(
  page: Page,
  url: string,
  { id, seconds }: PreparedSong,
): Promise<SpeedRow[]> {
  await page.addInitScript('globalThis.__name = (named) => named');
  await page.addInitScript(watchStarts);
  const rows: SpeedRow[] = [];
  for (const { what, songId, sound, part } of [
    { what: 'a recording', songId: id, sound: 'source' as const, part: 'Voice' },
    { what: 'a part of notes', songId: await prepareNotes(url), sound: 'note' as const, part: 'Keys' },
  ]) {
    await page.goto(`${url}/songs/${songId}/timeline`);
    const picture = page.getByRole('img', { name: new RegExp(`^${part}:`) });
    const box = (await picture.boundingBox())!;
    await page.waitForTimeout(1000);
    await page.getByRole('button', { name: 'Zoom out' }).click();
    await picture.click({ position: { x: box.width / 3, y: box.height / 2 } });
    await page.keyboard.press(sound === 'source' ? '1' : '3');
    await page.keyboard.press('Space');
    await page.getByRole('button', { name: 'Stop', exact: true }).waitFor({ timeout: 30_000 });
    await page.waitForTimeout(2000);
    const moved: number[] = [];
    for (let i = 0; i < REARRANGED; i++)
      moved.push(
        await waitFor(page, sound, () =>
          page.keyboard.press(i % 2 === 0 ? 'Alt+ArrowRight' : 'Alt+ArrowLeft'),
        ),
      );
    const others: number[] = [];
    for (let i = 0; i < REARRANGED; i++)
      others.push(
        await (sound === 'source'
          ? trimmed(page, box, seconds, i % 2 === 0 ? -1 : 1)
          : retimed(page, sound, i % 2 === 0 ? 118 : 120)),
      );
    await page.keyboard.press('Space');
    rows.push({
      what: `on the Timeline while ${what} sounds: moved by a key, ${sound === 'source' ? 'its end dragged' : 'another tempo'}; until the first sample that it changes is due (medians of ${REARRANGED})`,
      wanted: '≤ 50 ms',
      measured: `${median(moved).toFixed(0)} ms, ${median(others).toFixed(0)} ms`,
    });
  }
  return rows;
}

/** While a recording sounds that follows the tempo of the song: another tempo, and moved by a key. */
export async function measureFollowingSound(page: Page, url: string): Promise<SpeedRow[]> {
  await page.addInitScript('globalThis.__name = (named) => named');
  await page.addInitScript(watchStarts);
  const rows: SpeedRow[] = [];
  for (const { what, sound, material } of [
    { what: 'a hand drum', sound: demoRecording('ferry-hand-drum'), material: 'drums' as const },
    { what: 'a strummed guitar', sound: demoRecording('ferry-steel-guitar'), material: 'guitar' as const },
    { what: 'chords held for 15 s', sound: heldChords(), material: 'keys' as const },
  ]) {
    await page.goto(`${url}/songs/${await prepareFollowingSound(url, sound, material)}/timeline`);
    const picture = page.getByRole('img', { name: /^Loop:/ });
    const box = (await picture.boundingBox())!;
    await page.waitForTimeout(2000);
    await picture.click({ position: { x: box.width / 3, y: box.height / 2 } });
    await page.keyboard.press('Space');
    await page.getByRole('button', { name: 'Stop', exact: true }).waitFor({ timeout: 30_000 });
    await page.waitForTimeout(2000);
    const retempo: number[] = [];
    for (let i = 0; i < REARRANGED; i++) retempo.push(await retimed(page, 'stream', FIRST_BPM + (i % 5) * 3));
    await page.keyboard.press('Space');
    await page.keyboard.press('Home');
    await page.keyboard.press('Space');
    await page.waitForTimeout(1000);
    await picture.click({ position: { x: box.width / 3, y: box.height / 2 } });
    const moved: number[] = [];
    for (let i = 0; i < REARRANGED; i++)
      moved.push(
        await waitFor(page, 'stream', () =>
          page.keyboard.press(i % 2 === 0 ? 'Alt+ArrowRight' : 'Alt+ArrowLeft'),
        ),
      );
    await page.keyboard.press('Space');
    rows.push({
      what: `on the Timeline while ${what} of ${FOLLOWING_SECONDS} s sounds that follows the tempo: another tempo, moved by a key; until it is heard (medians of ${REARRANGED})`,
      wanted: '≤ 50 ms',
      measured: `${median(retempo).toFixed(0)} ms, ${median(moved).toFixed(0)} ms`,
    });
  }
  return rows;
}

const FOLLOWING_SECONDS = 40;
/** Other than that of the song, and than the one that was recorded. */
const FIRST_BPM = 104;

const demoRecording = (name: string): BodyInit =>
  readFileSync(new URL(`../../demo/data/${name}.flac`, import.meta.url));

/** A chord that swells and stays, with a breath of noise; nothing in it is an attack for 15 s. */
function heldChords(): BodyInit {
  const rateHz = 44100;
  const random = createRandom(15);
  const sound = Float32Array.from({ length: FOLLOWING_SECONDS * rateHz }, (_, i) => {
    const seconds = i / rateHz;
    const level = 0.1 * Math.min(1, (seconds % 15) / 0.5);
    const chord = [220, 277.2, 329.6, 440].reduce(
      (sum, hz, k) => sum + Math.sin(2 * Math.PI * hz * (1 + 0.001 * k) * seconds),
      0,
    );
    return level * chord + 0.002 * (random() - 0.5);
  });
  return new Blob([new Uint8Array(encodeWav([sound], rateHz, 16))]);
}

async function prepareFollowingSound(
  url: string,
  sound: BodyInit,
  material: RecordingPart['material'],
): Promise<string> {
  const response = await fetch(`${url}/api/recordings`, {
    method: 'POST',
    headers: { 'x-file-name': 'Loop' },
    body: sound,
  });
  const { hash } = (await response.json()) as { hash: string };
  const part: RecordingPart = {
    kind: 'recording',
    id: 'loop',
    name: 'Loop',
    mark: 'LO',
    colour: 0,
    levelDb: 0,
    pan: 0,
    mute: false,
    solo: false,
    material,
    takes: [{ id: 'loop-take', recordingHash: hash, line: null }],
    passages: [
      {
        type: 'recording',
        id: 'loop-passage',
        takeId: 'loop-take',
        startTicks: 0,
        offsetSeconds: 0,
        durationSeconds: FOLLOWING_SECONDS,
        clock: { keeps: 'song', bpm: 92 },
      },
    ],
  };
  return makeSong(url, 'Loop', { type: 'part.add', part, index: 0 });
}

/** The end of the one passage dragged to another place. */
async function trimmed(
  page: Page,
  box: { x: number; y: number; width: number; height: number },
  seconds: number,
  way: number,
): Promise<number> {
  const pixelsPerSecond = box.width / (seconds + 1) / ZOOM;
  const from = box.x + pixelsPerSecond * (way < 0 ? seconds : seconds - TRIMMED_SECONDS) - 2;
  const y = box.y + box.height / 2;
  await page.mouse.move(from, y);
  await page.mouse.down();
  await page.mouse.move(from + way * pixelsPerSecond * TRIMMED_SECONDS, y, { steps: 3 });
  return waitFor(page, 'source', () => page.mouse.up());
}

async function retimed(page: Page, sound: Heard, bpm: number): Promise<number> {
  await page.getByRole('button', { name: /^Tempo .* bpm$/ }).click();
  const field = page.getByRole('spinbutton', { name: 'Tempo in bpm' });
  await field.fill(String(bpm));
  return waitFor(page, sound, () => field.press('Enter'));
}

/** A song with one part of quick notes. */
function prepareNotes(url: string): Promise<string> {
  const part: NotePart = {
    kind: 'notes',
    id: 'keys',
    name: 'Keys',
    mark: 'KE',
    colour: 0,
    levelDb: 0,
    pan: 0,
    mute: false,
    solo: false,
    program: 4,
    passages: [
      {
        type: 'notes',
        id: 'keys-passage',
        startTicks: 0,
        lengthTicks: 600 * 960,
        notes: Array.from({ length: 600 }, (_, i) => ({
          id: `n${i}`,
          startTicks: i * 960,
          lengthTicks: 900,
          midi: 60 + (i % 12),
          velocity: 80,
        })),
      },
    ],
  };
  return makeSong(url, 'Notes', { type: 'part.add', part, index: 0 });
}
