/** Chords, key and beats on arrangements that the method was not fitted on, with a reference library in the same run. */
import { computeActivations, readChords } from '@plundra/core/reading';
import { pitchClassOf, tonicName, tonicPitchClass, type Key } from '@plundra/core/theory';
import type { CalibrationRow } from '../accuracy.ts';
import { chordClips, type ChordClip } from './clips.ts';
import { loadChordReference } from './reference.ts';
import {
  beatF,
  slashSeconds,
  weightedOverlap,
  type ChordSegment,
  type Comparison,
  type Overlap,
  type SlashSeconds,
} from './scores.ts';

export interface ChordScores {
  /** Ensemble, "all" of them, or what is not part of these. */
  group: string;
  clips: number;
  root: number;
  majmin: number;
  sevenths: number;
  key: number;
  beatF: number;
  downbeatF: number;
  /** Share of the named slash basses that are played, and of the played ones that are named. */
  slashPrecision: number;
  slashRecall: number;
}

export interface ChordMeasures {
  ours: ChordScores[];
  reference: ChordScores[];
  calibration: CalibrationRow[];
}

interface Sums {
  clips: number;
  overlap: Record<Comparison, Overlap>;
  keys: number;
  beats: number;
  downbeats: number;
  slashes: SlashSeconds;
}

/** Arrangements in other manners are groups of their own, from the same number of rounds. */
const MANNERS = { usual: 'all', quick: 'quick changes', rich: 'rich chords', pedal: 'over a pedal' } as const;
const COMPARISONS: Comparison[] = ['root', 'majmin', 'sevenths'];
const EDGES = [0, 0.4, 0.6, 0.8, 0.9, 1.001];

export async function measureChords(rounds: number): Promise<ChordMeasures> {
  const reference = loadChordReference();
  const ours = new Map<string, Sums>();
  const theirs = new Map<string, Sums>();
  const bins = EDGES.slice(1).map((high, i) => ({ low: EDGES[i], high, chords: 0, right: 0, confidence: 0 }));
  for await (const clip of testClips(rounds)) {
    const reading = readChords(clip.samples, computeActivations(clip.samples, { coarse: true }));
    const key = reading.keys.at(0)?.key;
    add(ours, clip, reading.chords, key !== undefined && sameKey(clip.key, tonicName(key), key.mode), {
      beats: reading.tempo.beats,
      downbeats: reading.tempo.downbeats,
    });
    const other = reference(clip.samples, clip.sampleRateHz);
    add(theirs, clip, other.chords, sameKey(clip.key, other.tonic, other.mode), {
      beats: other.beats,
      downbeats: [],
    });
    for (const chord of reading.chords) {
      const { right, compared } = weightedOverlap(within(clip.chords, chord), [chord], 'majmin');
      if (compared === 0) continue;
      const bin = bins.find(({ high }) => chord.confidence < high)!;
      bin.chords++;
      bin.confidence += chord.confidence;
      if (right / compared > 0.5) bin.right++;
    }
    process.stderr.write('.');
  }
  process.stderr.write('\n');
  return {
    ours: rowsOf(ours),
    reference: rowsOf(theirs),
    calibration: bins.map(({ low, high, chords, right, confidence }) => ({
      low,
      high: Math.min(1, high),
      notes: chords,
      meanConfidence: chords > 0 ? confidence / chords : 0,
      shareRight: chords > 0 ? right / chords : 0,
    })),
  };
}

async function* testClips(rounds: number): AsyncGenerator<ChordClip> {
  for (const manner of ['usual', 'quick', 'rich', 'pedal'] as const)
    yield* chordClips('test', rounds, manner);
}

function add(
  sums: Map<string, Sums>,
  clip: ChordClip,
  chords: readonly ChordSegment[],
  keyRight: boolean,
  { beats, downbeats }: { beats: readonly number[]; downbeats: readonly number[] },
): void {
  for (const group of clip.manner === 'usual' ? [clip.ensemble, MANNERS.usual] : [MANNERS[clip.manner]]) {
    let sum = sums.get(group);
    if (!sum) {
      const none = () => ({ right: 0, compared: 0 });
      sum = {
        clips: 0,
        overlap: { root: none(), majmin: none(), sevenths: none() },
        keys: 0,
        beats: 0,
        downbeats: 0,
        slashes: { played: 0, named: 0, right: 0 },
      };
      sums.set(group, sum);
    }
    sum.clips++;
    for (const comparison of COMPARISONS) {
      const { right, compared } = weightedOverlap(clip.chords, chords, comparison);
      sum.overlap[comparison].right += right;
      sum.overlap[comparison].compared += compared;
    }
    const slashes = slashSeconds(clip.chords, chords);
    sum.slashes.played += slashes.played;
    sum.slashes.named += slashes.named;
    sum.slashes.right += slashes.right;
    if (keyRight) sum.keys++;
    sum.beats += beatF(clip.beats, beats);
    sum.downbeats += beatF(clip.downbeats, downbeats);
  }
}

function rowsOf(sums: Map<string, Sums>): ChordScores[] {
  const share = ({ right, compared }: Overlap) => right / Math.max(1e-9, compared);
  return [...sums]
    .sort(([a], [b]) => placeOf(a) - placeOf(b))
    .map(([group, { clips, overlap, keys, beats, downbeats, slashes }]) => ({
      group,
      clips,
      root: share(overlap.root),
      majmin: share(overlap.majmin),
      sevenths: share(overlap.sevenths),
      key: keys / clips,
      beatF: beats / clips,
      downbeatF: downbeats / clips,
      slashPrecision: slashes.right / Math.max(1e-9, slashes.named),
      slashRecall: slashes.right / Math.max(1e-9, slashes.played),
    }));
}

/** Where a group stands in the table: ensembles, other manners, all. */
function placeOf(group: string): number {
  const { usual, ...others } = MANNERS;
  return [...Object.values<string>(others), usual].indexOf(group);
}

function sameKey(key: Key, tonic: string, mode: string): boolean {
  return pitchClassOf(tonic) === tonicPitchClass(key) && mode === key.mode;
}

function within(
  chords: readonly ChordSegment[],
  { startSeconds, endSeconds }: { startSeconds: number; endSeconds: number },
): ChordSegment[] {
  return chords
    .map((chord) => ({
      ...chord,
      startSeconds: Math.max(chord.startSeconds, startSeconds),
      endSeconds: Math.min(chord.endSeconds, endSeconds),
    }))
    .filter((chord) => chord.endSeconds > chord.startSeconds);
}
