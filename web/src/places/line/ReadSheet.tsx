import { useState } from 'react';
import { Button, InputNumber, Progress, Select, Slider } from 'antd';
import type { MelodyKind } from '@plundra/core/reading';
import type { RecordingPart, RecordingPassage } from '@plundra/core/song';
import { useSong } from '../../song/SongContext.tsx';
import type { ReadingUse } from './useReading.ts';

const KIND_OPTIONS: { value: MelodyKind; label: string }[] = [
  { value: 'auto', label: 'Automatic' },
  { value: 'voice', label: 'Voice' },
  { value: 'guitar', label: 'Guitar' },
  { value: 'bass', label: 'Bass' },
];

/** Reading and the tuning of the recording. */
export function ReadSheet({
  part,
  passage,
  reading,
}: {
  part: RecordingPart;
  passage: RecordingPassage;
  reading: ReadingUse;
}) {
  const { apply } = useSong();
  const [kind, setKind] = useState<MelodyKind>('auto');
  const [tuning, setTuning] = useState<number | null>(null);
  const { line } = passage;
  const tuningCents = tuning ?? line?.tuningCents ?? 0;
  const setLineTuning = (cents: number | null) => {
    setTuning(null);
    if (cents === null || cents === line?.tuningCents) return;
    apply('Set tuning', { type: 'line.tuning', partId: part.id, passageId: passage.id, tuningCents: cents });
  };
  return (
    <>
      <h2>Read</h2>
      <div className="row">
        <span className="label">Material</span>
        <Select
          aria-label="Kind of material"
          value={kind}
          options={KIND_OPTIONS}
          onChange={setKind}
          style={{ width: 140 }}
        />
      </div>
      {reading.result && <p className="quiet">{reading.result.kind.reason}</p>}
      {reading.status ? (
        <>
          <Progress percent={Math.round(reading.status.progress * 100)} status="active" />
          <Button onClick={reading.cancel}>Stop reading</Button>
        </>
      ) : (
        <Button type={line ? 'default' : 'primary'} onClick={() => reading.read(kind)}>
          {line ? 'Read again' : 'Read melody'}
        </Button>
      )}
      {line && <p className="quiet">Reading again replaces all notes of this line; undo brings them back.</p>}
      {line && (
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
