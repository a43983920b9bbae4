/** What the Time step of a note part prepares, before it is applied. */
import { useMemo, useState } from 'react';
import {
  planNotePull,
  type GridPull,
  type Note,
  type NotePassage,
  type NotePullPlan,
} from '@plundra/core/song';
import { useSong } from '../../song/SongContext.tsx';
import type { LineScene } from './lineScene.ts';
import { FIRST_PULL } from './useTiming.ts';

export interface NoteTiming {
  settings: GridPull;
  setSettings(settings: GridPull): void;
  /** The notes that are selected, or all where none is. */
  meant: readonly Note[];
  plan: NotePullPlan | null;
  /** The part of it that the canvas shows. */
  wouldGo: LineScene['wouldGo'];
}

const NOWHERE: LineScene['wouldGo'] = new Map();
const NO_NOTES: readonly Note[] = [];

/** The selected notes, or all where none is. */
export function meantOf(passage: NotePassage, selected: ReadonlySet<string>): readonly Note[] {
  const chosen = passage.notes.filter(({ id }) => selected.has(id));
  return chosen.length > 0 ? chosen : passage.notes;
}

export function useNoteTiming(
  passage: NotePassage | null,
  selected: ReadonlySet<string>,
  open: boolean,
): NoteTiming {
  const { time } = useSong();
  const [settings, setSettings] = useState(FIRST_PULL);
  const meant = useMemo(() => {
    return open && passage ? meantOf(passage, selected) : NO_NOTES;
  }, [open, passage, selected]);
  const plan = useMemo(
    () => (open && passage ? planNotePull(passage, meant, settings, time) : null),
    [open, passage, meant, settings, time],
  );
  const wouldGo = useMemo(
    () => (plan ? new Map([...plan.starts].map(([id, startSeconds]) => [id, { startSeconds }])) : NOWHERE),
    [plan],
  );
  return { settings, setSettings, meant, plan, wouldGo };
}
