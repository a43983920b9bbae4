import { readChordsWithProgress, readOnsetsWithProgress } from './readWithProgress.ts';
import { parseCommand, single } from './usage.ts';
import { writeJson } from './writeJson.ts';

/** Onsets that stand out as clearly as the Time step takes at first. */
const CLEAR_SENSITIVITY = 0.65;

/** `plundra tempo`: tempo, beats, bar lines and onsets of a recording as JSON. */
export async function tempo(args: string[]): Promise<void> {
  const { values, positionals } = parseCommand(args, { out: { type: 'string' } });
  const path = single(positionals, 'recording');
  const { tempo: read } = await readChordsWithProgress(path);
  await writeJson(values.out, {
    bpm: read.bpm,
    beats: read.beats,
    downbeats: read.downbeats,
    onsets: await readOnsetsWithProgress(path, CLEAR_SENSITIVITY),
    metre: read.compound ? `${3 * read.beatsPerBar}/8` : `${read.beatsPerBar}/4`,
  });
}
