/**
 * `npm run bench [accuracy] [chordal] [drums] [chords] [rhythm] [loops] [retune] [speed] [screen] [trust] [--rounds N] [--tunes FILE] [--songs FOLDER] [--kits FOLDER]`: without a word all of them
 * (tunes as training/tunes.py writes them, and songs by others as MIDI files, for docs/rhythm.md and docs/loops.md, and drum kits for docs/drums.md); writes
 * docs/accuracy.md, docs/chordal.md, docs/drums.md, docs/chords.md, docs/rhythm.md, docs/loops.md, docs/correction.md, docs/speed.md and docs/trust.md. The clips of the test set are built here, from material the reader was neither trained nor tuned on.
 */
import { writeFileSync } from 'node:fs';
import { parseArgs } from 'node:util';
import { Calibration, measureClip, Scoreboard } from './accuracy.ts';
import { measureChordal } from './chordal/measure.ts';
import { chordalPage } from './chordal/page.ts';
import { measureChordalSpeed, measureChordsSpeed } from './chordal/speed.ts';
import { measureChords } from './chords/measure.ts';
import { chordsPage } from './chords/page.ts';
import { measureStrums } from './chords/strums.ts';
import type { Clip } from './clips/clip.ts';
import { buildSet } from './clips/sets.ts';
import { leftOutVoices } from './clips/sungClips.ts';
import { measureHits } from './drums/hits.ts';
import { drumsPage } from './drums/page.ts';
import { loadReferences, type Reference } from './references.ts';
import { measureRetune, retunePage } from './retune.ts';
import { measureLoops } from './rhythm/loops.ts';
import { loopsPage } from './rhythm/loopsPage.ts';
import { measureRhythm } from './rhythm/measure.ts';
import { rhythmPage } from './rhythm/page.ts';
import { measureScreen } from './screen.ts';
import { measureSpeed } from './speed.ts';
import { measureStretch } from './stretch.ts';
import { measureTrust } from './trust/measure.ts';
import { trustPage } from './trust/page.ts';
import { accuracyPage, speedPage, type SetScores } from './pages.ts';

const { values, positionals: words } = parseArgs({
  allowPositionals: true,
  options: {
    rounds: { type: 'string', default: '3' },
    tunes: { type: 'string' },
    songs: { type: 'string' },
    kits: { type: 'string' },
  },
});
const wanted = (name: string) => words.length === 0 || words.includes(name);
const rounds = Number(values.rounds);
const page = (name: string) => new URL(`../../docs/${name}.md`, import.meta.url);

/** Rounds 0 to 2 of the test set were looked at before the last changes of the method (docs/accuracy.md). */
const TEST_FIRST_ROUND = 3;

if (wanted('accuracy')) {
  const references = await loadReferences();
  const measure = async (
    clips: Iterable<Clip> | AsyncIterable<Clip>,
    against: Reference[],
  ): Promise<SetScores> => {
    const board = new Scoreboard();
    const calibration = new Calibration();
    for await (const clip of clips) {
      measureClip(board, calibration, clip, against);
      process.stderr.write('.');
    }
    process.stderr.write('\n');
    return { scores: board.scores(), calibration: calibration.rows() };
  };
  writeFileSync(
    page('accuracy'),
    accuracyPage({
      // The one that is best in pitch; the others take many minutes.
      leftOut: await measure(
        leftOutVoices(),
        references.filter(({ name }) => name.startsWith('aubio')),
      ),
      test: await measure(buildSet('test', rounds, TEST_FIRST_ROUND), references),
      check: await measure(buildSet('check', 2), []),
      tuning: await measure(buildSet('tuning', 2), []),
    }),
  );
}
if (wanted('chordal'))
  writeFileSync(page('chordal'), chordalPage(await measureChordal(rounds), await measureChordalSpeed()));
if (wanted('drums')) writeFileSync(page('drums'), drumsPage(await measureHits(rounds, values.kits)));
if (wanted('chords'))
  writeFileSync(
    page('chords'),
    chordsPage(await measureChords(rounds), await measureStrums(40), await measureChordsSpeed()),
  );
if (wanted('rhythm')) writeFileSync(page('rhythm'), rhythmPage(await measureRhythm(rounds, values)));
if (wanted('loops')) writeFileSync(page('loops'), loopsPage(await measureLoops(rounds, values.songs)));
if (wanted('retune'))
  writeFileSync(page('correction'), retunePage(await measureRetune(rounds), await measureStretch(rounds)));
if (wanted('speed') || wanted('screen')) {
  const speed = wanted('speed') ? await measureSpeed() : [];
  const screen = wanted('screen') ? await measureScreen() : [];
  const rows = [...speed, ...screen];
  if (wanted('speed') && wanted('screen')) writeFileSync(page('speed'), speedPage(rows));
  console.log(speedPage(rows));
}
if (wanted('trust')) writeFileSync(page('trust'), trustPage(await measureTrust()));
