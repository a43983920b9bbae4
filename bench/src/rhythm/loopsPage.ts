import type { LoopMeasures } from './loops.ts';

/** docs/loops.md */
export function loopsPage({ scores, cut, cutWithin, ofSongs, others, calledLoops }: LoopMeasures): string {
  const two = (value: number) => (Number.isNaN(value) ? '–' : value.toFixed(2));
  const rows = [...scores, cut, cutWithin, ...(ofSongs ? [ofSongs] : [])].map(
    (row) =>
      `| ${row.group} | ${row.loops} | ${two(row.tempo)} | ${two(row.tempoOrOctave)} | ${two(row.threes)} | ${two(row.called)} | ${two(row.key)} | ${two(row.keyOrRelative)} |`,
  );
  return `# Loops

Written by \`npm run bench loops -- --rounds 9\`: what the shelf finds by listening. Loops of 1 to 8 bars, played as loops (bench/src/rhythm): in the major
key whose first degree they begin on, in 2/4, 3/4, 4/4, 5/4, 6/8 and 12/8. The tempo is that of the beat, a dotted quarter in 6/8: the
song is fitted by it.

**Left out**: the bank (TimGM6mb), the drum patterns and the seeds were not trained on; the weights of
\`core/reading/rhythm/loopWeights.json\` were fitted on patterns by chance, on 139 other patterns that are played, and on bars cut out of 17 songs (Freedoom), by other banks. Rounds of the same
patterns with other seeds were looked at once, which showed that quick waltzes and quick swung fives are what is missed most; the model was
then given how fast a beat is in each metre. What is shared with the training are the composers of strums, chords and lines. **Of songs by others**: bars cut out of whole arrangements
of other people (the songs of docs/rhythm.md in whose files bars are written, other stretches of them; \`-- --songs FOLDER\`), whose tempo is what they wrote.

| loops | number | tempo within 2 % | or its half or double | threes or not | called a loop | key | or its relative |
| --- | --- | --- | --- | --- | --- | --- | --- |
${rows.join('\n')}

Wanted: tempo 0.95, key 0.90. “Cut out” and “from within” are stretches of two and four bars cut out of arrangements at their bar lines
(bench/src/chords), which nobody made as loops: from their beginning, and from within them. A loop is taken to begin where its progression
begins, so its first chord weighs much (\`core/reading/chords/keyOfLoop.ts\`); what begins on any chord pays for it. All loops above begin on their tonic, as most do.

A hundred loops say a share to about ±0.06. Of the tempi of 736 loops with rhythms that neither the network nor, each in its turn, the weights knew
(\`practicePatterns.ts\`), 0.88 are right, of 338 cut out of songs that they did not know 0.77, of 278 cut out of whole arrangements of a third game, which came after all
weights (Simutrans), 0.92, with half or double 0.98. Of sixteen recorded loops (CC0, out of Debian's archive) ten are right, fourteen with half or double: three of 97 are called 194, where
a musician would say 97. In a song a loop is counted at its double or half where that is clearly nearer to the song's tempo (\`core/shelf/fit.ts\`), so such a loop
keeps its pace there.

Of the sixteen figures with a key that come with the shelf (made by us), all are read in it.

Of ${others} recordings that begin and end anywhere, ${calledLoops} were called loops. A recording that is not called a loop is read as any
other, so its tempo may be less exact; one click says what it is.
`;
}
