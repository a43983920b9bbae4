/** Loops as the shelf hears them: tempo, key, and whether they are loops; of material that the method was not made on. */
import { computeActivations, readForShelf } from '@plundra/core/reading';
import { keyOn, sameKey, tonicPitchClass, type Key } from '@plundra/core/theory';
import { chordClips } from '../chords/clips.ts';
import { RHYTHM_RATE_HZ, rhythmClips } from './clips.ts';
import type { RhythmPart } from './compose.ts';
import { loopOf, songClips } from './songClips.ts';
import { loadSongs } from './songs.ts';

export interface LoopScores {
  group: string;
  loops: number;
  /** Shares: within 2 %; the same or its half or double; called a loop. */
  tempo: number;
  tempoOrOctave: number;
  /** Whether its beats fall into threes is right. */
  threes: number;
  called: number;
  /** Share of those with a key; NaN where none has. */
  key: number;
  keyOrRelative: number;
}

export interface LoopMeasures {
  scores: LoopScores[];
  /** Stretches that nobody made as loops: from the beginning of arrangements, and from within them. */
  cut: LoopScores;
  cutWithin: LoopScores;
  /** Out of songs by others; undefined where none are given. */
  ofSongs?: LoopScores;
  /** Recordings that are none, and how many of them were called loops. */
  others: number;
  calledLoops: number;
}

interface Row {
  tempo: boolean;
  octave: boolean;
  threes: boolean;
  called: boolean;
  key?: boolean;
  relative?: boolean;
}

/** Earlier rounds were looked at while the method was made. */
const FIRST_ROUND = 96;
const FIRST_CHORD_ROUND = 60;
const WITHIN = 0.02;
/** Loops of so many bars, in turn. */
const BARS = [1, 2, 4, 8];
const CHORD_BARS = [2, 4];
/** Other stretches of songs than those of the bench of rhythm. */
const SONG_ROUNDS = [2, 3];

/** @param songs a folder of MIDI files by others, out of which loops are cut */
export async function measureLoops(rounds: number, songs?: string): Promise<LoopMeasures> {
  const rows = new Map<string, Row[]>();
  const add = (groups: readonly string[], row: Row) => {
    for (const group of [...groups, 'all']) rows.set(group, [...(rows.get(group) ?? []), row]);
  };
  const cut: Row[] = [];
  const cutWithin: Row[] = [];
  let [others, calledLoops, at] = [0, 0, 0];
  for await (const clip of rhythmClips('test', 12 * rounds, undefined, FIRST_ROUND)) {
    if (!clip.loop) {
      others++;
      if (read(clip.samples, clip.kind === 'drums').loop) calledLoops++;
      continue;
    }
    const bars = BARS[at++ % BARS.length];
    const beats = Math.min(clip.beats.length, bars * clip.metre.beats);
    const seconds = clip.beats[beats] ?? clip.durationSeconds;
    const reading = read(
      clip.samples.subarray(0, Math.round(seconds * RHYTHM_RATE_HZ)),
      clip.kind === 'drums',
    );
    add([clip.kind, barsName(bars)], {
      ...tempoRow(reading, (60 * beats) / seconds, clip.metre.compound),
      ...keyRow(reading, keyOfClip(clip.parts)),
    });
    process.stderr.write('.');
  }
  at = 0;
  for await (const clip of chordClips('test', FIRST_CHORD_ROUND + 2 * rounds, 'usual', FIRST_CHORD_ROUND)) {
    const bars = CHORD_BARS[at % CHORD_BARS.length];
    const beats = bars * (clip.metre === '4/4' ? 4 : clip.metre === '3/4' ? 3 : 2);
    for (const [rowsOf, begins] of [
      [cut, 0],
      [cutWithin, 1 + (at % 3)],
    ] as const) {
      const [from, to] = [clip.downbeats[begins], clip.downbeats[begins + bars]];
      if (to === undefined) continue;
      const samples = clip.samples.slice(
        Math.round(from * clip.sampleRateHz),
        Math.round(to * clip.sampleRateHz),
      );
      const reading = read(samples, false);
      rowsOf.push({
        ...tempoRow(reading, (60 * beats) / (to - from), clip.metre === '6/8'),
        ...keyRow(reading, clip.key),
      });
    }
    at++;
    process.stderr.write('.');
  }
  process.stderr.write('\n');
  const scores = [...rows].sort(([a], [b]) => (a === 'all' ? 1 : 0) - (b === 'all' ? 1 : 0));
  return {
    scores: scores.map(([group, all]) => scoresOf(group, all)),
    cut: scoresOf('cut out', cut),
    cutWithin: scoresOf('from within', cutWithin),
    ...(songs !== undefined && { ofSongs: scoresOf('of songs by others', await loopsOfSongs(songs)) }),
    others,
    calledLoops,
  };
}

/** As many bars as {@link BARS} says in turn, from the second bar line of a stretch on. */
async function loopsOfSongs(folder: string): Promise<Row[]> {
  const songs = loadSongs(folder, 'test');
  const rows: Row[] = [];
  let at = 0;
  for (const round of SONG_ROUNDS)
    for await (const clip of songClips(songs, 'test', round)) {
      const loop = loopOf(clip, 1, BARS[at++ % BARS.length]);
      if (!loop) continue;
      const reading = read(loop.samples, false);
      rows.push(tempoRow(reading, (60 * loop.beats) / loop.durationSeconds, clip.metre.compound));
      process.stderr.write('.');
    }
  return rows;
}

const barsName = (bars: number) => `${bars} ${bars === 1 ? 'bar' : 'bars'}`;
const sounds = (a: Key, b: Key) =>
  sameKey(a, b) || (a.mode === b.mode && tonicPitchClass(a) === tonicPitchClass(b));

const read = (samples: Float32Array, drums: boolean) =>
  readForShelf(samples, computeActivations(samples, { coarse: true }), drums);

function tempoRow({ tempo, loop }: ReturnType<typeof read>, beatBpm: number, threes: boolean): Row {
  const found = tempo && (tempo.unit === 8 ? tempo.bpm / 1.5 : tempo.bpm);
  const within = (factor: number) => found !== null && Math.abs(found / (beatBpm * factor) - 1) <= WITHIN;
  return {
    tempo: within(1),
    octave: [0.5, 1, 2].some(within),
    threes: (tempo?.unit === 8) === threes,
    called: loop,
  };
}

function keyRow(reading: ReturnType<typeof read>, right: Key | undefined): Pick<Row, 'key' | 'relative'> {
  if (!right) return {};
  const key = reading.key?.key;
  const same = key !== undefined && sounds(key, right);
  return { key: same, relative: same || key?.fifths === right.fifths };
}

/** Of what is played by one; parts that play together here each have a key of their own. */
export function keyOfClip(parts: readonly RhythmPart[]): Key | undefined {
  const [{ tonic }] = parts;
  return parts.length === 1 && tonic !== undefined ? keyOn(tonic % 12, 'major') : undefined;
}

function scoresOf(group: string, rows: readonly Row[]): LoopScores {
  const share = (of: (row: Row) => boolean | undefined) => {
    const known = rows.map(of).filter((each) => each !== undefined);
    return known.filter(Boolean).length / known.length;
  };
  return {
    group,
    loops: rows.length,
    tempo: share((row) => row.tempo),
    tempoOrOctave: share((row) => row.octave),
    threes: share((row) => row.threes),
    called: share((row) => row.called),
    key: share((row) => row.key),
    keyOrRelative: share((row) => row.relative),
  };
}
