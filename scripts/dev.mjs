// Server from source and Vite's development server side by side.
import { spawn } from 'node:child_process';
import { installPackages, root } from './install.mjs';

installPackages();
const run = (command, args) =>
  spawn(`${root}node_modules/.bin/${command}`, args, { cwd: root, stdio: 'inherit' });
const children = [run('tsx', ['watch', 'server/src/main.ts', '--with-demo']), run('vite', ['web'])];
const stop = () => children.forEach((child) => child.kill('SIGTERM'));
process.on('SIGINT', stop);
process.on('SIGTERM', stop);
