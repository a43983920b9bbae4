/** Notes of chordal recordings, scored on clips that the network was not trained on, also out of tune. */
import { createChordalReader, decodeNotes, DEFAULT_SENSITIVITY, type ReadNote } from '@plundra/core/reading';
import { Calibration, type CalibrationRow } from '../accuracy.ts';
import { correlation, matchNotes, scoreNotes } from '../metrics.ts';
import { chordalClips, DETUNED_CENTS, type ChordalClip } from './clips.ts';

export interface ChordalRow {
  set: 'check' | 'test';
  group: ChordalClip['group'];
  detuneCents: number;
  clips: number;
  /** Means over clips. */
  precision: number;
  recall: number;
  noteF1: number;
  noteF1WithOffsets: number;
}

/** How well velocities follow what was played: Pearson's correlation within each clip, over the notes that were found. */
export interface VelocityRow {
  set: ChordalRow['set'];
  group: ChordalClip['group'];
  clips: number;
  correlation: number;
}

export interface ChordalScores {
  rows: ChordalRow[];
  velocities: VelocityRow[];
  calibration: CalibrationRow[];
}

async function measureVelocities(rounds: number): Promise<VelocityRow[]> {
  const rows: VelocityRow[] = [];
  for (const set of ['test', 'check'] as const)
    for await (const clip of chordalClips(set, rounds, { lively: true })) {
      const notes = readNotes(clip);
      const pairs = matchNotes(clip.notes, notes);
      let row = rows.find((each) => each.set === set && each.group === clip.group);
      if (!row) rows.push((row = { set, group: clip.group, clips: 0, correlation: 0 }));
      row.clips++;
      row.correlation += correlation(
        pairs.map(([known]) => clip.notes[known].velocity),
        pairs.map(([, read]) => notes[read].velocity),
      );
      process.stderr.write('.');
    }
  return rows.map((row) => ({ ...row, correlation: row.correlation / row.clips }));
}

function readNotes(clip: ChordalClip): ReadNote[] {
  const reader = createChordalReader(clip.sampleRateHz);
  reader.push(clip.samples);
  return decodeNotes(reader.finish(), { sensitivity: DEFAULT_SENSITIVITY });
}

export async function measureChordal(rounds: number): Promise<ChordalScores> {
  const rows: ChordalRow[] = [];
  const calibration = new Calibration();
  for (const set of ['test', 'check'] as const) {
    for (const detuneCents of [0, DETUNED_CENTS]) {
      const groups = new Map<ChordalClip['group'], ChordalRow>();
      for await (const clip of chordalClips(set, rounds, { detuneCents })) {
        const notes = readNotes(clip);
        if (set === 'test' && detuneCents === 0) calibration.add(clip, notes);
        add(groups, clip, set, detuneCents, notes);
        process.stderr.write('.');
      }
      for (const row of groups.values()) rows.push(meanOf(row));
    }
  }
  const velocities = await measureVelocities(rounds);
  process.stderr.write('\n');
  return { rows, velocities, calibration: calibration.rows() };
}

function add(
  groups: Map<ChordalClip['group'], ChordalRow>,
  clip: ChordalClip,
  set: ChordalRow['set'],
  detuneCents: number,
  notes: ReturnType<typeof decodeNotes>,
): void {
  const empty = { precision: 0, recall: 0, noteF1: 0, noteF1WithOffsets: 0 };
  const row = groups.get(clip.group) ?? { set, group: clip.group, detuneCents, clips: 0, ...empty };
  const { precision, recall, f1 } = scoreNotes(clip.notes, notes);
  row.clips++;
  row.precision += precision;
  row.recall += recall;
  row.noteF1 += f1;
  row.noteF1WithOffsets += scoreNotes(clip.notes, notes, true).f1;
  groups.set(clip.group, row);
}

const meanOf = (row: ChordalRow): ChordalRow => ({
  ...row,
  precision: row.precision / row.clips,
  recall: row.recall / row.clips,
  noteF1: row.noteF1 / row.clips,
  noteF1WithOffsets: row.noteF1WithOffsets / row.clips,
});
