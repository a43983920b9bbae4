// Installs what is missing in this checkout. Plain Node without dependencies: it runs before anything is there.
import { execFile, execFileSync, spawn, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';

export const root = fileURLToPath(new URL('..', import.meta.url));

/** Runs npm ci when node_modules does not match the lock file. */
export function installPackages() {
  if (installed()) return;
  console.log('Installing packages; the database is compiled on the way, which takes about a minute …');
  finish(spawnSync('npm', [...NPM_CI, ...NPM_QUIET], npmOptions()).status);
}

/** The same, but what is compiled is so beside what does not need it: resolves when all is there. */
export async function installPackagesBeside() {
  if (installed()) return;
  console.log('Installing packages …');
  const { status } = spawnSync('npm', [...NPM_CI, '--ignore-scripts', ...NPM_QUIET], npmOptions());
  if (status !== 0) finish(status);
  const compiling = spawn('npm', ['rebuild', ...NPM_QUIET], npmOptions());
  finish(await new Promise((resolve) => compiling.on('close', resolve)));
}

const NPM_CI = ['ci', '--no-audit', '--no-fund'];
const NPM_QUIET = ['--loglevel=error'];
const marker = `${root}node_modules/.plundra-installed`;
const lockHash = () =>
  createHash('sha256')
    .update(readFileSync(`${root}package-lock.json`))
    .digest('hex');
const installed = () => existsSync(marker) && readFileSync(marker, 'utf8') === lockHash();

function npmOptions() {
  const env = { ...process.env };
  env.CFLAGS ??= '-O1';
  env.CXXFLAGS ??= '-O1';
  return { cwd: root, stdio: 'inherit', env };
}

function finish(status) {
  if (status !== 0) {
    console.error(
      'The packages could not be installed. Check the connection to the package registry and try again.',
    );
    process.exit(1);
  }
  writeFileSync(marker, lockHash());
}

/**
 * Whether there is Chromium for the browser tests; installs Debian's where it is missing and may be. Its build without windows takes a
 * fifth less of the machine and is preferred (e2e/app.ts); the tests do without it.
 */
export function ensureChromium() {
  const missing = ['chromium', 'chromium-headless-shell'].filter((name) => !existsSync(`/usr/bin/${name}`));
  if (missing.length > 0 && process.getuid?.() === 0 && existsSync('/usr/bin/apt-get')) {
    console.log('Installing Chromium for the browser tests …');
    const quiet = {
      stdio: 'ignore',
      env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' },
    };
    spawnSync('apt-get', ['update', '-q'], quiet);
    // One after the other: a release that does not have the second still gets the first.
    for (const name of missing)
      spawnSync('apt-get', ['install', '-y', '-q', '--no-install-recommends', name], quiet);
  }
  return existsSync('/usr/bin/chromium');
}

/** Runs a program of node_modules/.bin and gives back its exit code. */
export function runTool(name, args, options = {}) {
  try {
    execFileSync(`${root}node_modules/.bin/${name}`, args, { cwd: root, stdio: 'inherit', ...options });
    return 0;
  } catch (error) {
    return error.status ?? 1;
  }
}

/** The same beside others: resolves to its exit code when it is done, and prints what it said only then. */
export function runToolBeside(name, args) {
  return new Promise((resolve) => {
    const options = { cwd: root, maxBuffer: 2 ** 26 };
    execFile(`${root}node_modules/.bin/${name}`, args, options, (error, stdout, stderr) => {
      process.stdout.write(stdout);
      process.stderr.write(stderr);
      resolve(error ? (typeof error.code === 'number' ? error.code : 1) : 0);
    });
  });
}
