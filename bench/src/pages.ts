/** Tables of the documentation. */
import { OURS, type CalibrationRow, type GroupScore } from './accuracy.ts';

export interface SpeedRow {
  what: string;
  wanted: string;
  measured: string;
}

export interface SetScores {
  scores: GroupScore[];
  calibration: CalibrationRow[];
}

const three = (value: number) => value.toFixed(3);

const percent = (value: number) => `${(100 * value).toFixed(0)} %`;

function readersTable(scores: GroupScore[], group: string): string {
  const rows = scores.filter((score) => score.group === group);
  return [
    '| reader | note F1 | with offsets | raw pitch | overall | times real time |',
    '| --- | --- | --- | --- | --- | --- |',
    ...rows.map(
      (row) =>
        `| ${row.reader} | ${three(row.noteF1)} | ${three(row.noteF1WithOffsets)} | ${three(row.rawPitch)} | ${three(row.overall)} | ${row.timesRealTime.toFixed(0)} |`,
    ),
  ].join('\n');
}

const clipCount = (scores: GroupScore[], group: string) =>
  scores.find((score) => score.group === group && score.reader === OURS)?.clips ?? 0;

export function calibrationTable(rows: CalibrationRow[]): string {
  return [
    '| confidence | notes | mean confidence | right |',
    '| --- | --- | --- | --- |',
    ...rows.map(
      (row) =>
        `| ${row.low}–${row.high} | ${row.notes} | ${percent(row.meanConfidence)} | ${row.notes > 0 ? percent(row.shareRight) : ''} |`,
    ),
  ].join('\n');
}

export function accuracyPage({
  leftOut,
  test,
  check,
  tuning,
}: Record<'leftOut' | 'test' | 'check' | 'tuning', SetScores>): string {
  const byClip = (group: string) =>
    leftOut.scores
      .filter((score) => score.group.startsWith(`${group}: `) && score.reader === OURS)
      .map(
        (row) =>
          `| ${row.group.slice(group.length + 2)} | ${row.clips} | ${three(row.noteF1)} | ${three(row.noteF1WithOffsets)} | ${three(row.rawPitch)} | ${three(row.overall)} | ${row.correctionsInTen.toFixed(1)} |`,
      )
      .join('\n');
  const kinds = test.scores.filter((score) => score.group.includes(': ') && score.reader === OURS);
  const smaller = (set: SetScores, title: string) => `### ${title}

Instruments (${clipCount(set.scores, 'instrument')} clips):

${readersTable(set.scores, 'instrument')}

Singing (${clipCount(set.scores, 'singing')} clips):

${readersTable(set.scores, 'singing')}
`;
  return `# Accuracy of the melody reader

Made by \`npm run bench\`; every figure is a mean over clips. Notes are right when their onset is within 50 ms and
their pitch within 50 cents (with offsets: the end within 50 ms or a fifth of the length). Raw pitch is the share of
sounding frames within 50 cents; overall also counts silence that is recognised as such. The rules are those of
mir_eval, re-implemented in \`bench/src/metrics.ts\`. References run in the same process on the same clips and ship
nowhere. Nothing here is random but the seeds of the clips, so a second run gives the same figures, but for the last
column; [speed](speed.md) has the reader's speed on a free core.

## What a note is

- It starts where its pitch is first heard: after s, t, k or a breath with the voice, not with the consonant.
- After m, n, l, r or v it starts where the murmur takes on its pitch.
- A slurred note starts where the pitch passes half way from the one before.
- A repeated note starts where its consonant closes.
- It ends where the pitch or the sound leaves: at the next note, at a consonant without pitch, or 12 dB down.

## The material

- **Left-out voices**: spoken syllables of a woman, a child and a man (Debian's festvox-czech-dita, -krb, -ph: people recorded in
  diphones) and of a synthesiser of formants (espeak-ng), made to sing by \`bench/src/clips/syllableSinger.ts\`: slurs of 40 to
  250 ms, murmurs, scoops, vibrato up to ±120 cents, breath. None of these voices was trained on or looked at while anything was
  chosen. Shared with the training is what makes them sing. Choices were made on two Finnish voices. Vowels are held: what a
  spoken one swells and fades by is evened out where it is drawn out, since a dip of 10 to 20 dB sounds like a note struck anew.
- **Rough singing**: the same voices through a telephone band, as a phone in a room, with a guitar bleeding in, clipped, coded
  coarsely in a hall, in fast runs, with growl, and with knocks and clicks beside it (\`bench/src/clips/knocks.ts\`, which training has
  in half of its newest clips).
- **Test set**: notes of real instruments recorded one by one, played as melodies with human timing, bends, rooms and noise, and a
  singer made of formant waves. The reader was not trained on any of it. Earlier versions of the method looked at rounds 0 to 2; the
  figures are of rounds 3 and up.
- **Check set**: samples of the TimGM6mb bank and an additive singer. **Tuning set**: samples of the FluidR3 Mono and MuseScore
  General banks and the source–filter singer of the demo songs, among them ensembles, an organ and choirs in rooms. The network of
  the reader was trained on rounds 2 and up of both; the figures here are of rounds 0 and 1.

All share the composer of melodies, but no sound and no seed.

## Left-out voices (${clipCount(leftOut.scores, 'left-out voices')} clips)

${readersTable(leftOut.scores, 'left-out voices')}

| voice | clips | note F1 | with offsets | raw pitch | overall | to put right, of ten notes |
| --- | --- | --- | --- | --- | --- | --- |
${byClip('left-out voices')}

## Rough singing (${clipCount(leftOut.scores, 'rough singing')} clips)

${readersTable(leftOut.scores, 'rough singing')}

| what | clips | note F1 | with offsets | raw pitch | overall | to put right, of ten notes |
| --- | --- | --- | --- | --- | --- | --- |
${byClip('rough singing')}

## Test set: single-line instruments (${clipCount(test.scores, 'instrument')} clips)

${readersTable(test.scores, 'instrument')}

## Test set: singing (${clipCount(test.scores, 'singing')} clips)

${readersTable(test.scores, 'singing')}

## What confidence means

Notes by the confidence the reader gave them. It was fitted on the tuning set and on the voices that choices were made on. Below
0.9 a note is called doubtful.

Test set:

${calibrationTable(test.calibration)}

Left-out voices, plain and rough:

${calibrationTable(leftOut.calibration)}

## The other sets

${smaller(check, 'Check set')}
${smaller(tuning, 'Tuning set')}
## Test set by kind of clip

| clip | clips | note F1 | raw pitch | overall |
| --- | --- | --- | --- | --- |
${kinds.map((row) => `| ${row.group} | ${row.clips} | ${three(row.noteF1)} | ${three(row.rawPitch)} | ${three(row.overall)} |`).join('\n')}
`;
}

export function speedPage(rows: SpeedRow[]): string {
  return `# Speed

Made by \`npm run bench\` on a machine with two cores; medians of several runs. References run on
the same file in the same run.

| what | wanted | measured |
| --- | --- | --- |
${rows.map((row) => `| ${row.what} | ${row.wanted} | ${row.measured} |`).join('\n')}
`;
}
