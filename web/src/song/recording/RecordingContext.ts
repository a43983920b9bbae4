/** Recording for everything inside a song. */
import { createContext, useContext, useSyncExternalStore } from 'react';
import type { Recorder, RecorderState } from './recorder.ts';
import type { RecordSettings } from './recordSettings.ts';

export interface RecordingValue {
  recorder: Recorder;
  settings: RecordSettings;
  set(change: Partial<RecordSettings>): void;
  /** The part that a take is recorded for; null: a new one. */
  intoPartId: string | null;
  setInto(partId: string | null): void;
  /** The part whose notes are seen under what is recorded; null: none. */
  guidePartId: string | null;
  setGuide(partId: string | null): void;
  /** Begins, or ends and keeps what was recorded. */
  toggle(): void;
  /** Whether the record sheet is open, and with it the input. */
  open: boolean;
  setOpen(open: boolean): void;
}

export const RecordingContext = createContext<RecordingValue | null>(null);

export function useRecord(): RecordingValue & { state: RecorderState } {
  const value = useContext(RecordingContext);
  if (!value) throw new Error('useRecord is used outside of a song.');
  return { ...value, state: useSyncExternalStore(value.recorder.subscribe, value.recorder.getState) };
}
