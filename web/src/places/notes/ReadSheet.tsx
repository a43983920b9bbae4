/** The step Read: what a recording is read as, and its tuning. */
import { useState, useSyncExternalStore } from 'react';
import { Progress } from 'antd';
import type { MelodyKind } from '@plundra/core/reading';
import {
  createPassageTime,
  melodyLineOf,
  type Material,
  type Part,
  type RecordingPart,
  type PlacedRecording,
} from '@plundra/core/song';
import { Button, InputNumber, Select, Slider } from '../../controls/index.tsx';
import { useSong } from '../../song/SongContext.tsx';
import { waitingFor } from '../../song/waitingFor.ts';
import { FIRST_SENSITIVITY, type ReadingUse, type ReadRequest } from './useReading.ts';

type Choice = MelodyKind | 'material' | 'chordal' | 'drums';

const CHOICES: { value: Choice; label: string }[] = [
  { value: 'material', label: 'Automatic' },
  { value: 'auto', label: 'One line' },
  { value: 'voice', label: 'One line: voice' },
  { value: 'guitar', label: 'One line: guitar' },
  { value: 'bass', label: 'One line: bass' },
  { value: 'chordal', label: 'Chordal' },
  { value: 'drums', label: 'Drums' },
];
const HELP: Partial<Record<Choice, string>> = {
  chordal:
    'All notes that sound together, as a strummed guitar or a piano has them. More sensitivity finds fainter notes, and more that nobody played.',
  drums:
    'Hits by kind: kick, snare, hats, toms, cymbals, hand drums, shaker. Less sensitivity leaves out what only bleeds in from other drums.',
};

/** How a part is read that was never read: by its material where that says it, else it is found out. */
export function firstRequest(part: { kind: Part['kind']; material?: Material }): ReadRequest {
  switch (part.material) {
    case 'voice':
    case 'bass':
      return { type: 'melody', kind: 'auto' };
    case 'keys':
      return { type: 'notes', sensitivity: FIRST_SENSITIVITY };
    case 'drums':
      return { type: 'hits', sensitivity: FIRST_SENSITIVITY };
    default:
      return { type: 'material' };
  }
}

function requestOf(choice: Choice, sensitivity: number): ReadRequest {
  if (choice === 'material') return { type: 'material' };
  if (choice === 'chordal') return { type: 'notes', sensitivity };
  return choice === 'drums' ? { type: 'hits', sensitivity } : { type: 'melody', kind: choice };
}

/** Words of the button that reads. */
export function readLabel({ type }: ReadRequest): string {
  return { material: 'Read', melody: 'Read melody', notes: 'Read notes', hits: 'Read hits' }[type];
}

/** Reading and the tuning of the recording. */
export function ReadSheet({
  part,
  passage,
  reading,
}: {
  part: RecordingPart;
  passage: PlacedRecording;
  reading: ReadingUse;
}) {
  const { apply, engine, time } = useSong();
  const [choice, setChoice] = useState<Choice>(() => firstChoice(part, passage));
  const [sensitivity, setSensitivity] = useState(FIRST_SENSITIVITY);
  const [tuning, setTuning] = useState<number | null>(null);
  const { line } = passage;
  const { loop } = useSyncExternalStore(engine.subscribe, engine.getState);
  const readAs = { notes: 'chordal', hits: 'drums', melody: undefined } as const;
  const canReadRange = line !== null && readAs[line.reads ?? 'melody'] === choice;
  const tuningCents = tuning ?? line?.tuningCents ?? 0;
  const setLineTuning = (cents: number | null) => {
    setTuning(null);
    if (cents === null || cents === line?.tuningCents) return;
    apply('Set tuning', { type: 'line.tuning', partId: part.id, takeId: passage.takeId, tuningCents: cents });
  };
  return (
    <>
      <h2>Read</h2>
      <div className="row">
        <span className="label">Material</span>
        <Select
          aria-label="Kind of material"
          value={choice}
          options={CHOICES}
          onChange={setChoice}
          style={{ width: 160 }}
        />
      </div>
      {HELP[choice] && (
        <>
          <div className="row">
            <span className="label">Sensitivity</span>
            <Slider
              ariaLabelForHandle="Sensitivity"
              style={{ flex: 1, marginLeft: 12 }}
              min={0}
              max={100}
              value={sensitivity}
              onChange={setSensitivity}
            />
          </div>
          <p className="quiet">{HELP[choice]}</p>
        </>
      )}
      {reading.reason && <p className="quiet">{reading.reason}</p>}
      {reading.result && <p className="quiet">{reading.result.kind.reason}</p>}
      {reading.status ? (
        <>
          <Progress percent={Math.round(reading.status.progress * 100)} status="active" />
          {waitingFor(reading.status) && <p className="quiet">{waitingFor(reading.status)}</p>}
          <Button onClick={reading.cancel}>Stop reading</Button>
        </>
      ) : (
        <Button
          style={{ marginTop: 6 }}
          type={line ? 'default' : 'primary'}
          onClick={() => reading.read(requestOf(choice, sensitivity))}
        >
          {line ? 'Read again' : readLabel(requestOf(choice, sensitivity))}
        </Button>
      )}
      {canReadRange && (
        <Button
          style={{ marginTop: 8 }}
          disabled={!loop || reading.status !== null}
          title={loop ? undefined : 'Set a loop first: shift-drag on the bar ruler'}
          onClick={() => {
            if (!loop) return;
            const { toRecorded } = createPassageTime(passage, time);
            const only = {
              fromSeconds: Math.max(0, toRecorded(loop.startSeconds)),
              toSeconds: Math.max(0, toRecorded(loop.endSeconds)),
            };
            reading.read({ type: choice === 'drums' ? 'hits' : 'notes', sensitivity, only });
          }}
        >
          Read the loop range again
        </Button>
      )}
      {line && <p className="quiet">Reading again replaces all notes of this line; undo brings them back.</p>}
      {line && line.reads !== 'hits' && (
        <>
          <h3>Tuning of the recording</h3>
          <p className="quiet">
            {Math.abs(line.tuningCents) < 5
              ? 'It is in tune with A4 = 440 Hz.'
              : `It lies ${Math.abs(line.tuningCents).toFixed(0)} cents ${line.tuningCents < 0 ? 'below' : 'above'} A4 = 440 Hz. The rails lie there too, so that not every note is wrong.`}
          </p>
          <div className="row">
            <Slider
              ariaLabelForHandle="Tuning in cents"
              style={{ flex: 1 }}
              min={-50}
              max={50}
              value={tuningCents}
              included={false}
              onChange={setTuning}
              onChangeComplete={setLineTuning}
              tooltip={{ open: false }}
            />
            <InputNumber
              aria-label="Tuning"
              className="numbers"
              style={{ width: 108 }}
              min={-50}
              max={50}
              precision={1}
              value={tuningCents}
              onBlur={(event) => setLineTuning(clampCents(event.target.value))}
              onPressEnter={(event) => event.currentTarget.blur()}
              suffix="cents"
            />
          </div>
          <Button
            size="small"
            hidden={!melodyLineOf(passage)}
            onClick={() => setLineTuning(reading.result?.tuningCents ?? 0)}
            disabled={!reading.result || reading.result.tuningCents === line.tuningCents}
          >
            As measured
          </Button>
        </>
      )}
    </>
  );
}

function clampCents(text: string): number | null {
  const value = Number.parseFloat(text);
  return Number.isFinite(value) ? Math.max(-50, Math.min(50, value)) : null;
}

function firstChoice(part: RecordingPart, passage: PlacedRecording): Choice {
  const choices = { melody: 'auto', notes: 'chordal', hits: 'drums', material: 'material' } as const;
  return choices[passage.line ? (passage.line.reads ?? 'melody') : firstRequest(part).type];
}
