/** Beats, tempo and bars of pieces that were not trained on, with a reference library in the same run. */
import { computeActivations, readChords } from '@plundra/core/reading';
import { readRhythm } from '@plundra/core/reading/training';
import { loadChordReference } from '../chords/reference.ts';
import { beatF } from '../chords/scores.ts';
import { RHYTHM_RATE_HZ, rhythmClips, type RhythmClip } from './clips.ts';

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
  timesRealTime: number;
}

type Row = Omit<RhythmScores, 'group' | 'clips'>;
/** As mir_eval has it: what is found in the first second does not count. */
const FIRST_SECONDS = 1;

export async function measureRhythm(rounds: number): Promise<RhythmMeasures> {
  const reference = loadChordReference();
  const [ours, theirs] = [new Map<string, Row[]>(), new Map<string, Row[]>()];
  let [sound, time] = [0, 0];
  for await (const clip of rhythmClips('test', 4 * rounds)) {
    const begin = performance.now();
    readRhythm(clip.samples);
    time += (performance.now() - begin) / 1000;
    sound += clip.durationSeconds;
    const reading = readChords(clip.samples, computeActivations(clip.samples, { coarse: true })).tempo;
    const metre = reading.beatsPerBar === clip.metre.beats && reading.compound === clip.metre.compound;
    add(ours, clip, scoresOf(clip, reading.beats, reading.downbeats, metre));
    add(theirs, clip, scoresOf(clip, reference(clip.samples, RHYTHM_RATE_HZ).beats, [], false));
    process.stderr.write('.');
  }
  process.stderr.write('\n');
  return { ours: means(ours), reference: means(theirs), timesRealTime: sound / time };
}

function scoresOf(
  clip: RhythmClip,
  beats: readonly number[],
  downbeats: readonly number[],
  metre: boolean,
): Row {
  const later = (times: readonly number[]) => times.filter((seconds) => seconds > FIRST_SECONDS);
  const ratio = bpmOf(beats) / bpmOf(clip.beats);
  const within = (share: number, factor = 1) => Math.abs(ratio / factor - 1) <= share;
  return {
    beatF: beatF(later(clip.beats), later(beats)),
    tempoWithin8: Number(within(0.08)),
    tempoWithin4: Number(within(0.04)),
    tempoOrOctave: Number([0.5, 1, 2].some((factor) => within(0.08, factor))),
    barF: beatF(later(clip.downbeats), later(downbeats)),
    metre: Number(metre),
  };
}

function bpmOf(beats: readonly number[]): number {
  return beats.length < 2 ? 0 : (60 * (beats.length - 1)) / (beats[beats.length - 1] - beats[0]);
}

function add(groups: Map<string, Row[]>, { kind, changing, loop, metre }: RhythmClip, row: Row): void {
  const metreName = metre.compound ? `${3 * metre.beats}/8` : `${metre.beats}/4`;
  for (const group of [
    kind,
    metreName,
    ...(changing ? ['changing tempo'] : []),
    ...(loop ? ['loops'] : []),
    'all',
  ])
    groups.set(group, [...(groups.get(group) ?? []), row]);
}

function means(groups: Map<string, Row[]>): RhythmScores[] {
  return [...groups]
    .map(([group, rows]) => {
      const mean = (key: keyof Row) => rows.reduce((sum, row) => sum + row[key], 0) / rows.length;
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
    .sort((a, b) => Number(a.group === 'all') - Number(b.group === 'all') || a.group.localeCompare(b.group));
}
