/**
 * `npm run bench [accuracy] [speed] [screen] [--rounds N]`: without a word all of them; writes docs/accuracy.md and
 * docs/speed.md. The clips of the test set are built here, from material the reader was not tuned on.
 */
import { writeFileSync } from 'node:fs';
import { loadReferences } from './references.ts';
import { measureClip, OURS, Scoreboard } from './accuracy.ts';
import { buildSet } from './clips/sets.ts';
import { measureScreen } from './screen.ts';
import { measureSpeed } from './speed.ts';
import { accuracyPage, speedPage } from './pages.ts';

const words = process.argv.slice(2).filter((word) => !word.startsWith('--') && !/^\d+$/.test(word));
const wanted = (name: string) => words.length === 0 || words.includes(name);
const roundsAt = process.argv.indexOf('--rounds');
const rounds = roundsAt > 0 ? Number(process.argv[roundsAt + 1]) : 3;
const page = (name: string) => new URL(`../../docs/${name}.md`, import.meta.url);

if (wanted('accuracy')) {
  const references = await loadReferences();
  const boards = { tuning: new Scoreboard(), test: new Scoreboard() };
  for await (const clip of buildSet('test', rounds)) {
    measureClip(boards.test, clip, references);
    process.stderr.write('.');
  }
  for await (const clip of buildSet('tuning', 2)) measureClip(boards.tuning, clip, []);
  process.stderr.write('\n');
  writeFileSync(page('accuracy'), accuracyPage(boards.test.scores(), boards.tuning.scores(), OURS));
}
if (wanted('speed') || wanted('screen')) {
  const speed = wanted('speed') ? await measureSpeed() : [];
  const screen = wanted('screen') ? await measureScreen() : [];
  const rows = [...speed, ...screen];
  if (wanted('speed') && wanted('screen')) writeFileSync(page('speed'), speedPage(rows));
  console.log(speedPage(rows));
}
