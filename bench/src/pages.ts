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
  test,
  check,
  tuning,
}: Record<'test' | 'check' | 'tuning', SetScores>): string {
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

- **Test set**: notes of real instruments recorded one by one, played as melodies with human timing, bends, rooms and
  noise, and a singer made of formant waves. The reader was neither trained nor tuned on any of it. These are rounds 3
  and up: melodies and seeds that were never looked at, played by sounds that were, in rounds 0 to 2. At rounds 0 and 1 note F1 was
  0.949 and 0.908 at the first look (instruments and singing), 0.947 and 0.922 at the second; raw pitch 0.966 and 0.946,
  overall 0.946 and 0.948 at both. Between the looks slurs were parted, because lines of the same singer could not be
  corrected without it. After the second look three things were changed on the other two sets: quiet frames keep their
  pitch, marked as unvoiced (which the rules of raw pitch ask for; the references are given the same), frames that
  slipped an octave are taken back to their note, and starts are timed by the waveform. A third look at rounds 0 and 1,
  at the kinds of errors of the singer, showed octaves too high on dark vowels; what was made against them is applied to
  voices only, because organs and strings of the tuning set lost by it. Its thresholds were chosen with these rounds of
  the test singer in sight, so the singing figures below are of seeds, not of a singer, that the method does not know. A fourth look, at rounds 0 to 2
  of the two singers in a hall, came with what takes the tail of a room off, and with twelfths too high.
- **Check set**: samples of the TimGM6mb bank and an additive singer. Never trained on, but looked at: the voicing cut
  of the contour was changed because of it.
- **Tuning set**: samples of the FluidR3 Mono and MuseScore General banks and the source–filter singer of the demo
  songs, among them ensembles, an organ and choirs in rooms. The network of the reader was trained on its rounds 2 and
  up; the figures here are of rounds 0 and 1.

The sets share the composer of melodies, the room and the noise, but no sound and no seed.

## Test set: single-line instruments (${clipCount(test.scores, 'instrument')} clips)

${readersTable(test.scores, 'instrument')}

## Test set: singing (${clipCount(test.scores, 'singing')} clips)

${readersTable(test.scores, 'singing')}

## What confidence means

Notes of the test set by the confidence the reader gave them. It was fitted on the tuning set only. Below 0.9 a note
is called doubtful.

${calibrationTable(test.calibration)}

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
