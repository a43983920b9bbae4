/** Memory that the corrected sound of long recordings takes, each in a process of its own. */
import { spawnSync } from 'node:child_process';
import { closeSync, mkdtempSync, openSync, rmSync, writeSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { encodeWavFrames, wavHead } from '@plundra/core/formats';
import { createRandom } from '@plundra/core/signal';

export interface CorrectedMemory {
  what: string;
  seconds: number;
  megabytes: number;
}

const RATE = 44_100;
const run = new URL('./correctedRun.ts', import.meta.url).pathname;

export function measureCorrectedMemory(): CorrectedMemory[] {
  const folder = mkdtempSync(join(tmpdir(), 'plundra-long-'));
  try {
    return [
      { what: 'ten minutes, all of it', recorded: 600, from: 0, to: 600 },
      { what: 'a minute out of two hours', recorded: 7200, from: 5000, to: 5060 },
    ].map(({ what, recorded, from, to }) => {
      const path = join(folder, `${recorded}.wav`);
      writeNoise(path, recorded);
      const args = ['--import', 'tsx', run, path, recorded, from, to, join(folder, 'out.wav')].map(String);
      const { stdout, stderr } = spawnSync(process.execPath, args, { encoding: 'utf8' });
      if (!stdout) throw new Error(stderr);
      return { what, ...(JSON.parse(stdout) as Omit<CorrectedMemory, 'what'>) };
    });
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

/** Stereo noise of 16 bits, a second at a time. */
function writeNoise(path: string, seconds: number): void {
  const random = createRandom(3);
  const second = [0, 1].map(() => Float32Array.from({ length: RATE }, () => random() - 0.5));
  const bytes = encodeWavFrames(second, 16);
  const format = { channels: 2, sampleRateHz: RATE, bitsPerSample: 16, float: false };
  const file = openSync(path, 'w');
  writeSync(file, wavHead(format, RATE * seconds));
  for (let i = 0; i < seconds; i++) writeSync(file, bytes);
  closeSync(file);
}
