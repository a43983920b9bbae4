/** Tune, for a recording without a line: all of it by one interval. */
import {
  emptyStretch,
  passageKeyEdits,
  type PlacedRecording,
  type RecordingPart,
  type SimpleEdit,
} from '@plundra/core/song';
import { Button, InputNumber } from '../../controls/index.tsx';
import type { LabelledEdit } from './noteEditing.ts';

const MAX_SEMITONES = 12;
/** Sounds moved further are heard to be made (common practice: about a third). */
const HEARD_SEMITONES = 4;

export function TransposeSheet({
  part,
  passage,
  change,
}: {
  part: RecordingPart;
  passage: PlacedRecording;
  change(change: LabelledEdit | undefined): void;
}) {
  const stretch = passage.stretch ?? emptyStretch(part.material);
  const { semitones } = stretch;
  const set = (next: number | null) => {
    if (next === null || next === semitones) return;
    const held = Math.max(-MAX_SEMITONES, Math.min(MAX_SEMITONES, Math.round(next * 100) / 100));
    const label = held === 0 ? 'Pitch as played' : `Transpose by ${held > 0 ? '+' : '−'}${Math.abs(held)}`;
    const { line } = passage;
    const moved = { ...stretch, semitones: held };
    const whole: SimpleEdit[] = [
      { type: 'take.stretch', partId: part.id, takeId: passage.takeId, stretch: moved },
      ...part.passages
        .filter(({ takeId }) => takeId === passage.takeId)
        .flatMap((each) => passageKeyEdits(part.id, each, Math.round(held) - Math.round(semitones))),
    ];
    if (!line || line.reads === 'hits' || line.notes.length === 0)
      return change({ label, edit: { type: 'batch', edits: whole } });
    // Notes that were read go along, so that they say what sounds.
    change({
      label,
      edit: {
        type: 'batch',
        edits: [
          ...whole,
          {
            type: 'line.adjust',
            partId: part.id,
            takeId: passage.takeId,
            which: 'all',
            add: { railSemitones: held - semitones },
            set: {},
          },
        ],
      },
    });
  };
  return (
    <>
      <h2>Tune</h2>
      <p className="quiet">
        Several notes sound at once here, so the recording is moved as a whole. A single melody can be tuned
        note by note: read its melody first.
      </p>
      <div className="row">
        <span className="label">Transpose</span>
        <InputNumber
          aria-label="Transpose in semitones"
          className="numbers"
          style={{ width: 150 }}
          min={-MAX_SEMITONES}
          max={MAX_SEMITONES}
          step={1}
          value={semitones}
          onChange={(value) => value !== null && Number.isInteger(value) && set(value)}
          onBlur={(event) => set(Number.parseFloat(event.target.value))}
          onPressEnter={(event) => event.currentTarget.blur()}
          suffix="semitones"
        />
      </div>
      <div className="row">
        <Button size="small" onClick={() => set(semitones - 12)} disabled={semitones - 12 < -MAX_SEMITONES}>
          Octave down
        </Button>
        <Button size="small" onClick={() => set(semitones + 12)} disabled={semitones + 12 > MAX_SEMITONES}>
          Octave up
        </Button>
        <Button size="small" onClick={() => set(0)} disabled={semitones === 0}>
          As played
        </Button>
      </div>
      {Math.abs(semitones) > HEARD_SEMITONES && (
        <p className="quiet">More than {HEARD_SEMITONES} semitones will be heard as a change of the sound.</p>
      )}
      <p className="quiet">Hundredths are cents: 0.25 is a quarter of a semitone up. B lets hear before.</p>
    </>
  );
}
