// Builds the interface and the server.
import { pathToFileURL } from 'node:url';
import { installPackages, runTool } from './install.mjs';

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
    ...['signal', 'theory', 'song', 'reading', 'formats'].map(
      (room) => `--alias:@plundra/core/${room}=./core/src/${room}/index.ts`,
    ),
    '--log-level=warning',
  ]);
  return server === 0 && runTool('vite', ['build', 'web', '--logLevel', 'warn']) === 0;
}

if (import.meta.url === pathToFileURL(process.argv[1]).href) {
  installPackages();
  process.exit(build() ? 0 : 1);
}
