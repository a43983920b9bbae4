import type { CorrectedMemory } from './correctedMemory.ts';
import type { KillFigures } from './kills.ts';
import type { LargeSongFigures } from './largeSongs.ts';
import type { ScheduleFigures } from './schedules.ts';
import type { SpoiledFigures } from './spoiledFiles.ts';

export interface TrustFigures {
  schedules: ScheduleFigures;
  kills: KillFigures;
  spoiled: SpoiledFigures[];
  songs: LargeSongFigures[];
  memory: CorrectedMemory[];
}

const number = (value: number, digits = 0) =>
  value.toLocaleString('en', { minimumFractionDigits: digits, maximumFractionDigits: digits });
const table = (head: string[], rows: (string | number)[][]) =>
  [head, head.map(() => '---'), ...rows].map((cells) => `| ${cells.join(' | ')} |`).join('\n');
const faultsText = (faults: readonly string[]) =>
  faults.length === 0
    ? ''
    : `\n\n${faults
        .slice(0, 20)
        .map((fault) => `- ${fault}`)
        .join('\n')}`;

export function trustPage({ schedules, kills, spoiled, songs, memory }: TrustFigures): string {
  const faults = spoiled.flatMap(({ kind, faults }) => faults.map((fault) => `${kind}: ${fault}`));
  return `# Trust

What happens to work when things go wrong. Made by \`npm run bench trust\`; how saving works is in
[architecture](architecture.md).

## Windows over a bad network

Two or three windows edit one song, undo and redo, and are closed in the middle of it; any request, answer or event is
late, repeated, out of order or lost, in simulated time (\`web/src/test/simulation.ts\`). Wanted: in the end all windows and
the server show the same, and every step was taken once or its refusal was said.

${table(
  ['what', 'count'],
  [
    ['schedules', number(schedules.schedules)],
    ['steps', number(schedules.taken)],
    ['taken', number(schedules.applied)],
    ['refused with a sentence (they did not fit what others had done)', number(schedules.refused)],
    ['lost requests, answers and events', number(schedules.lost)],
    ['repeated ones', number(schedules.repeated)],
    ['windows closed with steps waiting', number(schedules.closed)],
    [
      'steps that vanished, doubled, or were said to be lost and were not; windows that ended otherwise',
      number(schedules.faults.length),
    ],
  ],
)}${faultsText(schedules.faults)}

## Kills

The built server is killed (\`SIGKILL\`) while three clients edit three songs, and started again.

${table(
  ['kills', 'acknowledged steps', 'missing', 'doubled', 'did not start again'],
  [[kills.kills, number(kills.acknowledged), kills.missing, kills.doubled, kills.unopened]],
)}

## Spoiled files

Bytes changed, cut off, left out, doubled or overwritten. Wanted: taken as far as it goes, or refused with a sentence.

${table(
  ['kind', 'files', 'taken', 'refused', 'anything else', 'slowest'],
  spoiled.map(({ kind, files, taken, refused, faults, slowestSeconds }) => [
    kind,
    number(files),
    number(taken),
    number(refused),
    faults.length,
    `${number(slowestSeconds, 2)} s`,
  ]),
)}${faultsText(faults)}

## Large songs

All notes moved again and again. Opening is after a start of the server; edits are the median of the first and of the last
twenty, from request to acknowledgement.

${table(
  [
    'notes',
    'moves',
    'answer that opens it',
    'of which the song',
    'opening',
    'first edits',
    'last edits',
    'database',
  ],
  songs.map((each) => [
    number(each.notes),
    each.moves,
    `${number(each.documentMegabytes, 2)} MB`,
    `${number(each.songMegabytes, 2)} MB`,
    `${number(each.openMs)} ms`,
    `${number(each.firstEditsMs)} ms`,
    `${number(each.lastEditsMs)} ms`,
    `${number(each.databaseMegabytes, 1)} MB`,
  ]),
)}

## Memory of corrected sound

Stereo at 44.1 kHz, two of three onsets moved; the whole process, of which Node itself is about 100 MB.

${table(
  ['what', 'memory', 'time'],
  memory.map(({ what, megabytes, seconds }) => [what, `${number(megabytes)} MB`, `${number(seconds, 1)} s`]),
)}
`;
}
