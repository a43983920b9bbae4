/**
 * `npm run kernel`: compiles the inner loops in core/kernel (AssemblyScript) to the files named below.
 * The compiler is fetched for this only; it is not needed to build, test or run.
 */
import { execFileSync } from 'node:child_process';
import { copyFileSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

const COMPILER = 'assemblyscript@0.28.20';
const MODULES = [
  { source: 'convolve', target: 'reading/chordal/kernelBytes.ts', name: 'KERNEL_BASE64' },
  { source: 'signal', target: 'signal/signalBytes.ts', name: 'SIGNAL_BASE64' },
];

const folder = mkdtempSync(join(tmpdir(), 'kernel-'));
for (const { source, target, name } of MODULES) {
  copyFileSync(new URL(`../core/kernel/${source}.as`, import.meta.url), join(folder, `${source}.ts`));
  execFileSync(
    'npx',
    ['--yes', '-p', COMPILER, 'asc', `${source}.ts`, '-O3', '--noAssert', '--runtime', 'stub'].concat([
      '--enable',
      'simd',
      '--initialMemory',
      '1',
      '-o',
      `${source}.wasm`,
    ]),
    { cwd: folder, stdio: ['ignore', 'inherit', 'inherit'] },
  );
  const base64 = readFileSync(join(folder, `${source}.wasm`)).toString('base64');
  const lines = base64.match(/.{1,100}/g).map((line) => `  '${line}'`);
  writeFileSync(
    new URL(`../core/src/${target}`, import.meta.url),
    `/** Compiled from core/kernel/${source}.as by \`npm run kernel\`. */\nexport const ${name} =\n${lines.join(' +\n')};\n`,
  );
}
