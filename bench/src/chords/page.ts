/** docs/chords.md */
import { calibrationTable, type SpeedRow } from '../pages.ts';
import type { ChordMeasures, ChordScores } from './measure.ts';
import type { StrumScores } from './strums.ts';

export function chordsPage(
  { ours, reference, calibration }: ChordMeasures,
  strums: StrumScores,
  speed: readonly SpeedRow[],
): string {
  const three = (value: number) => value.toFixed(3);
  const two = (value: number) => value.toFixed(2);
  const table = (rows: readonly ChordScores[], downbeats: boolean) =>
    [
      '| arrangement | clips | root | maj/min | sevenths | key | beats F | bar lines F | slash right / found |',
      '| --- | --- | --- | --- | --- | --- | --- | --- | --- |',
      ...rows.map(
        (row) =>
          `| ${row.group} | ${row.clips} | ${three(row.root)} | ${three(row.majmin)} | ${three(row.sevenths)} | ${three(row.key)} | ${three(row.beatF)} | ${downbeats ? three(row.downbeatF) : '–'} | ${downbeats ? `${row.slashPrecision.toFixed(2)} / ${row.slashRecall.toFixed(2)}` : '–'} |`,
      ),
    ].join('\n');
  return `# Chords, key and beats

Written by \`npm run bench chords\`. Arrangements of 24 s composed and rendered here (TimGM6mb, a bank that neither the
note network nor the chord model was fitted on; other seeds than those of the fit), in 4/4, 3/4 and 6/8, up to 30 cents
beside A4 = 440 Hz, half of them in a room, with noise; the melody holds notes outside the chords. Weighted overlap and
beats by the rules of mir_eval (beats from the first second on). Keys count when tonic and mode are right. In 6/8 the
dotted quarter is the beat.

## Ours

${table(ours, true)}

Three manners are not part of “all”. In “quick changes” two of three chords last one beat and the others two. In “rich chords” nearly all
have sevenths, ninths, sixths or a suspended fourth with a seventh, and three in ten stand over another bass. “Over a pedal” triads change over
the tonic or the dominant, which stays for four chords and more. Some of these have two names: Am over C is C6, too.

One strummed chord alone, of 2 to 4 s (${strums.clips}, the same bank): root right ${two(strums.root)}, root and triad ${two(strums.triad)}. Wanted: 0.95.

“Slash”: of the time in which a bass other than the root is named the share in which it is right, and of the time in which one is
played the share in which it is named. A bass is named only where an instrument or a hand of its own plays it, or where it is a
step of a line (C G/B Am): in a strum the lowest string is chance.

Wanted: root 0.90 (rich chords and pedals 0.88), maj/min 0.88, sevenths 0.72, key 0.9, beats 0.9.

The progressions are composed: four in five begin on the tonic and as many come home to it in the last two bars, because
without either no listener could tell a key from its relative. The choice of the key and of the beats was fitted on
arrangements of the same composer (other seeds, other banks), which flatters both.

## Speed

| what | wanted | measured |
| --- | --- | --- |
${speed.map(({ what, wanted, measured }) => `| ${what} | ${wanted} | ${measured} |`).join('\n')}

## essentia.js on the same clips, in the same run

Triads of ChordsDetection over two seconds, KeyExtractor, RhythmExtractor2013, each with its defaults.

${table(reference, false)}

## How often chords of each confidence are right (root and triad)

${calibrationTable(calibration).replace('| notes |', '| chords |')}
`;
}
