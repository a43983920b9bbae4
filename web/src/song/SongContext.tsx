/** The open song for everything inside a song: document, undo, playing. */
import { createContext, useContext, useSyncExternalStore } from 'react';
import type { Edit, SongState, TimeMap } from '@plundra/core/song';
import type { Correction, CorrectionProgress, Corrections } from '../audio/corrections.ts';
import type { Engine } from '../audio/engine.ts';
import type { ListenChoice } from '../audio/playlist.ts';
import type { Saving } from './sessionTypes.ts';
import type { SongSession } from './songSession.ts';

export interface SongValue extends SongState {
  session: SongSession;
  time: TimeMap;
  endSeconds: number;
  apply(label: string, edit: Edit): boolean;
  /** An edit that is heard but not made; null: none. */
  tried: Edit | null;
  setTried(edit: Edit | null): void;
  /** What will perhaps be tried: its sound is made ahead. */
  prepare(edit: Edit | null): void;
  undo(): void;
  redo(): void;
  engine: Engine;
  corrections: Corrections;
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

/** Whether all is saved; apart from the song, so that only what shows it is painted again when an edit is acknowledged. */
export function useSaving(): Saving {
  const { session } = useSong();
  return useSyncExternalStore(session.subscribe, session.getSaving);
}

/** What is laid over the recordings, by part and passage, and how far those are that are still being made (null: all can be heard). */
export function useCorrected(): {
  corrected: ReadonlyMap<string, Correction>;
  making: CorrectionProgress | null;
} {
  const { corrections } = useSong();
  return {
    corrected: useSyncExternalStore(corrections.subscribe, corrections.get),
    making: useSyncExternalStore(corrections.subscribe, corrections.progress),
  };
}
