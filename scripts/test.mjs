// Everything that must hold: formatting, lint with the dependency rule, types, dead code, tests. Ends with a count.
import { existsSync, mkdirSync, readFileSync, rmSync } from 'node:fs';
import { build } from './build.mjs';
import { ensureChromium, installPackagesBeside, root, runTool, runToolBeside } from './install.mjs';

const compiled = installPackagesBeside();
const chromium = ensureChromium();
let passed = 0;
let failed = 0;
const check = (name, ok) => {
  console.log(`${ok ? 'ok  ' : 'FAIL'} ${name}`);
  if (ok) passed++;
  else failed++;
};

const checks = [
  ['formatting', 'prettier', ['--check', '--log-level', 'warn', '.']],
  ['lint and dependency rule', 'eslint', ['.', '--max-warnings', '0']],
  ['types', '../typescript-native/bin/tsc', ['-p', 'tsconfig.json', '--noEmit']],
  ['dead code', 'knip', ['--no-progress']],
];
const codes = await Promise.all(checks.map(([, tool, args]) => runToolBeside(tool, args)));
await compiled;
checks.forEach(([name], i) => check(name, codes[i] === 0));
check('build', build());
if (!chromium)
  console.log('Chromium is missing and could not be installed; the browser tests count as failed.');

mkdirSync(`${root}tmp`, { recursive: true });
const report = `${root}tmp/vitest.json`;
rmSync(report, { force: true });
const projects = ['unit', 'server', ...(chromium ? ['browser'] : [])].flatMap((name) => ['--project', name]);
const code = runTool('vitest', [
  'run',
  ...projects,
  '--reporter=default',
  '--reporter=json',
  `--outputFile.json=${report}`,
]);
if (existsSync(report)) {
  const { numPassedTests, numFailedTests, numFailedTestSuites } = JSON.parse(readFileSync(report, 'utf8'));
  passed += numPassedTests;
  // A file that broke before its first test has no failed test of its own.
  failed += numFailedTests > 0 ? numFailedTests : numFailedTestSuites;
  if (code !== 0 && numFailedTests + numFailedTestSuites === 0) failed++;
} else failed++;
if (!chromium) failed++;
console.log(`${passed} passed, ${failed} failed`);
process.exit(failed === 0 && passed > 0 ? 0 : 1);
