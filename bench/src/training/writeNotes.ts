/**
 * Writes what the note network is trained on: `npx tsx bench/src/training/writeNotes.ts FOLDER FROM TO
 * [sung|played|varied|choosing] [0|1]` renders rounds of sung clips, of the played and sung ones of the older sets, or of lines
 * of most instruments, and writes for each its inputs, where notes start and where a pitch sounds. The last word takes every
 * second voice, so that two processes share the work.
 */
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { createRandom, resample } from '@plundra/core/signal';
import { HOP_SECONDS, READING_HZ } from '@plundra/core/reading';
import {
  createFeatureStream,
  KINDS,
  NOTE_INPUTS,
  noteInputs,
  trackPitch,
} from '@plundra/core/reading/training';
import { TRUTH_HOP_SECONDS, type Clip } from '../clips/clip.ts';
import { ROUGHNESSES } from '../clips/degrade.ts';
import { addKnocks } from '../clips/knocks.ts';
import { buildSet } from '../clips/sets.ts';
import { SPOKEN_VOICES } from '../clips/spokenSyllables.ts';
import { chanceSinger, sungClip, variedSinger } from '../clips/sungClips.ts';
import { variedPlaying } from '../clips/variedPlaying.ts';

const [folder, from, to, set = 'sung', share] = process.argv.slice(2);
mkdirSync(folder, { recursive: true });
/** In so many of the clips something clicks and knocks. */
const KNOCKS_SHARE = 0.5;

function write(name: string, clip: Clip, seed: number): void {
  const random = createRandom(seed);
  // Some of the material is read with the wide range, as when the kind is left on automatic.
  const kind = clip.kind === 'auto' || random() < 0.25 ? 'wide' : clip.kind;
  const gain = 10 ** (-(random() * 24) / 20);
  if (set !== 'choosing' && random() < KNOCKS_SHARE) addKnocks(clip.samples, clip.sampleRateHz, random);
  const signal = resample(clip.samples, clip.sampleRateHz, READING_HZ).map((value) => value * gain);
  const stream = createFeatureStream(KINDS[kind === 'wide' && clip.kind === 'bass' ? 'bass' : kind]);
  stream.push(signal);
  const features = stream.finish();
  const inputs = noteInputs(features, trackPitch(features));
  writeFileSync(join(folder, `${name}.f32`), inputs);
  const sounding = Array.from({ length: features.frames }, (_, t) =>
    clip.f0Hz[Math.round((t * HOP_SECONDS) / TRUTH_HOP_SECONDS)] > 0 ? 1 : 0,
  );
  const onsets = clip.notes.map((note) => note.startSeconds / HOP_SECONDS);
  writeFileSync(join(folder, `${name}.json`), JSON.stringify({ inputs: NOTE_INPUTS, onsets, sounding }));
}

for (let round = Number(from); round < Number(to); round++) {
  let name = 0;
  if (set === 'played') {
    // Rounds 0 and 1 of the sets stay out: choices are compared on them.
    for (const each of ['tuning', 'check'] as const)
      for await (const clip of buildSet(each, 1, round + 2)) write(`played-${round}-${name}`, clip, name++);
  } else if (set === 'varied') {
    for await (const clip of variedPlaying(round))
      write(`varied-${round}-${name}`, clip, round * 1000 + name++);
  } else {
    const voices = SPOKEN_VOICES[set === 'choosing' ? 'choosing' : 'training'];
    for (const [i, voice] of voices.entries())
      for (const roughness of [undefined, undefined, undefined, 'fast' as const, ...ROUGHNESSES]) {
        const seed = (set === 'choosing' ? 600_000 : 0) + round * 1000 + name++;
        if (share && i % 2 !== Number(share)) continue;
        const singer = set === 'choosing' ? chanceSinger : variedSinger;
        write(`sung-${round}-${name}`, sungClip(singer(voice, seed, roughness), seed), seed);
      }
  }
  process.stderr.write('.');
}
