/** Side sheet of the selected passages: their numbers, which can be typed, and what can be done to them. */
import { memo, useState } from 'react';
import { DeleteOutlined } from '@ant-design/icons';
import { Button, Input, InputNumber, Switch } from 'antd';
import {
  canTranspose,
  formatPosition,
  parsePosition,
  passageEndSeconds,
  planTrim,
  type Found,
  type RecordingPassage,
} from '@plundra/core/song';
import { KeySelect } from '../../song/KeySelect.tsx';
import { useSong } from '../../song/SongContext.tsx';
import { ColourChoice } from './ColourChoice.tsx';
import { PassageTimeFields } from './PassageTimeFields.tsx';
import { namePassages, type PassageActions } from './usePassageActions.ts';

const TRANSPOSITIONS = [
  { semitones: -12, text: '−12', name: 'Transpose an octave down' },
  { semitones: -1, text: '−1', name: 'Transpose a semitone down' },
  { semitones: 1, text: '+1', name: 'Transpose a semitone up' },
  { semitones: 12, text: '+12', name: 'Transpose an octave up' },
];

interface Props {
  actions: PassageActions;
  /** Length of a recording by its hash. */
  recordedSeconds(found: Found): number;
}

export const PassageSheet = memo(function PassageSheet({ actions, recordedSeconds }: Props) {
  const { found } = actions;
  const { time, engine, endSeconds } = useSong();
  const single = found.length === 1 ? found[0] : null;
  const last = Math.max(...found.map(({ passage }) => passageEndSeconds(passage, time)));
  const songEndBar = time.barAt(Math.max(0, Math.round(time.ticksAt(endSeconds)) - 1)).bar + 1;
  const endBar = time.barAt(Math.max(0, Math.round(time.ticksAt(last)))).bar + 1;
  const [until, setUntil] = useState<number | null>(null);
  const bar = until ?? Math.max(songEndBar, endBar);
  const allMuted = found.every(({ passage }) => passage.muted);
  return (
    <aside className="side-sheet" aria-label="Side sheet">
      <h2>{single ? (single.passage.name ?? 'Passage') : namePassages(found)}</h2>
      {single && <p className="quiet">of {single.part.name}</p>}
      {single && <SinglePassage key={single.passage.id} found={single} recordedSeconds={recordedSeconds} />}
      <div className="row">
        <span className="label">Muted</span>
        <Switch aria-label="Passage muted" checked={allMuted} onChange={actions.mute} />
      </div>
      {found.some(canTranspose) && (
        <div className="row">
          <span className="label">Transpose</span>
          <span style={{ display: 'flex', gap: 4 }}>
            {TRANSPOSITIONS.map(({ semitones, text, name }) => (
              <Button
                key={semitones}
                size="small"
                className="numbers"
                aria-label={name}
                title={name}
                onClick={() => actions.transpose(semitones)}
              >
                {text}
              </Button>
            ))}
          </span>
        </div>
      )}
      <h3>Arrange</h3>
      <div className="row" style={{ gap: 6, justifyContent: 'flex-start' }}>
        <Button
          size="small"
          title="Key X: at the pointer, or at the playhead"
          onClick={() => actions.cut(engine.positionSeconds(), null)}
        >
          Cut at playhead
        </Button>
        <Button size="small" disabled={found.length < 2} title="Key J" onClick={actions.join}>
          Join
        </Button>
        <Button size="small" title="Ctrl + D" onClick={actions.duplicate}>
          Duplicate
        </Button>
      </div>
      <div className="row" style={{ gap: 6 }}>
        <span className="label">Repeat until bar</span>
        <InputNumber
          aria-label="Repeat until bar"
          size="small"
          min={1}
          max={99999}
          precision={0}
          value={bar}
          style={{ width: 80 }}
          onChange={setUntil}
        />
        <Button size="small" onClick={() => actions.repeatUntil(bar)}>
          Repeat
        </Button>
      </div>
      <Button size="small" type="link" style={{ padding: 0 }} onClick={actions.selectFromHere}>
        Select everything from here on
      </Button>
      <Button
        size="small"
        type="link"
        style={{ padding: 0, display: 'block' }}
        title="For any song: as it was recorded or written, with its key and tempo"
        onClick={actions.keep}
      >
        Keep on the shelf
      </Button>
      <div className="actions">
        <Button type="primary" onClick={actions.open}>
          Open in Notes
        </Button>
        <Button icon={<DeleteOutlined />} onClick={actions.remove}>
          Remove
        </Button>
      </div>
    </aside>
  );
});

function SinglePassage({ found, recordedSeconds }: { found: Found } & Pick<Props, 'recordedSeconds'>) {
  const { time, apply } = useSong();
  const { part, passage } = found;
  const place = { partId: part.id, passageId: passage.id };
  const set = (label: string, patch: object) => apply(label, { type: 'passage.set', ...place, patch });
  const start = formatPosition(time.barAt(passage.startTicks));
  const length = passageEndSeconds(passage, time) - time.secondsAt(passage.startTicks);
  return (
    <>
      <div className="row">
        <span className="label">Name</span>
        <Input
          key={passage.name}
          size="small"
          aria-label="Name of the passage"
          placeholder="none"
          maxLength={120}
          defaultValue={passage.name}
          style={{ width: 150 }}
          onBlur={(event) => {
            const name = event.target.value.trim() || null;
            if (name !== (passage.name ?? null)) set('Name a passage', { name });
          }}
          onPressEnter={(event) => event.currentTarget.blur()}
        />
      </div>
      <Typed
        label="Start"
        text={start}
        title="Bar.beat.tick"
        read={(text) => {
          const position = parsePosition(text);
          return position && time.ticksOf(position);
        }}
        onTyped={(startTicks) => set('Move passage', { startTicks: Math.max(0, Math.round(startTicks)) })}
      />
      <Typed
        label="Length"
        text={length.toFixed(3)}
        suffix="s"
        read={(text) => {
          const seconds = Number(text.replace(',', '.'));
          return Number.isFinite(seconds) && seconds > 0 ? seconds : undefined;
        }}
        onTyped={(seconds) => {
          const to = time.ticksAt(time.secondsAt(passage.startTicks) + seconds);
          const edit = planTrim(found, 'end', to, time, recordedSeconds(found));
          if (edit) apply('Trim passage', edit);
        }}
      />
      {passage.type === 'recording' && part.kind === 'recording' && (
        <PassageTimeFields part={part} passage={passage} recordedSeconds={recordedSeconds(found)} set={set} />
      )}
      {canTranspose(found) && (
        <div className="row" title="The key it is in as it sounds now; it goes along when it is transposed">
          <span className="label">Key</span>
          <KeySelect
            label="Key of the passage"
            value={passage.key ?? null}
            none="as the song"
            noneShort="as the song"
            width={122}
            onChoose={(key) => set('Set key of a passage', { key })}
          />
        </div>
      )}
      {passage.type === 'recording' && <Loudness passage={passage} set={set} />}
      <div className="row">
        <span className="label">Colour</span>
        <ColourChoice
          label="Colour of the passage"
          value={passage.colour ?? part.colour}
          onChoose={(colour) => set('Colour a passage', { colour: colour === part.colour ? null : colour })}
        />
      </div>
      {passage.type === 'notes' && <p className="quiet">{passage.notes.length} notes.</p>}
    </>
  );
}

function Loudness({
  passage,
  set,
}: {
  passage: RecordingPassage;
  set(label: string, patch: object): unknown;
}) {
  const number = (
    label: string,
    field: 'gainDb' | 'fadeInSeconds' | 'fadeOutSeconds',
    suffix: string,
    limits: { min: number; max: number; step: number },
  ) => (
    <div className="row">
      <span className="label">{label}</span>
      <InputNumber
        key={passage[field] ?? 0}
        aria-label={label}
        size="small"
        className="numbers"
        style={{ width: 110 }}
        {...limits}
        defaultValue={passage[field] ?? 0}
        suffix={suffix}
        onBlur={(event) => {
          const value = Number(event.target.value.replace(',', '.'));
          const held = Math.max(limits.min, Math.min(limits.max, value));
          if (Number.isFinite(value) && held !== (passage[field] ?? 0))
            set(label, { [field]: held === 0 ? null : held });
        }}
        onPressEnter={(event) => (event.target as HTMLElement).blur()}
        onStep={(value) => set(label, { [field]: Number(value) === 0 ? null : Number(value) })}
      />
    </div>
  );
  const longest = Math.min(60, passage.durationSeconds);
  return (
    <>
      {number('Level of the passage', 'gainDb', 'dB', { min: -60, max: 24, step: 0.5 })}
      {number('Fade in', 'fadeInSeconds', 's', { min: 0, max: longest, step: 0.05 })}
      {number('Fade out', 'fadeOutSeconds', 's', { min: 0, max: longest, step: 0.05 })}
    </>
  );
}

/** A value that is typed as text; what cannot be read is marked and put back. */
function Typed({
  label,
  text,
  title,
  suffix,
  read,
  onTyped,
}: {
  label: string;
  text: string;
  title?: string;
  suffix?: string;
  read(text: string): number | undefined;
  onTyped(value: number): void;
}) {
  const [typed, setTyped] = useState<string | null>(null);
  const value = typed === null ? undefined : read(typed);
  const take = () => {
    if (typed !== null && typed !== text && value !== undefined) onTyped(value);
    setTyped(null);
  };
  return (
    <div className="row" title={title}>
      <span className="label">{label}</span>
      <Input
        size="small"
        aria-label={`${label} of the passage`}
        className="numbers"
        style={{ width: 110 }}
        value={typed ?? text}
        suffix={suffix}
        status={typed !== null && value === undefined ? 'error' : undefined}
        onChange={(event) => setTyped(event.target.value)}
        onPressEnter={(event) => event.currentTarget.blur()}
        onBlur={take}
      />
    </div>
  );
}
