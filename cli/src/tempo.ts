import { beatsPerMinute } from '@plundra/core/song';
import { tonicName } from '@plundra/core/theory';
import {
  parseNear,
  readChordsWithProgress,
  readOnsetsWithProgress,
  readShelfWithProgress,
} from './readWithProgress.ts';
import { parseCommand, single, UsageError } from './usage.ts';
import { writeJson } from './writeJson.ts';

/** Onsets that stand out as clearly as the Time step takes at first. */
const CLEAR_SENSITIVITY = 0.65;

/** `plundra tempo`: tempo, beats, bar lines and onsets of a recording as JSON. */
export async function tempo(args: string[]): Promise<void> {
  const { values, positionals } = parseCommand(args, {
    out: { type: 'string' },
    loop: { type: 'boolean' },
    near: { type: 'string' },
  });
  const path = single(positionals, 'recording');
  const nearBpm = parseNear(values.near);
  if (values.loop && nearBpm) throw new UsageError('--near is for recordings that are no loop.');
  const onsets = await readOnsetsWithProgress(path, CLEAR_SENSITIVITY);
  await writeJson(values.out, {
    ...(values.loop ? await ofLoop(path) : await ofRecording(path, nearBpm)),
    onsets,
  });
}

async function ofRecording(path: string, nearBpm: number | undefined) {
  const { tempo: read } = await readChordsWithProgress(path, nearBpm);
  return {
    bpm: read.bpm,
    beats: read.beats,
    downbeats: read.downbeats,
    metre: read.compound ? `${3 * read.beatsPerBar}/8` : `${read.beatsPerBar}/4`,
  };
}

/** A loop holds a whole number of beats, the first of them at its start. */
async function ofLoop(path: string) {
  const { tempo: read, key, loop, durationSeconds } = await readShelfWithProgress(path, true);
  const found = key && { tonic: tonicName(key.key), mode: key.key.mode, confidence: key.confidence };
  if (!read) return { bpm: null, beats: [], downbeats: [], metre: null, beatsInLoop: null, loop, key: found };
  const { beats: beatsOfMetre, unit } = read;
  const bpm = beatsPerMinute(read.bpm, { beats: beatsOfMetre, unit });
  const beatsInLoop = Math.round((durationSeconds * bpm) / 60);
  const perBar = unit === 8 ? beatsOfMetre / 3 : beatsOfMetre;
  const beats = Array.from(
    { length: beatsInLoop },
    (_, i) => Math.round((1000 * i * durationSeconds) / beatsInLoop) / 1000,
  );
  return {
    bpm: Math.round(1000 * bpm) / 1000,
    beats,
    downbeats: beats.filter((_, i) => i % perBar === 0),
    metre: `${beatsOfMetre}/${unit}`,
    beatsInLoop,
    loop,
    key: found,
  };
}
