/** Corrections of a line as edits: tuning, pulling, locking. Pure; the sheets show them before they are applied. */
import type { LockPair } from '@plundra/core/retune';
import {
  createPassageTime,
  heardAt,
  nearestNote,
  pullOnsets,
  pullToGrid,
  soundingCentsOff,
  wantedSpan,
  type GridPull,
  type Line,
  type LineNote,
  type PullReport,
  type RecordingPassage,
  type Stretch,
  type TimeMap,
} from '@plundra/core/song';
import { nearestInScale, type Key } from '@plundra/core/theory';
import { countNotes, type LabelledEdit } from './noteEditing.ts';

/** What a note is tuned to: the nearest note, the nearest of the key's scale, where its rail is, or one pitch. */
export type TuneGoal = 'nearest' | 'scale' | 'rail' | { midi: number };

export interface TuneSettings {
  goal: TuneGoal;
  /** 0–1; see the target of a line note. */
  centre: number;
  vibratoKept: number;
  driftKept: number;
}

type Target = NonNullable<LineNote['target']>;

/** The notes that are meant: the selected ones, or all when none is selected. */
export function meantNotes(line: Line, selected: ReadonlySet<string>): LineNote[] {
  const chosen = line.notes.filter((note) => selected.has(note.id));
  return chosen.length > 0 ? chosen : line.notes;
}

export function tuneNotes(
  partId: string,
  passage: RecordingPassage,
  notes: readonly LineNote[],
  settings: Partial<TuneSettings>,
  key: Key | null,
): LabelledEdit {
  const { tuningCents } = passage.line!;
  const { goal, ...shape } = settings;
  // The nearest note is the one that was played, whatever it was named.
  const nearest = notes.map((note) => (goal === 'nearest' ? withoutName(note) : note));
  return put(partId, passage, `Tune ${countNotes(notes.length)}`, nearest, (note) => {
    const target: Target = { ...note.target, ...shape };
    if (goal !== undefined && goal !== 'rail') target.midi = goalMidi(note, goal, tuningCents, key);
    return target;
  });
}

function withoutName(note: LineNote): LineNote {
  const { namedMidi: _, ...nearest } = note;
  return nearest;
}

function goalMidi(
  note: LineNote,
  goal: Exclude<TuneGoal, 'rail'>,
  tuningCents: number,
  key: Key | null,
): number {
  if (typeof goal === 'object') return goal.midi;
  const own = note.midi - tuningCents / 100;
  return (
    (goal === 'scale' && key ? nearestInScale(own, key) : nearestNote(note.midi, tuningCents)) +
    tuningCents / 100
  );
}

/** Pitch as it was played. */
export function untuneNotes(
  partId: string,
  passage: RecordingPassage,
  notes: readonly LineNote[],
): LabelledEdit {
  return put(partId, passage, `Pitch as played for ${countNotes(notes.length)}`, notes, (note) =>
    pick(note.target, ['startSeconds', 'endSeconds']),
  );
}

/** Timing as it was played. */
export function unpullNotes(
  partId: string,
  passage: RecordingPassage,
  notes: readonly LineNote[],
): LabelledEdit {
  return put(partId, passage, `Timing as played for ${countNotes(notes.length)}`, notes, (note) =>
    pick(note.target, ['midi', 'centre', 'vibratoKept', 'driftKept']),
  );
}

export interface PullPlan {
  report: PullReport;
  /** Start each moving note would have, in song seconds. */
  starts: Map<string, number>;
  /** Of onsets: what they become. */
  stretch?: Stretch;
}

/** What a pull of onsets would do; those that are not selected stay, where some are. */
export function planOnsetPull(
  passage: RecordingPassage,
  stretch: Stretch,
  selected: ReadonlySet<string>,
  settings: GridPull,
  time: TimeMap,
): PullPlan {
  const { originSeconds } = createPassageTime(passage, time);
  const { stretch: pulled, report } = pullOnsets(passage, stretch, settings, time, selected);
  return {
    report,
    starts: new Map(pulled.onsets.map((onset) => [onset.id, originSeconds + heardAt(onset)])),
    stretch: pulled,
  };
}

/** What a pull would do, from what was played; every pull starts there, so pulling twice is pulling once. */
export function planPull(
  passage: RecordingPassage,
  notes: readonly LineNote[],
  settings: GridPull,
  time: TimeMap,
): PullPlan {
  const { originSeconds } = createPassageTime(passage, time);
  const { pulled, report } = pullToGrid(
    notes.map((note) => originSeconds + note.startSeconds),
    settings,
    time,
  );
  return {
    report,
    starts: new Map(pulled.map(({ toSeconds }, i) => [notes[i].id, toSeconds])),
  };
}

export function pullNotes(
  partId: string,
  passage: RecordingPassage,
  notes: readonly LineNote[],
  plan: PullPlan,
  time: TimeMap,
): LabelledEdit {
  const { originSeconds } = createPassageTime(passage, time);
  return put(partId, passage, `Pull ${countNotes(plan.report.moving)} to the grid`, notes, (note) =>
    moveTo(note, plan.starts.get(note.id)! - originSeconds),
  );
}

export interface LockSettings {
  /** Share of the distance that is gone, 0–1 each. */
  timing: number;
  pitch: number;
}

/** Follows the partners of another line. Notes without one stay. */
export function lockNotes(
  partId: string,
  passage: RecordingPassage,
  pairs: readonly LockPair[],
  { timing, pitch }: LockSettings,
  intervalSemitones: number,
  leaderName: string,
): LabelledEdit {
  const line = passage.line!;
  const partner = new Map(pairs.map((pair) => [pair.follower.id, pair]));
  const notes = line.notes.filter((note) => partner.has(note.id));
  return put(partId, passage, `Lock ${countNotes(notes.length)} to ${leaderName}`, notes, (note) => {
    const pair = partner.get(note.id)!;
    const moved =
      timing > 0 ? moveTo(note, note.startSeconds - timing * pair.lateSeconds) : { ...note.target };
    if (pitch > 0) {
      moved.midi = pair.leader.midi + intervalSemitones;
      moved.centre = pitch;
    }
    return moved;
  });
}

function moveTo(note: LineNote, startSeconds: number): Target {
  const start = Math.max(0, startSeconds);
  const { startSeconds: before, endSeconds } = wantedSpan({ ...note, target: undefined });
  const target: Target = { ...note.target, startSeconds: start, endSeconds: start + endSeconds - before };
  return Math.abs(start - before) < 1e-4
    ? pick(target, ['midi', 'centre', 'vibratoKept', 'driftKept'])
    : target;
}

function put(
  partId: string,
  passage: RecordingPassage,
  label: string,
  notes: readonly LineNote[],
  targetOf: (note: LineNote) => Target,
): LabelledEdit {
  return {
    label,
    edit: {
      type: 'line.notes',
      partId,
      passageId: passage.id,
      remove: [],
      put: notes.map((note) => {
        const target = targetOf(note);
        const changed = { ...note, target };
        if (Object.keys(target).length === 0) delete (changed as LineNote).target;
        return changed;
      }),
    },
  };
}

function pick(target: LineNote['target'], names: (keyof Target)[]): Target {
  return Object.fromEntries(
    names.flatMap((name) => (target?.[name] === undefined ? [] : [[name, target[name]]])),
  ) as Target;
}

/** Value that all notes share, or undefined. */
export function shared<T>(notes: readonly LineNote[], read: (note: LineNote) => T): T | undefined {
  if (notes.length === 0) return undefined;
  const first = read(notes[0]);
  return notes.every((note) => read(note) === first) ? first : undefined;
}

/** Notes further from their rail than this are counted in the step strip. */
export const OFF_CENTS = 20;

/** Notes that will sound further from their rail than {@link OFF_CENTS}. */
export function offCount(line: Line): number {
  return line.notes.filter((note) => Math.abs(soundingCentsOff(note, line.tuningCents)) > OFF_CENTS).length;
}

export function movedCount(line: Line): number {
  return line.notes.filter((note) => note.target?.startSeconds !== undefined).length;
}
