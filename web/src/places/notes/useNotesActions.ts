/** What the Notes place offers for finding an action. */
import { useMemo } from 'react';
import { useActions, type Action } from '../../song/actions.ts';
import type { Tool } from './gesture.ts';
import { followed, type LabelledEdit, type NoteEditing } from './noteEditing.ts';
import type { StepName } from './StepStrip.tsx';
import type { Doubtful } from './useDoubtful.ts';

interface Place {
  recording: boolean;
  editing: NoteEditing | null;
  selected: ReadonlySet<string>;
  setSelected(ids: ReadonlySet<string>): void;
  change(made: LabelledEdit | undefined): void;
  setStep(step: StepName): void;
  setTool(tool: Tool): void;
  tune(): void;
  pull(): void;
  doubtful: Doubtful;
}

export function useNotesActions(place: Place): void {
  const { recording, editing, selected, setSelected, change, setStep, setTool, tune, pull, doubtful } = place;
  const actions = useMemo((): Action[] => {
    const none = selected.size === 0;
    const steps: Action[] = [
      { label: 'Read', words: 'detect transcribe convert audio to midi analyse', run: () => setStep('read') },
      { label: 'Clean up', words: 'edit fix', run: () => setStep('clean') },
      { label: 'Tune', words: 'intonation pitch correct vibrato formants', run: () => setStep('tune') },
      { label: 'Time', words: 'quantize timing groove align lock', run: () => setStep('time') },
      {
        label: 'Use: make a note part',
        words: 'bounce convert midi instrument export',
        run: () => setStep('use'),
      },
    ];
    return [
      ...(recording ? steps : [steps[1], steps[3]]),
      ...(recording
        ? [{ label: 'Pull to the rails', words: 'tune intonation correct pitch', keys: 'T', run: tune }]
        : []),
      { label: 'Pull to the grid', words: 'quantize align timing', keys: 'G', run: pull },
      {
        label: 'Join the selected notes',
        words: 'glue merge tie legato',
        keys: 'J',
        disabled: selected.size < 2,
        run: () => change(editing?.join(selected)),
      },
      {
        label: 'Drop the selected notes',
        words: 'delete remove erase',
        keys: 'Delete',
        disabled: none,
        run: () => change(editing?.drop(selected)),
      },
      {
        label: 'An octave up',
        words: 'transpose',
        disabled: none,
        run: () => change(followed(editing?.octave(selected, 1), selected)),
      },
      {
        label: 'An octave down',
        words: 'transpose',
        disabled: none,
        run: () => change(followed(editing?.octave(selected, -1), selected)),
      },
      {
        label: 'Select all notes',
        words: 'everything',
        keys: 'Ctrl A',
        run: () => setSelected(new Set(editing?.notes.map(({ id }) => id))),
      },
      { label: 'Next doubtful note', words: 'uncertain check', keys: 'N', run: () => doubtful.goTo(1) },
      { label: 'Draw notes', words: 'pencil add insert', keys: 'D', run: () => setTool('draw') },
      { label: 'Cut notes', words: 'split razor scissors', keys: 'X', run: () => setTool('cut') },
      { label: 'Select with the pointer', words: 'arrow tool', run: () => setTool('select') },
    ];
  }, [recording, editing, selected, setSelected, change, setStep, setTool, tune, pull, doubtful]);
  useActions('notes', actions);
}
