/**
 * `npm run kernel`: compiles core/kernel/convolve.as (AssemblyScript) to core/src/reading/chordal/kernelBytes.ts.
 * The compiler is fetched for this only; it is not needed to build, test or run.
 */
import { execFileSync } from 'node:child_process';
import { copyFileSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

const COMPILER = 'assemblyscript@0.28.20';
const folder = mkdtempSync(join(tmpdir(), 'kernel-'));
copyFileSync(new URL('../core/kernel/convolve.as', import.meta.url), join(folder, 'convolve.ts'));
execFileSync(
  'npx',
  ['--yes', '-p', COMPILER, 'asc', 'convolve.ts', '-O3', '--noAssert', '--runtime', 'stub'].concat([
    '--enable',
    'simd',
    '--initialMemory',
    '1',
    '-o',
    'convolve.wasm',
  ]),
  { cwd: folder, stdio: ['ignore', 'inherit', 'inherit'] },
);
const base64 = readFileSync(join(folder, 'convolve.wasm')).toString('base64');
const lines = base64.match(/.{1,100}/g).map((line) => `  '${line}'`);
writeFileSync(
  new URL('../core/src/reading/chordal/kernelBytes.ts', import.meta.url),
  `/** Compiled from core/kernel/convolve.as by \`npm run kernel\`. */\nexport const KERNEL_BASE64 =\n${lines.join(' +\n')};\n`,
);
