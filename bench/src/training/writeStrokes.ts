/**
 * What the hit reader finds in drum clips, for training/train_kits.py: `npx tsx bench/src/training/writeStrokes.ts CLIPS OUT`. CLIPS is a folder of
 * NAME.u8 and NAME.json as `python3 -m training.drums --unpack` writes them; OUT gets NAME.f32, strokes × inputs, and NAME.json with the drums that were
 * struck at each.
 */
import { mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import {
  findStrokes,
  HIT_HOP_SAMPLES,
  hitProbabilities,
  loudestDb,
  STROKE_INPUTS,
  strokeInputs,
} from '@plundra/core/reading/training';
import { HIT_KINDS } from '@plundra/core/theory';

/** A stroke further from what was played is another. */
const NEAR_SECONDS = 0.04;
const HOP_SECONDS = HIT_HOP_SAMPLES / 22050;

const [clips, out] = process.argv.slice(2);
mkdirSync(out, { recursive: true });
for (const file of readdirSync(clips).filter((each) => each.endsWith('.json'))) {
  const { hits } = JSON.parse(readFileSync(join(clips, file), 'utf8')) as { hits: [number, number][] };
  const frames = new Uint8Array(readFileSync(join(clips, file.replace('.json', '.u8'))));
  const probabilities = hitProbabilities(frames);
  const strokes = findStrokes(probabilities);
  const struck = strokes.map(() => HIT_KINDS.map(() => 0));
  for (const [seconds, kind] of hits) {
    const distance = (i: number) => Math.abs(strokes[i].frame * HOP_SECONDS - seconds);
    let nearest = -1;
    strokes.forEach((_, i) => {
      if (distance(i) <= NEAR_SECONDS && (nearest < 0 || distance(i) < distance(nearest))) nearest = i;
    });
    if (nearest >= 0) struck[nearest][kind] = 1;
  }
  const inputs = strokeInputs(frames, loudestDb(frames), probabilities, strokes);
  writeFileSync(join(out, file.replace('.json', '.f32')), new Uint8Array(inputs.buffer));
  writeFileSync(join(out, file), JSON.stringify({ inputs: STROKE_INPUTS, struck }));
}
