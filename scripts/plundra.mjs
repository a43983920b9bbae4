// Starts the command line: built once, and again when its source has changed.
import { buildCommandLine, commandLineIsBuilt } from './build.mjs';
import { installPackages } from './install.mjs';

if (!commandLineIsBuilt()) {
  installPackages();
  if (!buildCommandLine()) process.exit(1);
}
await import('../cli/dist/main.js');
