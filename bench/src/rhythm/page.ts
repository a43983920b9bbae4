/** docs/rhythm.md */
import type { RhythmMeasures, RhythmScores } from './measure.ts';

export function rhythmPage({ ours, reference, told, timesRealTime }: RhythmMeasures): string {
  const two = (value: number) => value.toFixed(2);
  const table = (rows: readonly RhythmScores[], bars: boolean) =>
    [
      '| pieces | clips | beats F | tempo within 8 % | within 4 % | or its half or double | bar lines F | metre |',
      '| --- | --- | --- | --- | --- | --- | --- | --- |',
      ...rows.map(
        (row) =>
          `| ${row.group} | ${row.clips} | ${row.beatF.toFixed(3)} | ${two(row.tempoWithin8)} | ${two(row.tempoWithin4)} | ${two(row.tempoOrOctave)} | ${bars ? row.barF.toFixed(3) : '–'} | ${bars ? two(row.metre) : '–'} |`,
      ),
    ].join('\n');
  return `# Tempo, beats and bars

Written by \`npm run bench rhythm -- --rounds 9\`. Pieces of 10 to 28 s composed and rendered here: drums alone, strums, picked chords,
single lines, basses, and several together; in 2/4, 3/4, 4/4, 5/4, 6/8 and 12/8, even and swung, one in four with a tempo
that changes, one in four cut as a loop. A beat is right within 70 ms, from the first second on (the rules of mir_eval). In 6/8
and 12/8 a beat is a dotted quarter.

The figures are of what the application shows: tempo, beats and bars of a reading of chords.

**Left out**: the ten drum patterns of these pieces (a train beat, a march, one drop, four snares, funk, a jazz waltz, a country
waltz, a jig, gospel in 12/8, a swung 5/4) and the bank that plays them (TimGM6mb) were neither trained on nor looked at. What is
shared with the training is the composer of strums, chords and lines, with other seeds; in training most rhythms are drawn by chance.

The last rows are not part of “all”. **Sparse chords**: chords with one to three strokes in a bar, mostly off the beat, in ways that were
neither fitted nor looked at (\`LEFT_OUT_SPARSE_STRUMS\`), by the same bank. **Recorded kits**: the same patterns by two kits that were recorded drum by drum (Debian's
avldrums.lv2-soundfont), no sound of which was trained on or looked at. **Published tunes**: melodies of Northumbrian Minstrelsy (1882), of fifers
and of the Nottingham collection, played as lines, over strums, picked chords and bands (\`npm run bench rhythm -- --tunes FILE\`, which
\`training/tunes.py\` writes); no tune of these collections was trained on or looked at. What is written in 2/2 may as well be beaten in four.
**Songs by others**: two stretches of each of the songs of three games, whole arrangements from jazz to rock as their MIDI files have them, by the same bank
(\`-- --songs FOLDER\`, here the files of Debian's openttd-openmsx and planetblupi-music-midi, and in a folder within it those of simutrans-data; used here only).
None was trained on or fitted on. Of the first two only the sums were looked at; the third came after all weights of this page, and was looked at since. What is
written at 80 may as well be tapped at 160. Where no metre is written, bars are not judged.

## Ours

${table(ours, true)}

Wanted: beats 0.88, tempo 0.95 within 8 %.

A hundred and eighty clips say a share to ±0.02, thirty-six to ±0.06. Sixty of these clips, which were measured before, had the same 0.92 for the tempo, 0.97 with half or double. Lines alone are
weakest: nothing but the tune says which of its notes are beats, and among lines for practice those that are wrong are mostly very slow or very fast. Sparse chords, recorded kits and
published tunes were fewer before, and looked better (0.83 of 36 clips, 0.96 of 24, 0.88 of 24).
Of eight recorded songs of two metal bands, whole, whose tempo is known (Debian's fretsonfire-songs-muldjord and -sectoid; measured once), seven tempi are right within
1 %; one of 190 is called 95.
In 3/4 it now and then takes a bar for a beat, or two beats for each bar, as in 6/8. Bars of 12/8 are often called two of 6/8, which are more common and as alike as
its halves.

Half or twice the written tempo is often as right; _÷ 2_ and _× 2_ beside the reading change it. Any other tempo can be typed there, and beats are looked
for near it: of the ${told.clips} clips of all rows whose tempo was read otherwise than within 8 % (and is between 50 and 200), beats are ${two(told.beatFBefore)} (F); once the tempo is told to
a whole number, ${two(told.beatF)}, and bar lines ${two(told.barF)}. The pulse alone, which is all that is
asked of drums, is read ${timesRealTime.toFixed(0)} times as fast as it plays (wanted: 60).

## essentia.js on the same clips, in the same run

RhythmExtractor2013 with its defaults.

${table(reference, false)}

## What reads them

\`core/reading/rhythm\`: loudness and rises of eight bands and changes of harmony (\`rhythmFeatures.ts\`); a network of residual
dilated convolutions that sees six seconds to each side (\`beatNetwork.ts\`, 275 kB of weights) and says where beats
and bar lines are likely, which tempo, and whether beats are dotted quarters; beats by a hidden Markov model over place in the beat and
tempo (\`decodeBeats.ts\`). Metre and first bar line are chosen by a log-linear model (\`barChoice.ts\`), fitted on 1,459 pieces; on patterns,
tunes and songs that are left out it puts 0.83 of bar lines right (F), where the sum of what the network says put 0.72. Where there is harmony, its beats and the same twice and half as fast stand
beside those that notes and chords speak for, and a log-linear model chooses (\`core/reading/chords/beatChoice.ts\`), fitted on 1,174 pieces
that the network was not trained on, 220 of them with few strokes in a bar and 167 out of 17 songs.
Trained by \`training/train_beats.py\` on 1,284 pieces with rhythms by chance (\`chancePatterns.ts\`), 288 with 26 other patterns and 260
arrangements of chords; then, made wider, on 480, 144 and 60 more of these, 630 pieces with tunes of two old collections (Ryan's Mammoth
Collection, Aird's Airs) and 1,000 that a drum machine plays; then on 440 more pieces by chance, 600 chords with few strokes, 648 arrangements, 350 pieces
with tunes, and 540 with the 26 patterns, 300 of them by a machine; then on 675 stretches of 35 songs that others arranged (Freedoom, BSD) and 250 pieces
of machines whose kick plays every beat (\`training/README.md\`). Sounds: FluidR3 Mono, MuseScore General (both MIT) and computed drums. It has
heard no recording of a real band.
`;
}
