/** Beats that are being put right: what they are now, which is chosen, and the steps back. */
import { useCallback, useState } from 'react';
import type { HeardBeats } from '@plundra/core/song';

export interface BeatDraft {
  heard: HeardBeats;
  /** Index of the beat that is chosen. */
  chosen: number | null;
  choose(index: number | null): void;
  /** Makes a step; what changes nothing is none. */
  change(next: HeardBeats, chosen?: number | null): void;
  undo(): void;
  redo(): void;
  canUndo: boolean;
  canRedo: boolean;
}

interface Steps {
  all: readonly HeardBeats[];
  at: number;
  chosen: number | null;
}

export function useBeatDraft(first: HeardBeats): BeatDraft {
  const [{ all, at, chosen }, setSteps] = useState<Steps>({ all: [first], at: 0, chosen: null });
  const choose = useCallback((index: number | null) => setSteps((old) => ({ ...old, chosen: index })), []);
  const change = useCallback(
    (next: HeardBeats, nextChosen: number | null = null) =>
      setSteps((old) =>
        next === old.all[old.at]
          ? old
          : { all: [...old.all.slice(0, old.at + 1), next], at: old.at + 1, chosen: nextChosen },
      ),
    [],
  );
  const go = useCallback(
    (by: number) =>
      setSteps((old) => {
        const to = Math.max(0, Math.min(old.all.length - 1, old.at + by));
        return { ...old, at: to, chosen: null };
      }),
    [],
  );
  return {
    heard: all[at],
    chosen,
    choose,
    change,
    undo: useCallback(() => go(-1), [go]),
    redo: useCallback(() => go(1), [go]),
    canUndo: at > 0,
    canRedo: at < all.length - 1,
  };
}
