/** Beats, tempo and bars of pieces that were not trained on, with a reference library in the same run. */
import { FASTEST_NEAR_BPM, SLOWEST_NEAR_BPM } from '@plundra/contract';
import { computeActivations, readChords, type ChordsReading } from '@plundra/core/reading';
import { readRhythm } from '@plundra/core/reading/training';
import { loadChordReference } from '../chords/reference.ts';
import { beatF } from '../chords/scores.ts';
import { existsSync } from 'node:fs';
import { loadBank, loadBankFile } from '@plundra/demo';
import { RHYTHM_BANKS, RHYTHM_RATE_HZ, rhythmClip, rhythmClips, type RhythmClip } from './clips.ts';
import { songClips } from './songClips.ts';
import { loadSongs } from './songs.ts';
import { LEFT_OUT_SPARSE_STRUMS } from './strums.ts';
import { loadTunes } from './tunes.ts';

export interface RhythmScores {
  group: string;
  clips: number;
  beatF: number;
  /** Shares of clips. */
  tempoWithin8: number;
  tempoWithin4: number;
  /** The tempo, its half or its double. */
  tempoOrOctave: number;
  barF: number;
  metre: number;
}

export interface RhythmMeasures {
  ours: RhythmScores[];
  reference: RhythmScores[];
  /** Pieces whose tempo was read otherwise than within 8 %, before and after somebody tells it. */
  told: { clips: number; beatFBefore: number; beatF: number; barF: number };
  timesRealTime: number;
}

type Row = Omit<RhythmScores, 'group' | 'clips'>;
/** As mir_eval has it: what is found in the first second does not count. */
const FIRST_SECONDS = 1;

/** Where what is measured comes from that is not composed here. */
export interface RhythmSources {
  /** What training/tunes.py writes; without it no published tunes are measured. */
  tunes?: string;
  /** A folder of MIDI files by others; without it none are measured. */
  songs?: string;
}

type Heard = Pick<RhythmClip, 'samples' | 'beats' | 'downbeats' | 'metre'>;

/** Pieces that are groups of their own: few strokes in a bar, drums of recorded kits, published tunes, and songs by others. */
const SPARSE = 'sparse chords';
const KITS = 'drums, recorded kits';
const TUNES = 'published tunes';
const SONGS = 'songs by others';
/** Recorded kits of Debian's avldrums.lv2-soundfont (used here only, never shipped). */
const KIT_FILES = ['Black_Pearl_4_LV2', 'Red_Zeppelin_4_LV2'].map(
  (name) => `/usr/share/sounds/sf2/${name}.sf2`,
);
const FIRST_SPARSE_ROUND = 400;
/** Rounds of recorded kits are others than those above. */
const FIRST_KIT_ROUND = 300;
const TUNE_KINDS = ['line', 'strums', 'picked', 'band'] as const;
/** So many stretches of each song. */
const SONG_ROUNDS = 2;

export async function measureRhythm(rounds: number, sources: RhythmSources = {}): Promise<RhythmMeasures> {
  const reference = loadChordReference();
  const [ours, theirs] = [new Map<string, Row[]>(), new Map<string, Row[]>()];
  const told: { before: Row; after: Row }[] = [];
  let [sound, time] = [0, 0];
  for await (const [clip, ...groups] of testClips(rounds, sources)) {
    const begin = performance.now();
    readRhythm(clip.samples);
    time += (performance.now() - begin) / 1000;
    sound += clip.samples.length / RHYTHM_RATE_HZ;
    const activations = computeActivations(clip.samples, { coarse: true });
    const scores = ({ tempo }: ChordsReading) => {
      const metre = tempo.beatsPerBar === clip.metre.beats && tempo.compound === clip.metre.compound;
      return scoresOf(clip, tempo.beats, tempo.downbeats, metre);
    };
    const before = scores(readChords(clip.samples, activations));
    add(ours, groups, before);
    const nearBpm = Math.round(bpmOf(clip.beats));
    if (before.tempoWithin8 === 0 && nearBpm >= SLOWEST_NEAR_BPM && nearBpm <= FASTEST_NEAR_BPM)
      told.push({ before, after: scores(readChords(clip.samples, activations, { nearBpm })) });
    add(theirs, groups, scoresOf(clip, reference(clip.samples, RHYTHM_RATE_HZ).beats, [], false));
    process.stderr.write('.');
  }
  process.stderr.write('\n');
  return { ours: means(ours), reference: means(theirs), told: gain(told), timesRealTime: sound / time };
}

function gain(told: readonly { before: Row; after: Row }[]): RhythmMeasures['told'] {
  const mean = (of: (each: (typeof told)[number]) => number) => {
    const known = told.map(of).filter((value) => !Number.isNaN(value));
    return known.reduce((sum, value) => sum + value, 0) / known.length;
  };
  return {
    clips: told.length,
    beatFBefore: mean(({ before }) => before.beatF),
    beatF: mean(({ after }) => after.beatF),
    barF: mean(({ after }) => after.barF),
  };
}

function scoresOf(clip: Heard, beats: readonly number[], downbeats: readonly number[], metre: boolean): Row {
  const later = (times: readonly number[]) => times.filter((seconds) => seconds > FIRST_SECONDS);
  const ratio = bpmOf(beats) / bpmOf(clip.beats);
  const within = (share: number, factor = 1) => Math.abs(ratio / factor - 1) <= share;
  // Songs whose metre nobody wrote say nothing of bars.
  const barred = clip.downbeats.length > 0;
  return {
    beatF: beatF(later(clip.beats), later(beats)),
    tempoWithin8: Number(within(0.08)),
    tempoWithin4: Number(within(0.04)),
    tempoOrOctave: Number([0.5, 1, 2].some((factor) => within(0.08, factor))),
    barF: barred ? beatF(later(clip.downbeats), later(downbeats)) : NaN,
    metre: barred ? Number(metre) : NaN,
  };
}

function bpmOf(beats: readonly number[]): number {
  return beats.length < 2 ? 0 : (60 * (beats.length - 1)) / (beats[beats.length - 1] - beats[0]);
}

/** Each clip, with its groups. */
async function* testClips(
  rounds: number,
  { tunes: tunesPath, songs }: RhythmSources,
): AsyncGenerator<readonly [Heard, ...string[]]> {
  for await (const clip of rhythmClips('test', 4 * rounds)) yield [clip, ...groupsOf(clip)];
  const banks = await Promise.all(RHYTHM_BANKS.test.map((name) => loadBank(name)));
  for (let round = FIRST_SPARSE_ROUND; round < FIRST_SPARSE_ROUND + 12 * rounds; round++)
    yield [await rhythmClip('test', banks, 'strums', round, { strums: LEFT_OUT_SPARSE_STRUMS }), SPARSE];
  const kits = await Promise.all(KIT_FILES.filter((path) => existsSync(path)).map(loadBankFile));
  for (const [i, kit] of kits.entries())
    for (let round = 0; round < 4 * rounds; round++)
      yield [
        await rhythmClip('test', banks, 'drums', FIRST_KIT_ROUND + kits.length * round + i, { kit }),
        KITS,
      ];
  const tunes = tunesPath === undefined ? [] : loadTunes(tunesPath, 'test');
  for (let round = 0; tunes.length > 0 && round < 2 * rounds; round++)
    for (const kind of TUNE_KINDS) yield [await rhythmClip('test', banks, kind, round, { tunes }), TUNES];
  const written = songs === undefined ? [] : loadSongs(songs, 'test');
  for (let round = 0; written.length > 0 && round < SONG_ROUNDS; round++)
    for await (const clip of songClips(written, 'test', round))
      yield [clip, SONGS, `${SONGS}: ${clip.collection}`];
}

function groupsOf({ kind, changing, loop, metre }: RhythmClip): string[] {
  const metreName = metre.compound ? `${3 * metre.beats}/8` : `${metre.beats}/4`;
  return [kind, metreName, ...(changing ? ['changing tempo'] : []), ...(loop ? ['loops'] : []), 'all'];
}

function add(rows: Map<string, Row[]>, groups: readonly string[], row: Row): void {
  for (const group of groups) rows.set(group, [...(rows.get(group) ?? []), row]);
}

function means(groups: Map<string, Row[]>): RhythmScores[] {
  return [...groups]
    .map(([group, rows]) => {
      const mean = (key: keyof Row) => {
        const known = rows.map((row) => row[key]).filter((value) => !Number.isNaN(value));
        return known.reduce((sum, value) => sum + value, 0) / known.length;
      };
      return {
        group,
        clips: rows.length,
        beatF: mean('beatF'),
        tempoWithin8: mean('tempoWithin8'),
        tempoWithin4: mean('tempoWithin4'),
        tempoOrOctave: mean('tempoOrOctave'),
        barF: mean('barF'),
        metre: mean('metre'),
      };
    })
    .sort((a, b) => placeOf(a.group) - placeOf(b.group) || a.group.localeCompare(b.group));
}

/** "all" after its parts, and what is not part of it last. */
function placeOf(group: string): number {
  return ['all', SPARSE, KITS, TUNES, SONGS].findLastIndex((each) => group.startsWith(each));
}
