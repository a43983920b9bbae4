/**
 * What can be undone and redone. Undo and redo are steps like any other: they are stored with the song, so they
 * survive a reload, and every window and the server take the same steps in the same order. The song's own history is a
 * list of names; what an entry changes, and how to take it back, is fetched when it is undone or redone.
 */
import { applyEdit } from './edit.ts';
import { EditError, type Edit } from './editSchema.ts';
import type { Song } from './schema.ts';

export interface HistoryItem {
  id: string;
  /** What was done, for the undo button: "Join 2 notes". */
  label: string;
}

export interface History {
  /** The newest last. */
  done: readonly HistoryItem[];
  undone: readonly HistoryItem[];
}

/** An edit that was made, and how to take it back. */
export interface Reversible {
  edit: Edit;
  inverse: Edit;
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

export interface Taken extends Reversible {
  state: SongState;
  /** The edit that the song went through: of an undo its inverse. */
  applied: Edit;
}

/** Older entries fall away; the song itself keeps what they did. */
export const HISTORY_LIMIT = 200;

export const EMPTY_HISTORY: History = { done: [], undone: [] };

/** The entry that an undo or redo would take. */
export function nextInLine({ done, undone }: History, kind: 'undo' | 'redo'): HistoryItem | undefined {
  return kind === 'undo' ? done.at(-1) : undone.at(-1);
}

/**
 * Takes a step. `known`: the entry that an undo or redo names. Throws {@link EditError} when the edit does not fit or
 * the entry is not next in line.
 */
export function applyStep(state: SongState, step: Step, known?: Reversible): Taken {
  const { done, undone } = state.history;
  if (step.kind === 'do') {
    const { song, inverse } = applyEdit(state.song, step.edit);
    const history = { done: [...done, { id: step.id, label: step.label }].slice(-HISTORY_LIMIT), undone: [] };
    return { state: { song, history }, edit: step.edit, inverse, applied: step.edit };
  }
  const item = nextInLine(state.history, step.kind);
  if (item?.id !== step.id) {
    throw new EditError(`There is something newer to ${step.kind} first; the song was changed elsewhere.`);
  }
  if (!known)
    throw new EditError(
      `What should be ${step.kind === 'undo' ? 'undone' : 'done again'} is not known any more.`,
    );
  if (step.kind === 'undo') {
    const { song } = applyEdit(state.song, known.inverse);
    const history = { done: done.slice(0, -1), undone: [...undone, item] };
    return { state: { song, history }, edit: known.edit, inverse: known.inverse, applied: known.inverse };
  }
  const { song, inverse } = applyEdit(state.song, known.edit);
  const history = { done: [...done, item], undone: undone.slice(0, -1) };
  return { state: { song, history }, edit: known.edit, inverse, applied: known.edit };
}
