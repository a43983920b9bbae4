/** What is edited of a part in Notes: its passages together, each by the editor that what it holds needs. */
import {
  melodyLineOf,
  passageEndSeconds,
  soundsUntil,
  type NotePassage,
  type Part,
  type PlacedRecording,
  type TimeMap,
} from '@plundra/core/song';
import { acrossPassages, type PlacedEditing } from './acrossPassages.ts';
import { createLineEditor } from './lineEditor.ts';
import type { NoteEditing } from './noteEditing.ts';
import { createOnsetEditor } from './onsetEditor.ts';
import { createPassageEditor } from './passageEditor.ts';
import type { StepName } from './StepStrip.tsx';
import type { Contours } from './usePassageSources.ts';

type Passage = PlacedRecording | NotePassage;

const createId = () => crypto.randomUUID();

/**
 * Null as long as there is nothing to edit.
 * @param passage the one that is worked on
 */
export function editingOfPart(
  part: Part,
  passages: readonly Passage[],
  passage: Passage | undefined,
  contours: Contours,
  time: TimeMap,
  step: StepName,
): NoteEditing | null {
  const until = part.kind === 'recording' ? soundsUntil(part, time) : undefined;
  const edited = (each: Passage) => editingOf(part.id, each, contours, time, step, until?.get(each.id));
  // Onsets belong to a take as a whole: they are worked on in one passage at a time.
  const own = passage && edited(passage);
  if (own?.unpitched) return own;
  const placed = passages.flatMap((each): PlacedEditing[] => {
    const editing = each === passage ? own : edited(each);
    const fromSeconds = time.secondsAt(each.startTicks);
    return editing && !editing.unpitched
      ? [{ editing, fromSeconds, toSeconds: passageEndSeconds(each, time) }]
      : [];
  });
  return acrossPassages(placed, time);
}

/** Null as long as there is nothing to edit in a passage: it is not read yet, or its contour is on the way. */
function editingOf(
  partId: string,
  passage: PlacedRecording | NotePassage,
  contours: Contours,
  time: TimeMap,
  step: StepName,
  /** Up to which second of its recording it sounds. */
  toSeconds: number | undefined,
): NoteEditing | null {
  if (passage.type === 'notes') return createPassageEditor(partId, passage, time, createId);
  const { line, stretch } = passage;
  if (melodyLineOf(passage)) {
    const contour = contours(passage);
    return contour
      ? createLineEditor(
          partId,
          passage,
          contour,
          time,
          createId,
          step === 'tune' ? 'target' : 'name',
          toSeconds,
        )
      : null;
  }
  if (step === 'time') return stretch ? createOnsetEditor(partId, passage, stretch, time, createId) : null;
  return line ? createLineEditor(partId, passage, undefined, time, createId, 'name', toSeconds) : null;
}
