/** Speed and memory of reading notes and chords: in Node, each run in a process of its own, and in a browser worker. */
import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { build } from 'esbuild';
import { chromium } from 'playwright-core';
import { encodeWav } from '@plundra/core/formats';
import { median, resample } from '@plundra/core/signal';
import type { SpeedRow } from '../pages.ts';
import { chordalClips } from './clips.ts';

const RUNS = 3;
const RATE = 44100;
const NOTES_SECONDS = 600;
const CHORDS_SECONDS = 240;
const BROWSER_SECONDS = 120;
const here = (name: string) => fileURLToPath(new URL(name, import.meta.url));

interface Run {
  seconds: number;
  timesRealTime: number;
  peakMegabytes: number;
}

export async function measureChordalSpeed(): Promise<SpeedRow[]> {
  const folder = mkdtempSync(join(tmpdir(), 'plundra-chordal-'));
  try {
    const sound = await playing(NOTES_SECONDS);
    const file = (name: string, seconds: number) => {
      const path = join(folder, name);
      writeFileSync(path, encodeWav([sound.subarray(0, seconds * RATE)], RATE));
      return path;
    };
    const notes = runs(file('notes.wav', NOTES_SECONDS), 'notes');
    const inBrowser = await browserRuns(sound.subarray(0, BROWSER_SECONDS * RATE), folder);
    return [
      {
        what: 'reading all notes of a 10-minute WAV file, decoding included, one core of Node',
        wanted: '≥ 15× real time',
        measured: `${notes.timesRealTime.toFixed(0)}×`,
      },
      {
        what: 'peak memory of the whole process while doing so',
        wanted: '≤ 400 MB',
        measured: `${notes.peakMegabytes.toFixed(0)} MB`,
      },
      {
        what: 'reading all notes in a worker of headless Chromium, the same code, two minutes',
        wanted: '≥ 15× real time',
        measured: `${(BROWSER_SECONDS / median(inBrowser)).toFixed(0)}×`,
      },
    ];
  } finally {
    rmSync(folder, { recursive: true });
  }
}

export async function measureChordsSpeed(): Promise<SpeedRow[]> {
  const folder = mkdtempSync(join(tmpdir(), 'plundra-chords-'));
  try {
    const path = join(folder, 'chords.wav');
    writeFileSync(path, encodeWav([await playing(CHORDS_SECONDS)], RATE));
    const { seconds, peakMegabytes } = runs(path, 'chords');
    return [
      {
        what: 'tempo, key and chords of a 4-minute WAV file, decoding included, one core of Node',
        wanted: '≤ 6 s',
        measured: `${seconds.toFixed(1)} s`,
      },
      {
        what: 'peak memory of the whole process while doing so',
        wanted: '≤ 500 MB',
        measured: `${peakMegabytes.toFixed(0)} MB`,
      },
    ];
  } finally {
    rmSync(folder, { recursive: true });
  }
}

/** Clips of the check set one after the other, until so many seconds are full. */
async function playing(seconds: number): Promise<Float32Array> {
  const samples = new Float32Array(seconds * RATE);
  let filled = 0;
  for await (const clip of chordalClips('check', 1)) {
    const own = resample(clip.samples, clip.sampleRateHz, RATE);
    samples.set(own.subarray(0, samples.length - filled), filled);
    filled = Math.min(samples.length, filled + own.length);
  }
  for (let at = filled; at < samples.length; at += filled)
    samples.copyWithin(at, 0, Math.min(filled, samples.length - at));
  return samples;
}

function runs(path: string, what: 'notes' | 'chords'): Run {
  const all = Array.from({ length: RUNS }, () => {
    const result = spawnSync(
      'taskset',
      ['-c', '0', process.execPath, '--import', 'tsx', here('speedRun.ts'), path, what],
      { encoding: 'utf8' },
    );
    if (result.status !== 0) throw new Error(`The speed run failed: ${result.stderr}`);
    return JSON.parse(result.stdout) as Run;
  });
  const middle = (field: keyof Run) => median(all.map((run) => run[field]));
  return {
    seconds: middle('seconds'),
    timesRealTime: middle('timesRealTime'),
    peakMegabytes: middle('peakMegabytes'),
  };
}

/** Seconds of each run; the first, in which the browser still compiles, does not count. */
async function browserRuns(samples: Float32Array, folder: string): Promise<number[]> {
  const outfile = join(folder, 'worker.js');
  await build({ entryPoints: [here('browserWorker.ts')], bundle: true, format: 'iife', outfile });
  const browser = await chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-background-networking'],
  });
  try {
    const page = await browser.newPage();
    const wav = Buffer.from(encodeWav([samples], RATE)).toString('base64');
    await page.route('**/*', (route) => {
      const worker = route.request().url().endsWith('worker.js');
      return worker
        ? route.fulfill({ path: outfile, contentType: 'text/javascript' })
        : route.fulfill({ body: '<!doctype html>', contentType: 'text/html' });
    });
    await page.goto('http://127.0.0.1/');
    const seconds: number[] = [];
    for (let i = 0; i <= RUNS; i++) {
      const took = await page.evaluate(
        async ({ wav, rate }) => {
          const bytes = Uint8Array.from(atob(wav), (character) => character.charCodeAt(0));
          const buffer = await new OfflineAudioContext(1, 1, rate).decodeAudioData(bytes.buffer);
          const worker = new Worker('/worker.js');
          const answer = new Promise<{ seconds: number; notes: number }>((resolve, reject) => {
            worker.onmessage = ({ data }) => resolve(data as { seconds: number; notes: number });
            worker.onerror = ({ message }) => reject(new Error(message));
          });
          worker.postMessage({ samples: buffer.getChannelData(0), sampleRateHz: rate });
          const { seconds, notes } = await answer;
          worker.terminate();
          if (notes === 0) throw new Error('The worker read nothing.');
          return seconds;
        },
        { wav, rate: RATE },
      );
      if (i > 0) seconds.push(took);
    }
    return seconds;
  } finally {
    await browser.close();
  }
}
