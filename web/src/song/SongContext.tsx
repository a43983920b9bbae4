/** The open song for everything inside a song: document, undo, playing. */
import { createContext, useContext } from 'react';
import type { Edit, TimeMap } from '@plundra/core/song';
import type { Correction, CorrectionProgress } from '../audio/corrections.ts';
import type { Engine } from '../audio/engine.ts';
import type { ListenChoice } from '../audio/playlist.ts';
import type { SongView } from './songSession.ts';

export interface SongValue extends SongView {
  time: TimeMap;
  endSeconds: number;
  apply(label: string, edit: Edit): boolean;
  /** An edit that is heard but not made; null: none. */
  setTried(edit: Edit | null): void;
  undo(): void;
  redo(): void;
  engine: Engine;
  /** What is laid over the recordings, by part and passage. */
  corrections: ReadonlyMap<string, Correction>;
  /** How far those are that are still being made; null: all can be heard. */
  making: CorrectionProgress | null;
  listen: ListenChoice;
  setListen(change: Partial<ListenChoice>): void;
  /** Imports sound and MIDI files into this song. */
  importFiles(files: File[]): void;
}

export const SongContext = createContext<SongValue | null>(null);

export function useSong(): SongValue {
  const value = useContext(SongContext);
  if (!value) throw new Error('useSong is used outside of a song.');
  return value;
}
