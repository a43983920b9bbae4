// One command from a fresh checkout to the running application with the demo songs.
import { spawn } from 'node:child_process';
import { build } from './build.mjs';
import { installPackages, root } from './install.mjs';

installPackages();
console.log('Building …');
if (!build()) {
  console.error('The build failed; see the messages above.');
  process.exit(1);
}
const server = spawn(process.execPath, ['server/dist/main.js', '--with-demo'], {
  cwd: root,
  stdio: 'inherit',
});
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => server.kill(signal));
server.on('exit', (code) => process.exit(code ?? 0));
