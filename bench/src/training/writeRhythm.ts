/**
 * Writes what the beat network is trained on: `npx tsx bench/src/training/writeRhythm.ts FOLDER FROM TO [tuning|test] [kind]` renders rounds of
 * pieces with a known pulse, and arrangements of chords with them, and writes for each its features and beats.
 */
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { RHYTHM_INPUTS, rhythmFeatures } from '@plundra/core/reading/training';
import { loadBank } from '@plundra/demo';
import { chordClips } from '../chords/clips.ts';
import { RHYTHM_BANKS, rhythmClip } from '../rhythm/clips.ts';

const [folder, from, to, set = 'tuning', only] = process.argv.slice(2);
mkdirSync(folder, { recursive: true });
const kinds = ['drums', 'strums', 'picked', 'line', 'band', 'drums', 'drums'] as const;

function write(
  name: string,
  clip: { samples: Float32Array; beats: number[]; downbeats: number[] },
  more: object = {},
): void {
  const features = rhythmFeatures(clip.samples);
  writeFileSync(join(folder, `${name}.f32`), features);
  const { beats, downbeats } = clip;
  const about = { ...more, inputs: RHYTHM_INPUTS, beats, downbeats };
  writeFileSync(join(folder, `${name}.json`), JSON.stringify(about));
}

const which = set === 'test' ? 'test' : 'tuning';
const banks = await Promise.all(RHYTHM_BANKS[which].map((name) => loadBank(name)));
for (let round = Number(from); round < Number(to); round++) {
  for (const [i, kind] of kinds.entries()) {
    if (only && kind !== only) continue;
    // Further ones of a kind have other seeds.
    const clip = await rhythmClip(which, banks, kind, i < 5 ? round : round + 40_000 * (i - 4));
    const { metre, pattern, bpm, changing } = clip;
    write(`${which}-${round}-${i}-${kind}`, clip, { kind, metre, pattern, bpm, changing });
  }
  process.stderr.write('.');
}
if (which === 'tuning' && from === '0' && !only) {
  let i = 0;
  for (const quick of [false, true])
    for await (const clip of chordClips('tuning', 16, quick))
      write(`chords-${i++}`, clip, { kind: `chords ${clip.ensemble}`, bpm: 0 });
}
