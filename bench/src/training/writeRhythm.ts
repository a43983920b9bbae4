/**
 * Writes what the beat network is trained on: `npx tsx bench/src/training/writeRhythm.ts FOLDER FROM TO [tuning|choosing|chords]` renders
 * rounds of pieces with a known pulse, or of arrangements of chords, and writes for each its features and beats.
 */
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { RHYTHM_INPUTS, rhythmFeatures } from '@plundra/core/reading/training';
import { loadBank } from '@plundra/demo';
import { chordClips } from '../chords/clips.ts';
import { RHYTHM_BANKS, rhythmClip } from '../rhythm/clips.ts';

const [folder, from, to, set = 'tuning'] = process.argv.slice(2);
mkdirSync(folder, { recursive: true });
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
  for (const quick of [false, true])
    for await (const clip of chordClips('tuning', Number(to), quick, Number(from))) {
      const name = `chords-${clip.name.replaceAll(' ', '-')}${quick ? '-quick' : ''}`;
      write(name, clip, clip.metre === '6/8', { kind: `chords ${clip.ensemble}` });
    }
} else {
  const which = set === 'choosing' ? 'choosing' : 'tuning';
  const banks = await Promise.all(RHYTHM_BANKS[which].map((name) => loadBank(name)));
  for (let round = Number(from); round < Number(to); round++)
    for (const [i, kind] of KINDS.entries()) {
      // Further ones of a kind have other seeds.
      const clip = await rhythmClip(which, banks, kind, i < 5 ? round : round + 40_000 * (i - 4));
      const { metre, pattern, bpm, changing } = clip;
      write(`${which}-${round}-${i}-${kind}`, clip, metre.compound, { kind, metre, pattern, bpm, changing });
    }
}
