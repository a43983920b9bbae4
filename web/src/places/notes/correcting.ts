/** Corrections of a line as edits: tuning, pulling, locking. Pure; the sheets show them before they are applied. */
import type { LockPair } from '@plundra/core/retune';
import {
  createPassageTime,
  heardAt,
  keyAt,
  melodyLineOf,
  nearestNote,
  pullOnsets,
  pullToGrid,
  soundingCentsOff,
  wantedSpan,
  type GridPull,
  type Keyed,
  type Line,
  type LineNote,
  type PullReport,
  type PlacedRecording,
  type Stretch,
  type TimeMap,
} from '@plundra/core/song';
import { nearestInScale, type Key } from '@plundra/core/theory';
import { together } from './acrossPassages.ts';
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

/** Notes that are meant, passage by passage. */
export interface Meant {
  passage: PlacedRecording;
  notes: LineNote[];
}

/** The selected notes of all passages of a part, or all of its notes when none is selected. */
export function meantIn(passages: readonly PlacedRecording[], selected: ReadonlySet<string>): Meant[] {
  const all = passages.flatMap((passage) => {
    const line = melodyLineOf(passage);
    return line && line.notes.length > 0 ? [{ passage, notes: line.notes }] : [];
  });
  const chosen = all.flatMap(({ passage, notes }) => {
    const meant = notes.filter((note) => selected.has(note.id));
    return meant.length > 0 ? [{ passage, notes: meant }] : [];
  });
  return chosen.length > 0 ? chosen : all;
}

export const notesMeant = (meant: readonly Meant[]): LineNote[] => meant.flatMap(({ notes }) => notes);

/** What is done to each passage, as one step. */
export const inEach = (
  meant: readonly Meant[],
  work: (meant: Meant) => LabelledEdit | undefined,
): LabelledEdit | undefined => together(meant.map(work));

/** The key of the place where a note of a passage sounds: of its middle, for one that is struck early. */
export function keyOfNotes(
  song: Keyed,
  passage: PlacedRecording,
  time: TimeMap,
): (note: LineNote) => Key | null {
  const { toTicks } = createPassageTime(passage, time);
  return (note) => {
    const { startSeconds, endSeconds } = wantedSpan(note);
    return keyAt(song, toTicks((startSeconds + endSeconds) / 2));
  };
}

export function tuneNotes(
  partId: string,
  passage: PlacedRecording,
  notes: readonly LineNote[],
  settings: Partial<TuneSettings>,
  keyOf: (note: LineNote) => Key | null,
): LabelledEdit {
  const { tuningCents } = passage.line!;
  const { goal, ...shape } = settings;
  // The nearest note is the one that was played, whatever it was named.
  const nearest = notes.map((note) => (goal === 'nearest' ? withoutName(note) : note));
  return put(partId, passage, `Tune ${countNotes(notes.length)}`, nearest, (note) => {
    const target: Target = { ...note.target, ...shape };
    if (goal !== undefined && goal !== 'rail') target.midi = goalMidi(note, goal, tuningCents, keyOf(note));
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
  passage: PlacedRecording,
  notes: readonly LineNote[],
): LabelledEdit {
  return put(partId, passage, `Pitch as played for ${countNotes(notes.length)}`, notes, (note) =>
    pick(note.target, ['startSeconds', 'endSeconds']),
  );
}

/** Timing as it was played. */
export function unpullNotes(
  partId: string,
  passage: PlacedRecording,
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
  passage: PlacedRecording,
  stretch: Stretch,
  selected: ReadonlySet<string>,
  settings: GridPull,
  time: TimeMap,
): PullPlan {
  const { toSong } = createPassageTime(passage, time);
  const { stretch: pulled, report } = pullOnsets(passage, stretch, settings, time, selected);
  return {
    report,
    starts: new Map(pulled.onsets.map((onset) => [onset.id, toSong(heardAt(onset))])),
    stretch: pulled,
  };
}

/** What a pull would do, from what was played; every pull starts there, so pulling twice is pulling once. */
export function planPull(meant: readonly Meant[], settings: GridPull, time: TimeMap): PullPlan {
  const played = meant.flatMap(({ passage, notes }) => {
    const { toSong } = createPassageTime(passage, time);
    return notes.map((note) => ({ note, atSeconds: toSong(note.startSeconds) }));
  });
  const { pulled, report } = pullToGrid(
    played.map(({ atSeconds }) => atSeconds),
    settings,
    time,
  );
  return { report, starts: new Map(pulled.map(({ toSeconds }, i) => [played[i].note.id, toSeconds])) };
}

export function pullNotes(
  partId: string,
  meant: readonly Meant[],
  plan: PullPlan,
  time: TimeMap,
): LabelledEdit | undefined {
  const label = `Pull ${countNotes(plan.report.moving)} to the grid`;
  const pulled = inEach(meant, ({ passage, notes }) => {
    const { toRecorded } = createPassageTime(passage, time);
    return put(partId, passage, label, notes, (note) => moveTo(note, toRecorded(plan.starts.get(note.id)!)));
  });
  return pulled && { ...pulled, label };
}

export interface LockSettings {
  /** Share of the distance that is gone, 0–1 each. */
  timing: number;
  pitch: number;
}

/** Follows the partners of another line. Notes without one stay. */
export function lockNotes(
  partId: string,
  passage: PlacedRecording,
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
  passage: PlacedRecording,
  label: string,
  notes: readonly LineNote[],
  targetOf: (note: LineNote) => Target,
): LabelledEdit {
  return {
    label,
    edit: {
      type: 'line.notes',
      partId,
      takeId: passage.takeId,
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
