// Accuracy and speed tables; writes docs/accuracy.md.
import { build } from './build.mjs';
import { installPackages, runTool } from './install.mjs';

installPackages();
if (!build()) process.exit(1);
process.exit(runTool('tsx', ['--expose-gc', 'bench/src/main.ts', ...process.argv.slice(2)]));
