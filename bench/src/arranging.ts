/** What the user feels on the Timeline of a large arrangement: 40 parts, 1,000 passages, 20,000 notes, an hour. */
import type { Page } from 'playwright-core';
import { encodeWav } from '@plundra/core/formats';
import { createRandom, median } from '@plundra/core/signal';
import { wholeRecording, type NotePart, type RecordingPart } from '@plundra/core/song';
import type { SpeedRow } from './pages.ts';
import { medianFrame, paintOfKey } from './screen.ts';

const PARTS = 40;
const PASSAGES = 25;
const NOTES = 1000;
const SECONDS = 3600;
/** Where takes are chosen phrases must be wide enough to be clicked. */
const SECONDS_WITH_TAKES = 600;
/** At 120 bpm. */
const TICKS_PER_SECOND = 1920;
const SELECTED = 50;
const RUNS = 5;
const EDITS = 12;

const strip = (name: string, i: number) => ({
  id: name.replace(' ', '-'),
  name,
  mark: 'XX',
  colour: i % 10,
  levelDb: 0,
  pan: 0,
  mute: false,
  solo: false,
});

/** Half of the parts hold recordings, cut into passages with a little room between; half hold notes. */
async function prepareArrangement(url: string, withTakes: boolean): Promise<string> {
  const seconds = withTakes ? SECONDS_WITH_TAKES : SECONDS;
  const spacing = seconds / PASSAGES;
  const call = async <T>(route: string, body: unknown, type = 'application/json'): Promise<T> => {
    const response = await fetch(url + route, {
      method: 'POST',
      headers: { 'Content-Type': type, Connection: 'close' },
      body: (type === 'application/json' ? JSON.stringify(body) : body) as BodyInit,
    });
    if (!response.ok) throw new Error(await response.text());
    return (await response.json()) as T;
  };
  // Some minutes, played again and again by takes of their own.
  const rate = 8000;
  const random = createRandom(9);
  const samples = Float32Array.from(
    { length: (withTakes ? seconds : spacing) * rate },
    (_, i) => 0.3 * Math.sin(i / 9) * random() * Math.max(0, Math.sin(i / 4000)),
  );
  const recording = await call<{ hash: string; durationSeconds: number }>(
    '/api/recordings',
    encodeWav([samples], rate),
    'application/octet-stream',
  );
  const parts = Array.from({ length: PARTS }, (_, p): RecordingPart | NotePart => {
    if (p % 2 === 0) {
      const all = Array.from({ length: PASSAGES }, (_each, k) =>
        wholeRecording(
          { ...recording, durationSeconds: spacing },
          Math.round(k * spacing * TICKS_PER_SECOND),
          () => `p${p}-${k}`,
        ),
      );
      return {
        ...strip(`Recording ${p}`, p),
        kind: 'recording',
        material: 'voice',
        takes: all.flatMap(({ takes }) => takes),
        passages: all.flatMap(({ passages }) =>
          passages.map((passage) => ({ ...passage, durationSeconds: spacing * 0.9 })),
        ),
      };
    }
    return {
      ...strip(`Notes ${p}`, p),
      kind: 'notes',
      program: 4,
      passages: Array.from({ length: PASSAGES }, (_each, k) => ({
        type: 'notes',
        id: `k${p}-${k}`,
        startTicks: Math.round(k * spacing * TICKS_PER_SECOND),
        lengthTicks: Math.round(0.9 * spacing * TICKS_PER_SECOND),
        offsetTicks: 0,
        notes: Array.from({ length: NOTES / PASSAGES }, (_note, i) => ({
          id: `n${p}-${k}-${i}`,
          startTicks: i * 5000,
          lengthTicks: 900,
          midi: 40 + Math.floor(random() * 40),
          velocity: 80,
        })),
      })),
    };
  });
  if (withTakes) parts[0] = { ...(parts[0] as RecordingPart), ...takesOf(recording.hash) };
  const { song } = await call<{ song: { id: string } }>('/api/songs', { title: 'Large arrangement' });
  for (const [i, part] of parts.entries())
    await call(`/api/songs/${song.id}/steps`, {
      clientId: 'bench',
      baseRevision: i,
      steps: [
        {
          requestId: `part ${i}`,
          step: { kind: 'do', id: `part ${i}`, label: 'Import', edit: { type: 'part.add', part, index: i } },
        },
      ],
    });
  return song.id;
}

const TAKES = 10;
const PHRASES = 40;
const NOTES_IN_PHRASE = 6;

/** Takes of the same ten minutes, read and cut into phrases, of which each time another is chosen. */
function takesOf(recordingHash: string): Pick<RecordingPart, 'takes' | 'passages'> {
  const phrase = SECONDS_WITH_TAKES / PHRASES;
  const noteSeconds = phrase / NOTES_IN_PHRASE;
  const takes = Array.from({ length: TAKES }, (_, t) => ({
    id: `t${t}`,
    recordingHash,
    line: {
      readingId: 'none',
      tuningCents: 0,
      notes: Array.from({ length: PHRASES * NOTES_IN_PHRASE }, (_note, i) => ({
        id: `t${t}.${i}`,
        startSeconds: i * noteSeconds,
        endSeconds: (i + 0.8) * noteSeconds,
        midi: 60 + ((i * 5 + t) % 12) + t / 40,
        velocity: 80,
        confidence: 0.95,
      })),
    },
  }));
  const passages = takes.flatMap(({ id }, t) =>
    Array.from({ length: PHRASES }, (_, k) => ({
      type: 'recording' as const,
      id: `${id}-${k}`,
      takeId: id,
      startTicks: Math.round(k * phrase * TICKS_PER_SECOND),
      offsetSeconds: k * phrase,
      durationSeconds: phrase,
      ...(k % TAKES !== t && { spare: true as const }),
    })),
  );
  return { takes, passages };
}

/** Moves what is selected back and forth; milliseconds from each key until it is painted. */
async function paintsOfKeys(page: Page): Promise<number[]> {
  const paints: number[] = [];
  for (let i = 0; i < EDITS; i++) {
    paints.push(await paintOfKey(page, i % 2 === 0 ? 'ArrowRight' : 'ArrowLeft'));
    await page.waitForTimeout(300);
  }
  return paints;
}

/** @param withTakes the first part has a take table, which is open */
export async function measureArranging(page: Page, url: string, withTakes = false): Promise<SpeedRow[]> {
  const id = await prepareArrangement(url, withTakes);
  if (withTakes) {
    await page.goto(url);
    await page.evaluate((songId) => localStorage.setItem(`takes:${songId}`, 'Recording-0'), id);
  }
  const opening: number[] = [];
  for (let i = 0; i < RUNS; i++) {
    const start = performance.now();
    await page.goto(`${url}/songs/${id}/timeline`);
    await page.getByRole('img', { name: `Notes ${PARTS - 1}: ${PASSAGES} passages` }).waitFor();
    opening.push(performance.now() - start);
  }
  if (withTakes) await page.getByTestId('take-table').waitFor();
  await page.waitForTimeout(1500);
  const box = (await page.getByRole('img', { name: /^Recording 0:/ }).boundingBox())!;
  await page.mouse.move(box.x + 300, box.y + 30);
  const scroll = await medianFrame(page, async () => {
    for (let i = 0; i < 60; i++) await page.mouse.wheel(i % 2 === 0 ? 40 : -30, 0);
    await page.keyboard.down('Control');
    for (let i = 0; i < 40; i++) await page.mouse.wheel(0, i < 20 ? -20 : 20);
    await page.keyboard.up('Control');
  });
  // The passages of the first parts, one by one, where the whole song is in sight.
  await page.reload();
  await page.getByRole('img', { name: /^Recording 0:/ }).waitFor();
  await page.waitForTimeout(1000);
  const [left, right] = [box.x, box.x + box.width - 2];
  const step = box.height + 1;
  const inRow = withTakes ? PHRASES : PASSAGES;
  const rows = withTakes ? 1 : SELECTED / PASSAGES;
  /** The first passages of each of the first parts. */
  const choose = async (ofRow: number) => {
    await page.keyboard.press('Escape');
    for (let row = 0; row < rows; row++)
      for (let k = 0; k < ofRow; k++) {
        await page.keyboard.down('Shift');
        await page.mouse.click(left + ((k + 0.5) / inRow) * (right - left), box.y + row * step + 30);
        await page.keyboard.up('Shift');
      }
  };
  await choose(inRow);
  await page.getByRole('heading', { name: /passages$/ }).waitFor();
  const chosen = Number((await page.getByRole('heading', { name: /passages$/ }).innerText()).split(' ')[0]);
  const drag = await medianFrame(page, async () => {
    await page.mouse.move(left + 12, box.y + 30);
    await page.mouse.down();
    for (let i = 0; i < 80; i++) await page.mouse.move(left + 10 + (i % 40), box.y + 30);
    await page.keyboard.press('Escape');
    await page.mouse.up();
  });
  const acknowledgements: number[] = [];
  page.on('requestfinished', (request) => {
    if (request.url().endsWith('/steps')) acknowledgements.push(request.timing().responseEnd);
  });
  const paints = await paintsOfKeys(page);
  const client = await page.context().newCDPSession(page);
  await client.send('HeapProfiler.collectGarbage');
  const { usedSize } = (await client.send('Runtime.getHeapUsage')) as { usedSize: number };
  if (withTakes) {
    // As many as without a table, with what the other takes have for these phrases.
    await choose(SELECTED / TAKES);
    const ofSome = await paintsOfKeys(page);
    return [
      {
        what: `ten minutes of the same with a table of ${TAKES} takes and ${PHRASES} phrases open: frame while scrolling and zooming, while dragging ${chosen} chosen passages; a key until it is painted that moves ${SELECTED} passages, and one that moves ${TAKES * PHRASES}`,
        wanted: '≤ 16.7 ms, ≤ 16.7 ms, ≤ 50 ms',
        measured: `${scroll.toFixed(1)} ms, ${drag.toFixed(1)} ms, ${median(ofSome).toFixed(0)} ms and ${median(paints).toFixed(0)} ms`,
      },
    ];
  }
  const large = `${PARTS} parts, ${PARTS * PASSAGES} passages, ${(PARTS / 2) * NOTES} notes, an hour`;
  return [
    {
      what: `opening the Timeline of ${large} (median of ${RUNS})`,
      wanted: '≤ 2000 ms',
      measured: `${median(opening).toFixed(0)} ms`,
    },
    {
      what: 'frame while scrolling and zooming it (median)',
      wanted: '≤ 16.7 ms',
      measured: `${scroll.toFixed(1)} ms`,
    },
    {
      what: `frame while dragging ${chosen} selected passages (median)`,
      wanted: '≤ 16.7 ms',
      measured: `${drag.toFixed(1)} ms`,
    },
    {
      what: `moving ${chosen} passages by a key: until it is painted (median of ${EDITS})`,
      wanted: '≤ 50 ms',
      measured: `${median(paints).toFixed(0)} ms`,
    },
    {
      what: 'until the server has it (median)',
      wanted: '≤ 100 ms',
      measured: `${median(acknowledgements).toFixed(0)} ms`,
    },
    { what: 'memory of its page', wanted: '≤ 400 MB', measured: `${(usedSize / 1e6).toFixed(0)} MB` },
  ];
}
