/** Accuracy of the melody reader and of the references on the same clips. */
import { HOP_SECONDS, readMelody } from '@plundra/core/reading';
import type { Clip } from './clips/clip.ts';
import { correctionsNeeded, matchNotes, scoreContour, scoreNotes, type ScoredNote } from './metrics.ts';
import type { Reference } from './references.ts';

export interface GroupScore {
  reader: string;
  group: string;
  clips: number;
  noteF1: number;
  noteF1WithOffsets: number;
  rawPitch: number;
  overall: number;
  /** Of ten notes, how many a user has to put right. */
  correctionsInTen: number;
  timesRealTime: number;
}

interface Sums {
  clips: number;
  noteF1: number;
  withOffsets: number;
  rawPitch: number;
  overall: number;
  corrections: number;
  notes: number;
  audioSeconds: number;
  seconds: number;
}

export class Scoreboard {
  private readonly sums = new Map<string, Sums>();

  add(
    reader: string,
    clip: Clip,
    found: { f0Hz: ArrayLike<number>; hopSeconds: number; notes: ScoredNote[] },
    seconds: number,
  ): void {
    const contour = scoreContour(clip.f0Hz, 0.01, found.f0Hz, found.hopSeconds);
    for (const group of [clip.group, `${clip.group}: ${clip.name}`]) {
      const key = JSON.stringify([reader, group]);
      const sums = this.sums.get(key) ?? {
        clips: 0,
        noteF1: 0,
        withOffsets: 0,
        rawPitch: 0,
        overall: 0,
        corrections: 0,
        notes: 0,
        audioSeconds: 0,
        seconds: 0,
      };
      sums.clips++;
      sums.noteF1 += scoreNotes(clip.notes, found.notes).f1;
      sums.withOffsets += scoreNotes(clip.notes, found.notes, true).f1;
      sums.rawPitch += contour.rawPitch;
      sums.overall += contour.overall;
      sums.corrections += correctionsNeeded(clip.notes, found.notes);
      sums.notes += clip.notes.length;
      sums.audioSeconds += clip.samples.length / clip.sampleRateHz;
      sums.seconds += seconds;
      this.sums.set(key, sums);
    }
  }

  /** Means over clips. */
  scores(): GroupScore[] {
    return [...this.sums].map(([key, sums]) => {
      const [reader, group] = JSON.parse(key) as [string, string];
      return {
        reader,
        group,
        clips: sums.clips,
        noteF1: sums.noteF1 / sums.clips,
        noteF1WithOffsets: sums.withOffsets / sums.clips,
        rawPitch: sums.rawPitch / sums.clips,
        overall: sums.overall / sums.clips,
        correctionsInTen: (10 * sums.corrections) / sums.notes,
        timesRealTime: sums.audioSeconds / sums.seconds,
      };
    });
  }
}

export const OURS = 'Plundra';

/** How often notes of each confidence are right. */
export class Calibration {
  private readonly bins = CONFIDENCE_EDGES.slice(1).map((high, i) => ({
    low: CONFIDENCE_EDGES[i],
    high,
    notes: 0,
    right: 0,
    confidence: 0,
  }));

  add(clip: Pick<Clip, 'notes'>, notes: (ScoredNote & { confidence: number })[]): void {
    const right = new Set(matchNotes(clip.notes, notes).map(([, estimate]) => estimate));
    notes.forEach((note, i) => {
      const bin = this.bins.find(({ high }) => note.confidence < high) ?? this.bins[this.bins.length - 1];
      bin.notes++;
      bin.confidence += note.confidence;
      if (right.has(i)) bin.right++;
    });
  }

  rows(): CalibrationRow[] {
    return this.bins.map(({ low, high, notes, right, confidence }) => ({
      low,
      high,
      notes,
      meanConfidence: notes > 0 ? confidence / notes : 0,
      shareRight: notes > 0 ? right / notes : 0,
    }));
  }
}

const CONFIDENCE_EDGES = [0, 0.4, 0.6, 0.8, 0.9, 0.95, 1];

export interface CalibrationRow {
  low: number;
  high: number;
  notes: number;
  meanConfidence: number;
  shareRight: number;
}

export function measureClip(
  board: Scoreboard,
  calibration: Calibration,
  clip: Clip,
  references: Reference[],
): void {
  const timed = <T>(work: () => T): [T, number] => {
    const start = performance.now();
    const result = work();
    return [result, (performance.now() - start) / 1000];
  };
  const [reading, seconds] = timed(() => readMelody(clip.samples, clip.sampleRateHz, clip.kind));
  board.add(
    OURS,
    clip,
    { f0Hz: reading.contour.f0Hz, hopSeconds: HOP_SECONDS, notes: reading.notes },
    seconds,
  );
  calibration.add(clip, reading.notes);
  for (const reference of references) {
    const [found, spent] = timed(() => reference.read(clip));
    board.add(reference.name, clip, found, spent);
  }
}
