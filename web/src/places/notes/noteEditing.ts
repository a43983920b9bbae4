/** What can be done to notes in the Notes place, the same for a line and for a note part. */
import type { Midi, Seconds, Ticks } from '@plundra/core/signal';
import type { Edit, NoteBend } from '@plundra/core/song';
import type { CanvasNote } from './canvasNote.ts';

/** An edit with the words for the undo button and what should be selected after it. */
export interface LabelledEdit {
  label: string;
  edit: Edit;
  select?: string[];
  /** The first of them may lie out of sight. */
  reveal?: true;
}

export interface NoteMove {
  seconds: Seconds;
  semitones: number;
  /** Where the pitch should go, when that is not a number of semitones away. */
  toMidi?(midi: Midi): Midi;
}

/** Notes on the clipboard, in ticks of the song: pasted elsewhere they keep their bars, whatever the tempo is then. */
export interface Clip {
  notes: {
    startTicks: Ticks;
    lengthTicks: Ticks;
    midi: Midi;
    velocity: number;
    lyric?: string;
    bends?: readonly NoteBend[];
  }[];
}

export interface NoteEditing {
  /** Onsets stand in for notes: they have times, and nothing to be seen on the lanes. */
  readonly unpitched?: boolean;
  /** Notes are written on the grid; those of a recording lie where they were played. */
  readonly snaps: boolean;
  readonly notes: readonly CanvasNote[];
  move(ids: ReadonlySet<string>, move: NoteMove): LabelledEdit | undefined;
  /** Sets edges in song time. */
  trim(id: string, startSeconds: Seconds, endSeconds: Seconds): LabelledEdit | undefined;
  draw(startSeconds: Seconds, endSeconds: Seconds, midi: Midi): LabelledEdit | undefined;
  cut(id: string, atSeconds: Seconds): LabelledEdit | undefined;
  join(ids: ReadonlySet<string>): LabelledEdit | undefined;
  drop(ids: ReadonlySet<string>): LabelledEdit | undefined;
  octave(ids: ReadonlySet<string>, octaves: number): LabelledEdit | undefined;
  setVelocity(ids: ReadonlySet<string>, change: (velocity: number) => number): LabelledEdit | undefined;
  setPitch(ids: ReadonlySet<string>, midi: Midi): LabelledEdit | undefined;
  /** Sets or takes away what is sung on a note, where notes can have words. */
  setLyric?(id: string, lyric: string): LabelledEdit | undefined;
  /** Muted notes stay where they are and do not sound. */
  mute(ids: ReadonlySet<string>, muted: boolean): LabelledEdit | undefined;
  /** What {@link paste} takes. */
  copy(ids: ReadonlySet<string>): Clip | undefined;
  /** @param byTicks how far from where it was copied */
  paste(clip: Clip, byTicks: Ticks): LabelledEdit | undefined;
  /** Takes pitch bends away, where notes have any. */
  straighten?(ids: ReadonlySet<string>): LabelledEdit | undefined;
  /** Marks these notes as certain, where notes can be doubtful. */
  keep?(ids: ReadonlySet<string>): LabelledEdit | undefined;
}

/** Where a clip begins and ends. */
export function clipSpan({ notes }: Clip): { startTicks: Ticks; endTicks: Ticks } {
  return {
    startTicks: Math.min(...notes.map(({ startTicks }) => startTicks)),
    endTicks: Math.max(...notes.map(({ startTicks, lengthTicks }) => startTicks + lengthTicks)),
  };
}

/** "3 notes", "1 note". */
export function countNotes(count: number): string {
  return `${count} ${count === 1 ? 'note' : 'notes'}`;
}

/** The note, muted or sounding. */
export function withMuted<T extends { muted?: true }>(note: T, muted: boolean): T {
  if (muted) return { ...note, muted: true };
  const sounding = { ...note };
  delete sounding.muted;
  return sounding;
}

/** An edit that moves notes: a single one is followed where it goes, of several the view stays. */
export function followed(made: LabelledEdit | undefined, ids: ReadonlySet<string>): LabelledEdit | undefined {
  return made && ids.size === 1 ? { ...made, select: [...ids], reveal: true } : made;
}

/** "3 hits", "1 hit". */
export function countHits(count: number): string {
  return `${count} ${count === 1 ? 'hit' : 'hits'}`;
}

export function clampVelocity(velocity: number): number {
  return Math.min(127, Math.max(1, Math.round(velocity)));
}
