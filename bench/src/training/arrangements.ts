/** What is heard in the tuning arrangements, for fitting: evidence of beats and note activations. */
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { deserialize, serialize } from 'node:v8';
import { computeActivations, type Activations } from '@plundra/core/reading';
import { beatEvidence, type BeatEvidence } from '@plundra/core/reading/training';
import { chordClips, type ChordClip } from '../chords/clips.ts';

export interface HeardArrangement extends Pick<ChordClip, 'name' | 'key' | 'beats' | 'downbeats' | 'chords'> {
  evidence: BeatEvidence;
  /** Of the planes only `active` is kept. */
  activations: Activations;
}

export async function heardArrangements(rounds: number, cache?: string): Promise<HeardArrangement[]> {
  if (cache && existsSync(cache)) return deserialize(readFileSync(cache)) as HeardArrangement[];
  const none = new Uint8Array(0);
  const heard: HeardArrangement[] = [];
  for await (const { samples, name, key, beats, downbeats, chords } of chordClips('tuning', rounds)) {
    const activations = computeActivations(samples, { coarse: true });
    heard.push({
      name,
      key,
      beats,
      downbeats,
      chords,
      evidence: beatEvidence(samples, activations),
      activations: { ...activations, onset: none, level: none },
    });
    process.stderr.write('.');
  }
  process.stderr.write('\n');
  if (cache) writeFileSync(cache, serialize(heard));
  return heard;
}
