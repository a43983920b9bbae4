// Builds the interface and the server.
import { readFileSync } from 'node:fs';
import { pathToFileURL } from 'node:url';
import { installPackages, runTool } from './install.mjs';

/** Every room of core is bundled: Node cannot run its TypeScript. */
const { exports: rooms } = JSON.parse(readFileSync(new URL('../core/package.json', import.meta.url), 'utf8'));

/** Returns false when a step failed. */
export function build() {
  const server = runTool('esbuild', [
    'server/src/main.ts',
    'server/src/readings/pool.worker.ts',
    '--bundle',
    '--platform=node',
    '--format=esm',
    '--target=node20',
    '--outdir=server/dist',
    '--entry-names=[name]',
    '--packages=external',
    '--alias:@plundra/contract=./contract/src/index.ts',
    ...Object.entries(rooms).map(
      ([room, path]) => `--alias:@plundra/core/${room.slice(2)}=./core/${path.slice(2)}`,
    ),
    '--log-level=warning',
  ]);
  return server === 0 && runTool('vite', ['build', 'web', '--logLevel', 'warn']) === 0;
}

if (import.meta.url === pathToFileURL(process.argv[1]).href) {
  installPackages();
  process.exit(build() ? 0 : 1);
}
