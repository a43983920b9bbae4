import { DeleteOutlined } from '@ant-design/icons';
import { Button, Input, Select } from 'antd';
import {
  chosenPassages,
  markOf,
  MATERIALS,
  placedRecordings,
  shownNotes,
  type Part,
  type RecordingPart,
} from '@plundra/core/song';
import { instrumentOptions } from '../../audio/instruments.ts';
import { useSong } from '../../song/SongContext.tsx';
import { GroupChoice } from './GroupChoice.tsx';
import { ColourChoice } from './ColourChoice.tsx';
import { PlaceOfRecording } from './PlaceOfRecording.tsx';
import { useRecording } from '../../song/useRecording.ts';

/** Facts and actions of the chosen part. */
export function TimelineSheet({
  part,
  onRemove,
  onOpen,
}: {
  part: Part;
  onRemove: () => void;
  onOpen: () => void;
}) {
  const { apply, engine } = useSong();
  const set = (label: string, patch: object) =>
    apply(`${label} ${part.name}`, { type: 'part.set', partId: part.id, patch });
  return (
    <aside className="side-sheet" aria-label="Side sheet">
      <Input
        key={`${part.id}-${part.name}`}
        aria-label="Name of the part"
        defaultValue={part.name}
        maxLength={120}
        style={{ fontWeight: 600 }}
        onBlur={(event) => {
          const name = event.target.value.trim();
          if (name && name !== part.name)
            apply(`Rename ${part.name} to ${name}`.slice(0, 200), {
              type: 'part.set',
              partId: part.id,
              // The mark is made of the name.
              patch: { name, mark: markOf(name) },
            });
        }}
        onPressEnter={(event) => event.currentTarget.blur()}
      />
      <div className="row" style={{ marginTop: 8 }}>
        <span className="label">Colour</span>
        <ColourChoice value={part.colour} onChoose={(colour) => set('Colour', { colour })} />
      </div>
      <GroupChoice part={part} />
      {part.kind === 'recording' && (
        <>
          <div className="row">
            <span className="label">Material</span>
            <Select
              aria-label="Material"
              value={part.material}
              style={{ width: 140 }}
              options={MATERIALS.map((value) => ({ value, label: value[0].toUpperCase() + value.slice(1) }))}
              onChange={(material) => set('Set material of', { material })}
            />
          </div>
          {part.takes[0] && <RecordingFacts hash={part.takes[0].recordingHash} />}
          {part.passages.length > 0 && <PlaceOfRecording part={part} />}
          <p className="quiet">{readOf(part)}</p>
        </>
      )}
      {part.kind === 'notes' && (
        <div className="row">
          <span className="label">Sound</span>
          <Select
            aria-label="Sound"
            value={part.program}
            style={{ width: 180 }}
            options={instrumentOptions}
            onChange={(program) => {
              set('Set sound of', { program });
              void engine.live.preview(67, 95, program);
            }}
          />
        </div>
      )}
      {part.kind !== 'recording' && (
        <p className="quiet">
          {chosenPassages(part).reduce((sum, passage) => sum + shownNotes(passage).length, 0)} notes.
        </p>
      )}
      <div className="actions">
        <Button type="primary" onClick={onOpen}>
          Open in Notes
        </Button>
        <Button icon={<DeleteOutlined />} onClick={onRemove}>
          Remove
        </Button>
      </div>
    </aside>
  );
}

/** "Read: 36 notes." */
function readOf(part: RecordingPart): string {
  const lines = placedRecordings(part).flatMap(({ line }) => line ?? []);
  if (lines.length === 0) return 'It is not read yet. Open it in Notes to read it.';
  const count = lines.reduce((sum, { notes }) => sum + notes.length, 0);
  return `Read: ${count} ${lines[0].reads === 'hits' ? 'hits' : 'notes'}.`;
}

function RecordingFacts({ hash }: { hash: string }) {
  const { recording, error } = useRecording(hash);
  if (error) return <p style={{ color: '#A63A2B' }}>{error.message}</p>;
  if (!recording) return null;
  const minutes = Math.floor(recording.durationSeconds / 60);
  return (
    <>
      <div className="row">
        <span className="label">File</span>
        <span
          title={recording.name}
          style={{ overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}
        >
          {recording.name}
        </span>
      </div>
      <div className="row">
        <span className="label">Length</span>
        <span className="numbers">
          {minutes}:{(recording.durationSeconds - minutes * 60).toFixed(1).padStart(4, '0')}
        </span>
      </div>
      <div className="row">
        <span className="label">Sound</span>
        <span className="numbers">
          {recording.format.toUpperCase()} · {(recording.sampleRateHz / 1000).toFixed(1)} kHz ·{' '}
          {recording.channels === 1
            ? 'mono'
            : recording.channels === 2
              ? 'stereo'
              : `${recording.channels} channels`}
        </span>
      </div>
      {recording.warnings.map((warning) => (
        <p key={warning} style={{ color: '#A9621B' }}>
          {warning}
        </p>
      ))}
    </>
  );
}
