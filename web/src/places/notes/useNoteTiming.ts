/** What the Time step of a note part prepares, before it is applied. */
import { useMemo, useState } from 'react';
import {
  planNotePull,
  putNotes,
  shownNotes,
  type GridPull,
  type NotePassage,
  type NotePullPlan,
  type NotesOfPassage,
} from '@plundra/core/song';
import { useSong } from '../../song/SongContext.tsx';
import type { LineScene } from './lineScene.ts';
import type { LabelledEdit } from './noteEditing.ts';
import { FIRST_PULL } from './useTiming.ts';

export interface NoteTiming {
  settings: GridPull;
  setSettings(settings: GridPull): void;
  /** The notes that are selected, or all where none is, passage by passage. */
  meant: readonly NotesOfPassage[];
  plan: NotePullPlan | null;
  /** The part of it that the canvas shows. */
  wouldGo: LineScene['wouldGo'];
}

const NOWHERE: LineScene['wouldGo'] = new Map();
const NONE: readonly NotesOfPassage[] = [];

/** The selected notes, or all where none is. */
export function meantOf(passages: readonly NotePassage[], selected: ReadonlySet<string>): NotesOfPassage[] {
  const all = passages.map((passage) => ({ passage, notes: shownNotes(passage) }));
  const chosen = all.flatMap(({ passage, notes }) => {
    const meant = notes.filter(({ id }) => selected.has(id));
    return meant.length > 0 ? [{ passage, notes: meant }] : [];
  });
  return chosen.length > 0 ? chosen : all;
}

export const countMeant = (meant: readonly NotesOfPassage[]): number =>
  meant.reduce((sum, { notes }) => sum + notes.length, 0);

/** Notes in place of those with their names, passage by passage, as one step. */
export function putEach(
  partId: string,
  label: string,
  put: readonly NotesOfPassage[],
): LabelledEdit | undefined {
  const edits = put.flatMap(({ passage, notes }) =>
    notes.length > 0 ? putNotes(partId, passage, notes) : [],
  );
  if (edits.length === 0) return undefined;
  return { label, edit: edits.length === 1 ? edits[0] : { type: 'batch', edits } };
}

export function useNoteTiming(
  passages: readonly NotePassage[],
  selected: ReadonlySet<string>,
  open: boolean,
): NoteTiming {
  const { time } = useSong();
  const [settings, setSettings] = useState(FIRST_PULL);
  const meant = useMemo(() => (open ? meantOf(passages, selected) : NONE), [open, passages, selected]);
  const plan = useMemo(
    () => (open && meant.length > 0 ? planNotePull(meant, settings, time) : null),
    [open, meant, settings, time],
  );
  const wouldGo = useMemo(
    () => (plan ? new Map([...plan.starts].map(([id, startSeconds]) => [id, { startSeconds }])) : NOWHERE),
    [plan],
  );
  return { settings, setSettings, meant, plan, wouldGo };
}
