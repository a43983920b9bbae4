/** Reading speed and memory on one core, each run in a process of its own. */
import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { encodeWav } from '@plundra/core/formats';
import { median } from '@plundra/core/signal';
import { buildSet } from './clips/sets.ts';
import type { SpeedRow } from './pages.ts';

const RUNS = 5;
const MINUTES = 10;
/** The fastest of the references; the others take minutes for this file. */
const BESIDE = ['aubiojs yinfft'];
const REFERENCE_RUNS = 3;

export async function measureSpeed(): Promise<SpeedRow[]> {
  const folder = mkdtempSync(join(tmpdir(), 'plundra-bench-'));
  try {
    const path = join(folder, 'ten-minutes.wav');
    writeFileSync(path, await tenMinutes());
    const runs = Array.from({ length: RUNS }, () => runOnce(path));
    const speed = median(runs.map((run) => run.timesRealTime));
    const memory = median(runs.map((run) => run.peakMegabytes));
    return [
      {
        what: 'this machine: multiplications with addition in a plain loop, a second (it changes with what else it does)',
        wanted: '',
        measured: `${median(Array.from({ length: RUNS }, machineSpeed)).toFixed(0)} million`,
      },
      {
        what: `reading a melody from a ${MINUTES}-minute WAV file, decoding included, one core`,
        wanted: '≥ 40× real time',
        measured: `${speed.toFixed(0)}×`,
      },
      {
        what: 'peak memory of the whole process while doing so',
        wanted: '< 300 MB',
        measured: `${memory.toFixed(0)} MB`,
      },
      ...BESIDE.map((name) => ({
        what: `reference on the same file, pitch only, decoding not included: ${name}`,
        wanted: '',
        measured: `${median(Array.from({ length: REFERENCE_RUNS }, () => runOnce(path, name).timesRealTime)).toFixed(0)}×`,
      })),
    ];
  } finally {
    rmSync(folder, { recursive: true });
  }
}

/** Millions a second; says what the other rows are worth on another day. */
function machineSpeed(): number {
  const [a, b] = [1, 2].map((seed) => Float64Array.from({ length: 4096 }, (_, i) => (i * seed) % 7));
  const rounds = 20_000;
  let sum = 0;
  const start = performance.now();
  for (let round = 0; round < rounds; round++) for (let i = 0; i < a.length; i++) sum += a[i] * b[i];
  const seconds = (performance.now() - start) / 1000;
  return sum > 0 ? (rounds * a.length) / seconds / 1e6 : 0;
}

/** Clips of the tuning set one after the other, until ten minutes are full. */
async function tenMinutes(): Promise<Uint8Array> {
  const rate = 44100;
  const samples = new Float32Array(MINUTES * 60 * rate);
  let filled = 0;
  for await (const clip of buildSet('tuning', 1)) {
    samples.set(clip.samples.subarray(0, samples.length - filled), filled);
    filled = Math.min(samples.length, filled + clip.samples.length);
  }
  for (let at = filled; at < samples.length; at += filled) {
    samples.copyWithin(at, 0, Math.min(filled, samples.length - at));
  }
  return encodeWav([samples], rate);
}

function runOnce(path: string, reference = ''): { timesRealTime: number; peakMegabytes: number } {
  const script = fileURLToPath(new URL('speedRun.ts', import.meta.url));
  const result = spawnSync(
    'taskset',
    ['-c', '0', process.execPath, '--import', 'tsx', script, path, ...(reference ? [reference] : [])],
    {
      encoding: 'utf8',
    },
  );
  if (result.status !== 0) throw new Error(`The speed run failed: ${result.stderr}`);
  return JSON.parse(result.stdout) as { timesRealTime: number; peakMegabytes: number };
}
