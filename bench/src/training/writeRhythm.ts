/**
 * Writes what the beat network is trained on: `npx tsx bench/src/training/writeRhythm.ts FOLDER FROM TO [tuning|practice|apart|choosing|machines|practice-machines|sparse|floor|chords|songs] [TUNES|SONGS]`
 * renders rounds of pieces with a known pulse (sparse: chords with few strokes in a bar; floor: machines whose kick plays every beat), of arrangements of chords, or of stretches of songs,
 * and writes for each its features and beats. With TUNES, which training/tunes.py writes, melodies are published ones; SONGS is the
 * folder that training/songs.py writes.
 */
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { RHYTHM_INPUTS, rhythmFeatures } from '@plundra/core/reading/training';
import { loadBank } from '@plundra/demo';
import { chordClips } from '../chords/clips.ts';
import { RHYTHM_BANKS, rhythmClip } from '../rhythm/clips.ts';
import { songClips } from '../rhythm/songClips.ts';
import { loadSongs } from '../rhythm/songs.ts';
import { loadTunes } from '../rhythm/tunes.ts';

const [folder, from, to, set = 'tuning', madeBefore] = process.argv.slice(2);
mkdirSync(folder, { recursive: true });
const TUNE_KINDS = ['line', 'strums', 'line', 'picked', 'line', 'band', 'band'] as const;
const MACHINE_KINDS = ['drums', 'drums', 'drums', 'band', 'line'] as const;
const SPARSE_KINDS = ['strums', 'strums', 'strums', 'strums', 'band'] as const;
const KINDS = ['drums', 'strums', 'picked', 'line', 'band', 'drums', 'drums', 'band'] as const;

interface Played {
  samples: Float32Array;
  beats: number[];
  downbeats: number[];
}

function write(name: string, { samples, beats, downbeats }: Played, compound: boolean, about: object): void {
  writeFileSync(join(folder, `${name}.f32`), rhythmFeatures(samples));
  writeFileSync(
    join(folder, `${name}.json`),
    JSON.stringify({ ...about, inputs: RHYTHM_INPUTS, beats, downbeats, compound }),
  );
  process.stderr.write('.');
}

if (set === 'chords') {
  for (const manner of ['usual', 'quick'] as const)
    for await (const clip of chordClips('tuning', Number(to), manner, Number(from))) {
      const name = `chords-${clip.name.replaceAll(' ', '-')}${manner === 'quick' ? '-quick' : ''}`;
      write(name, clip, clip.metre === '6/8', { kind: `chords ${clip.ensemble}` });
    }
} else if (set === 'songs') {
  const songs = loadSongs(madeBefore, 'tuning');
  for (let round = Number(from); round < Number(to); round++)
    for await (const clip of songClips(songs, 'tuning', round)) {
      const { metre, heard, name } = clip;
      write(`song-${name.replaceAll(' ', '-')}`, clip, metre.compound, { kind: heard, metre });
    }
} else {
  const floor = set === 'floor';
  const machine = set.endsWith('machines') || floor;
  const sparse = set === 'sparse';
  const name = set.replace('-machines', '');
  const which = name === 'choosing' || name === 'practice' || name === 'apart' ? name : 'tuning';
  const banks = await Promise.all(RHYTHM_BANKS[which].map((name) => loadBank(name)));
  const tunes =
    madeBefore === undefined ? undefined : loadTunes(madeBefore, which === 'choosing' ? which : 'tuning');
  const kinds = machine ? MACHINE_KINDS : sparse ? SPARSE_KINDS : tunes ? TUNE_KINDS : KINDS;
  for (let round = Number(from); round < Number(to); round++)
    for (const [i, kind] of kinds.entries()) {
      // Further ones of a kind have other seeds.
      const again = kinds.slice(0, i).filter((each) => each === kind).length;
      const clip = await rhythmClip(which, banks, kind, round + 40_000 * again, {
        tunes,
        machine,
        sparse,
        floor,
      });
      const { metre, pattern, bpm, changing } = clip;
      write(
        `${which}-${tunes ? 'tune-' : floor ? 'floor-' : machine ? 'machine-' : sparse ? 'sparse-' : ''}${round}-${i}-${kind}`,
        clip,
        metre.compound,
        {
          kind,
          metre,
          pattern,
          bpm,
          changing,
        },
      );
    }
}
