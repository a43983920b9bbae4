// Builds the interface, the server and the command line.
import { readdirSync, readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { installPackages, root, runTool } from './install.mjs';

/** Every room of core is bundled: Node cannot run its TypeScript. */
const { exports: rooms } = JSON.parse(readFileSync(new URL('../core/package.json', import.meta.url), 'utf8'));

const bundle = (...args) =>
  runTool('esbuild', [
    ...args,
    '--bundle',
    '--platform=node',
    '--format=esm',
    '--target=node20',
    '--entry-names=[name]',
    '--packages=external',
    '--alias:@plundra/contract=./contract/src/index.ts',
    ...Object.entries(rooms).map(
      ([room, path]) => `--alias:@plundra/core/${room.slice(2)}=./core/${path.slice(2)}`,
    ),
    '--log-level=warning',
  ]) === 0;

export const buildServer = () =>
  bundle('server/src/main.ts', 'server/src/readings/pool.worker.ts', '--outdir=server/dist');

/** In pieces, so that a command loads only what it needs. */
export const buildCommandLine = () =>
  bundle(
    'cli/src/main.ts',
    '--outdir=cli/dist',
    '--splitting',
    '--alias:@plundra/server/store=./server/src/store/index.ts',
    '--alias:@plundra/server=./server/src/index.ts',
  );

/** Whether the command line is built from what stands in the source now. */
export function commandLineIsBuilt() {
  const built = statSync(`${root}cli/dist/main.js`, { throwIfNoEntry: false });
  const sources = ['cli', 'core', 'contract', 'server'].map((room) => `${root}${room}/src`);
  return built !== undefined && sources.every((folder) => newestIn(folder) <= built.mtimeMs);
}

function newestIn(folder) {
  let newest = 0;
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    const path = join(folder, entry.name);
    if (entry.name === 'test' || entry.name.endsWith('.test.ts')) continue;
    newest = Math.max(newest, entry.isDirectory() ? newestIn(path) : statSync(path).mtimeMs);
  }
  return newest;
}

/** Returns false when a step failed. */
export function build() {
  return buildServer() && buildCommandLine() && runTool('vite', ['build', 'web', '--logLevel', 'warn']) === 0;
}

if (import.meta.url === pathToFileURL(process.argv[1]).href) {
  installPackages();
  process.exit(build() ? 0 : 1);
}
