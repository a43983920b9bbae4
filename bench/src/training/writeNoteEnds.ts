/**
 * Writes what is learned from where notes of chordal recordings end: `npx tsx bench/src/training/writeNoteEnds.ts FOLDER
 * FluidR3Mono_GM|MuseScore_General_Lite|TimGM6mb|tuning|check|choosing CLIPS SEED`. Of a bank, so many clips of each of its programs whose notes
 * die away in many ways; of a set, so many rounds of its clips. For each clip: the inputs of all its notes, and of each where it may end
 * and where it does, in steps from its first row on.
 */
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { HOP_SECONDS } from '@plundra/core/reading';
import { END_INPUTS, END_STEP_FRAMES, endChoices } from '@plundra/core/reading/training';
import { chordalClips, type ChordalClip } from '../chordal/clips.ts';
import { dampedClips } from '../chordal/dampedClips.ts';
import { matchNotes } from '../metrics.ts';
import { findInClip } from './findInClip.ts';

const NEAR_SECONDS = 0.05;
const NEAR_SHARE = 0.2;

const [folder, what, clipsText, seedText] = process.argv.slice(2);
const [clips, seed] = [Number(clipsText), Number(seedText)];
mkdirSync(folder, { recursive: true });

async function* wanted(): AsyncGenerator<ChordalClip> {
  if (what === 'choosing' || what === 'tuning' || what === 'check') {
    yield* chordalClips(what, clips);
    yield* chordalClips(what, clips, { loose: true });
    if (what !== 'choosing') yield* chordalClips(what, Math.ceil(clips / 2), { held: true });
  } else yield* dampedClips(what as Parameters<typeof dampedClips>[0], clips, seed);
}

function write(name: string, clip: ChordalClip): void {
  const { activations, found, notes: read } = findInClip(clip);
  const choices = endChoices(found, activations);
  const pairs = matchNotes(clip.notes, read);
  const stepsOf = (frames: number) => frames / END_STEP_FRAMES;
  const notes = pairs.map(([known, i]) => {
    const { startSeconds, endSeconds } = clip.notes[known];
    const { firstFrame, fromFrame, toFrame, inputs } = choices[i];
    const nearSeconds = Math.max(NEAR_SECONDS, NEAR_SHARE * (endSeconds - startSeconds));
    return {
      rows: inputs.length / END_INPUTS,
      from: Math.ceil(stepsOf(fromFrame - firstFrame)),
      to: stepsOf(toFrame - firstFrame),
      end: stepsOf(endSeconds / HOP_SECONDS - firstFrame),
      near: stepsOf(nearSeconds / HOP_SECONDS),
      found: stepsOf(found[i].endFrame - firstFrame),
    };
  });
  const rows = new Float32Array(pairs.reduce((sum, [, i]) => sum + choices[i].inputs.length, 0));
  let at = 0;
  for (const [, i] of pairs) {
    rows.set(choices[i].inputs, at);
    at += choices[i].inputs.length;
  }
  writeFileSync(join(folder, `${name}.f32`), rows);
  writeFileSync(
    join(folder, `${name}.json`),
    JSON.stringify({ inputs: END_INPUTS, kind: `${clip.name} ${clip.group}`, notes }),
  );
}

let count = 0;
for await (const clip of wanted()) {
  write(`${what}-${seed}-${String(count++).padStart(4, '0')}`, clip);
  process.stderr.write('.');
}
