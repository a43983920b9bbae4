/** Side sheet of the Notes place: the selected notes, or the step that is being worked on. */
import type { Contour } from '@plundra/core/reading';
import { melodyLineOf, type NotePassage, type Part, type PlacedRecording } from '@plundra/core/song';
import { CleanSheet } from './CleanSheet.tsx';
import type { Tool } from './gesture.ts';
import type { LabelledEdit, NoteEditing } from './noteEditing.ts';
import { NoteTimeSheet } from './NoteTimeSheet.tsx';
import { NoteSheet } from './NoteSheet.tsx';
import { OnsetSheet } from './OnsetSheet.tsx';
import { ReadSheet } from './ReadSheet.tsx';
import type { StepName } from './StepStrip.tsx';
import { TimeSheet } from './TimeSheet.tsx';
import { TransposeSheet } from './TransposeSheet.tsx';
import { TuneSheet } from './TuneSheet.tsx';
import { UseSheet } from './UseSheet.tsx';
import type { Doubtful } from './useDoubtful.ts';
import type { Proposals } from './useProposals.ts';
import type { Contours } from './usePassageSources.ts';
import type { ReadingUse } from './useReading.ts';
import type { NoteTiming } from './useNoteTiming.ts';
import type { Timing } from './useTiming.ts';

export interface LineSheetProps {
  part: Part;
  /** The one that is worked on. */
  passage: PlacedRecording | NotePassage;
  /** Those of a recording whose melody was read. */
  melodies: readonly PlacedRecording[];
  editing: NoteEditing | null;
  reading: ReadingUse;
  /** Of the passage that is worked on, and of all. */
  contour: Contour | undefined;
  contours: Contours;
  selected: ReadonlySet<string>;
  step: StepName;
  tool: Tool;
  setTool(tool: Tool): void;
  proposals: Proposals;
  change(change: LabelledEdit | undefined): void;
  setSelected(ids: ReadonlySet<string>): void;
  doubtful: Doubtful;
  timing: Timing;
  noteTiming: NoteTiming;
}

export function LineSheet(props: LineSheetProps) {
  const { part, passage, editing, selected, step } = props;
  const melody = passage.type === 'recording' ? melodyLineOf(passage) : null;
  return (
    <aside className="side-sheet" aria-label="Side sheet">
      {part.kind === 'recording' && passage.type === 'recording' && !melody && step === 'tune' ? (
        <TransposeSheet {...props} part={part} passage={passage} />
      ) : part.kind === 'recording' && passage.type === 'recording' && !melody && step === 'time' ? (
        <OnsetSheet {...props} part={part} passage={passage} />
      ) : part.kind === 'recording' && passage.type === 'recording' && step === 'tune' ? (
        <TuneSheet {...props} part={part} passages={props.melodies} />
      ) : part.kind === 'recording' && passage.type === 'recording' && step === 'time' ? (
        <TimeSheet {...props} part={part} passages={props.melodies} />
      ) : part.kind !== 'recording' && passage.type === 'notes' && step === 'time' ? (
        <NoteTimeSheet {...props} part={part} timing={props.noteTiming} />
      ) : editing && selected.size > 0 ? (
        <NoteSheet {...props} editing={editing} />
      ) : part.kind === 'recording' && passage.type === 'recording' ? (
        step === 'read' ? (
          <ReadSheet part={part} passage={passage} reading={props.reading} />
        ) : step === 'clean' ? (
          <CleanSheet {...props} />
        ) : (
          <UseSheet part={part} passage={passage} contours={props.contours} />
        )
      ) : (
        <CleanSheet {...props} />
      )}
    </aside>
  );
}
