/**
 * What can be undone and redone. Undo and redo are steps like any other: they are stored with the song, so they
 * survive a reload, and every tab and the server fold the same steps into the same history.
 */
import { applyEdit, EditError, type Edit } from './edit.ts';
import type { Song } from './schema.ts';

export interface HistoryEntry {
  id: string;
  /** What was done, for the undo button: "Join 2 notes". */
  label: string;
  edit: Edit;
  inverse: Edit;
}

export interface History {
  done: readonly HistoryEntry[];
  undone: readonly HistoryEntry[];
}

/** One step as the user took it. */
export type Step =
  | { kind: 'do'; id: string; label: string; edit: Edit }
  | { kind: 'undo'; id: string }
  | { kind: 'redo'; id: string };

export interface SongState {
  song: Song;
  history: History;
}

/** Older entries fall away; the song itself keeps what they did. */
export const HISTORY_LIMIT = 200;

export const EMPTY_HISTORY: History = { done: [], undone: [] };

/** Takes a step. Throws {@link EditError} when the edit does not fit or the entry is not next in line. */
export function takeStep(state: SongState, step: Step): SongState {
  const { done, undone } = state.history;
  if (step.kind === 'do') {
    const { song, inverse } = applyEdit(state.song, step.edit);
    const entry = { id: step.id, label: step.label, edit: step.edit, inverse };
    return { song, history: { done: [...done, entry].slice(-HISTORY_LIMIT), undone: [] } };
  }
  const entry = step.kind === 'undo' ? done[done.length - 1] : undone[undone.length - 1];
  if (!entry || entry.id !== step.id) {
    throw new EditError(`There is something newer to ${step.kind} first; the song was changed elsewhere.`);
  }
  if (step.kind === 'undo') {
    const { song } = applyEdit(state.song, entry.inverse);
    return { song, history: { done: done.slice(0, -1), undone: [...undone, entry] } };
  }
  const { song, inverse } = applyEdit(state.song, entry.edit);
  return { song, history: { done: [...done, { ...entry, inverse }], undone: undone.slice(0, -1) } };
}
