import { useCallback } from 'react';
import type { CanvasNote } from './canvasNote.ts';
import { nextStop } from './doubtfulStops.ts';
import type { LabelledEdit, NoteEditing } from './noteEditing.ts';

export interface Doubtful {
  goTo(direction: 1 | -1): void;
  /** Calls the selected notes right, and goes on to the next doubtful ones. */
  keep(): void;
}

/** Walking through doubtful notes. `editing`: as the canvas shows it. */
export function useDoubtful(
  editing: NoteEditing | null,
  selected: ReadonlySet<string>,
  change: (change: LabelledEdit | undefined) => void,
  show: (ids: readonly string[], first: CanvasNote) => void,
): Doubtful {
  const goTo = useCallback(
    (direction: 1 | -1) => {
      const notes = editing?.notes ?? [];
      const stop = nextStop(notes, selected, direction);
      if (stop)
        show(
          stop,
          notes.find(({ id }) => id === stop[0])!,
        );
    },
    [editing, selected, show],
  );
  const keep = useCallback(() => {
    const kept = editing?.keep?.(selected);
    if (!editing || !kept) return;
    const left = editing.notes.map((note) => (selected.has(note.id) ? { ...note, doubtful: false } : note));
    const stop = nextStop(left, selected, 1);
    // With the last one the walk is over: what is left to do is seen beside the canvas.
    change({ ...kept, select: stop ?? [] });
    if (stop)
      show(
        stop,
        left.find(({ id }) => id === stop[0])!,
      );
  }, [editing, selected, change, show]);
  return { goTo, keep };
}
