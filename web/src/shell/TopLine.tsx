import { useState, useSyncExternalStore } from 'react';
import {
  CheckOutlined,
  CloudSyncOutlined,
  DeleteOutlined,
  DisconnectOutlined,
  QuestionCircleOutlined,
  RedoOutlined,
  UndoOutlined,
  UnorderedListOutlined,
} from '@ant-design/icons';
import { App, Popover, Tooltip } from 'antd';
import { Link } from 'react-router';
import { planTranspose, semitonesBetween, type Edit, type MetreEntry, type Song } from '@plundra/core/song';
import { KEY_TONICS, keyName, type Key } from '@plundra/core/theory';
import { Button, Input, InputNumber, Select, still, TipButton } from '../controls/index.tsx';
import { outboxWorks } from '../song/outbox.ts';
import { useSaving, useSong } from '../song/SongContext.tsx';
import { HandOut } from './HandOut.tsx';

/** Title, key, tempo and metre with their editors, undo, saved state, hand out. */
export function TopLine({ onShortcuts }: { onShortcuts: () => void }) {
  const { song, apply, undo, redo, history } = useSong();
  const lastDone = history.done.at(-1)?.label;
  const lastUndone = history.undone.at(-1)?.label;
  return (
    <header className="top-line">
      <WayOut />
      <TitleEditor
        title={song.title}
        onRename={(title) =>
          apply(`Rename to ${title}`.slice(0, 200), { type: 'song.set', patch: { title } })
        }
      />
      <KeyEditor />
      <TempoEditor />
      <MetreEditor />
      <span className="gap" />
      <TipButton
        tip={lastDone ? `Undo: ${lastDone} (Ctrl+Z)` : 'Nothing to undo'}
        type="text"
        aria-label="Undo"
        icon={<UndoOutlined />}
        disabled={!lastDone}
        onClick={undo}
      />
      <TipButton
        tip={lastUndone ? `Redo: ${lastUndone} (Ctrl+Shift+Z)` : 'Nothing to redo'}
        type="text"
        aria-label="Redo"
        icon={<RedoOutlined />}
        disabled={!lastUndone}
        onClick={redo}
      />
      <SavingMark />
      <HandOut />
      <TipButton
        tip="Keys (?)"
        type="text"
        aria-label="Keyboard shortcuts"
        icon={<QuestionCircleOutlined />}
        onClick={onShortcuts}
      />
    </header>
  );
}

const UNKEPT =
  'This browser keeps no data for Plundra: changes that are not saved yet are lost when this window closes. Allow site data for this address to be safe.';

function SavingMark() {
  const { saveState, waiting } = useSaving();
  const keeps = useSyncExternalStore(outboxWorks.subscribe, outboxWorks.get);
  return (
    <span className="quiet numbers" role="status" data-testid="save-state">
      {saveState === 'saved' && (
        <Tooltip title={keeps ? undefined : UNKEPT}>
          <CheckOutlined /> Saved
        </Tooltip>
      )}
      {saveState === 'saving' && (
        <>
          <CloudSyncOutlined /> Saving
        </>
      )}
      {saveState === 'offline' && (
        <Tooltip
          title={`The server cannot be reached. Your changes are saved as soon as it is back. ${keeps ? 'Until then they are kept in this browser, also when you close this window.' : UNKEPT}`}
        >
          <DisconnectOutlined /> Offline · {waiting} waiting
        </Tooltip>
      )}
      {saveState === 'gone' && (
        <Tooltip title="This song was deleted in another window. Bring it back from the bin on the songs page, and your changes are saved.">
          <DeleteOutlined /> Deleted · {waiting} waiting
        </Tooltip>
      )}
    </span>
  );
}

const WayOut = still(function WayOut() {
  return (
    <Tooltip title="All songs">
      <Link to="/" aria-label="All songs">
        <Button type="text" icon={<UnorderedListOutlined />} tabIndex={-1} />
      </Link>
    </Tooltip>
  );
});

function TitleEditor({ title, onRename }: { title: string; onRename: (title: string) => void }) {
  const [draft, setDraft] = useState<string | null>(null);
  if (draft === null) {
    return (
      <Button
        type="text"
        className="title"
        title="Rename the song"
        onClick={() => setDraft(title)}
        style={{ paddingInline: 6 }}
      >
        {title}
      </Button>
    );
  }
  const finish = () => {
    const name = draft.trim();
    if (name && name !== title) onRename(name);
    setDraft(null);
  };
  return (
    <Input
      autoFocus
      aria-label="Song title"
      value={draft}
      maxLength={200}
      style={{ width: 220 }}
      onChange={(event) => setDraft(event.target.value)}
      onBlur={finish}
      onPressEnter={finish}
      onKeyDown={(event) => event.key === 'Escape' && setDraft(null)}
    />
  );
}

/** A new key can mean that the music moves, or that its name was wrong. */
function askTransposing(
  modal: ReturnType<typeof App.useApp>['modal'],
  song: Song,
  key: Key,
  semitones: number,
  setOnly: () => void,
  apply: (label: string, edit: Edit) => boolean,
): void {
  const plan = planTranspose(song, key, semitones);
  const way = `${Math.abs(semitones)} ${Math.abs(semitones) === 1 ? 'semitone' : 'semitones'} ${semitones > 0 ? 'up' : 'down'}`;
  const dialog = modal.info({
    icon: null,
    title: `From ${keyName(song.key!)} to ${keyName(key)}`,
    width: 460,
    content: (
      <>
        <p>
          The song can be moved {way}, or the key can be named anew and every note stays. One undo brings
          either back.
        </p>
        <p>
          <b>Moves:</b>{' '}
          {plan.moving.length === 0
            ? 'nothing'
            : plan.moving
                .map((each) =>
                  each.notes === 0
                    ? `${each.name} (the whole recording)`
                    : `${each.name} (${each.notes} notes${each.recording ? ', recording' : ''})`,
                )
                .join(', ')}
        </p>
        {plan.staying.length > 0 && (
          <p>
            <b>Stays:</b> {plan.staying.map((each) => `${each.name} (${each.reason})`).join(', ')}
          </p>
        )}
      </>
    ),
    footer: (
      <div style={{ display: 'flex', gap: 8, justifyContent: 'flex-end', marginTop: 12 }}>
        <Button onClick={() => dialog.destroy()}>Cancel</Button>
        <Button
          onClick={() => {
            setOnly();
            dialog.destroy();
          }}
        >
          Only name the key
        </Button>
        <Button
          type="primary"
          disabled={plan.moving.length === 0}
          onClick={() => {
            apply(`Transpose to ${keyName(key)}`, plan.edit);
            dialog.destroy();
          }}
        >
          Transpose {way}
        </Button>
      </div>
    ),
  });
}

const KEY_OPTIONS = [
  { value: 'none', label: 'Not set yet' },
  ...(['major', 'minor'] as const).map((mode) => ({
    label: mode === 'major' ? 'Major' : 'Minor',
    options: KEY_TONICS.map((tonic) => ({ value: `${tonic}:${mode}`, label: keyName({ tonic, mode }) })),
  })),
];

function keyOfOption(value: string): Key | null {
  const [tonic, mode] = value.split(':');
  const known = KEY_TONICS.find((each) => each === tonic);
  return known ? { tonic: known, mode: mode as Key['mode'] } : null;
}

function keyLabel({ value }: { value?: string | number | undefined }) {
  const key = keyOfOption(String(value));
  return key ? keyName(key) : 'Key not set';
}

function KeyEditor() {
  const { song, apply } = useSong();
  const { modal } = App.useApp();
  const value = song.key ? `${song.key.tonic}:${song.key.mode}` : 'none';
  return (
    <Select
      className="chip"
      aria-label="Key of the song"
      showSearch={{ optionFilterProp: 'label' }}
      value={value}
      options={KEY_OPTIONS}
      popupMatchSelectWidth={150}
      style={{ width: 116 }}
      labelRender={keyLabel}
      onChange={(chosen) => {
        const key = keyOfOption(chosen);
        const setOnly = () =>
          apply(key ? `Set key to ${keyName(key)}` : 'Clear the key', { type: 'song.set', patch: { key } });
        const semitones = key && song.key ? semitonesBetween(song.key, key) : 0;
        if (!key || semitones === 0) setOnly();
        else askTransposing(modal, song, key, semitones, setOnly, apply);
      }}
    />
  );
}

function TempoEditor() {
  const { song, apply } = useSong();
  return (
    <TempoChip
      bpm={song.tempoMap[0].bpm}
      onSet={(bpm) =>
        apply(`Set tempo to ${bpm} bpm`, {
          type: 'song.set',
          patch: { tempoMap: [{ ...song.tempoMap[0], bpm }, ...song.tempoMap.slice(1)] },
        })
      }
    />
  );
}

const TempoChip = still(function TempoChip({ bpm, onSet }: { bpm: number; onSet: (bpm: number) => void }) {
  const [open, setOpen] = useState(false);
  const [draft, setDraft] = useState<number | null>(bpm);
  const [taps, setTaps] = useState<number[]>([]);
  const set = (next: number | null) => {
    if (next !== null && next >= 10 && next <= 400 && next !== bpm) onSet(next);
    setOpen(false);
  };
  const tap = () => {
    const now = performance.now();
    const recent = [...taps.filter((time) => now - time < 6000), now].slice(-8);
    setTaps(recent);
    if (recent.length >= 3)
      setDraft(Math.round(((recent.length - 1) * 60000) / (recent[recent.length - 1] - recent[0])));
  };
  return (
    <Popover
      open={open}
      onOpenChange={(next) => {
        setDraft(bpm);
        setTaps([]);
        setOpen(next);
      }}
      trigger="click"
      content={
        <div style={{ display: 'grid', gap: 8, width: 210 }}>
          <div style={{ display: 'flex', gap: 8 }}>
            <InputNumber
              aria-label="Tempo in bpm"
              autoFocus
              min={10}
              max={400}
              value={draft}
              onChange={setDraft}
              onPressEnter={() => set(draft)}
              suffix="bpm"
              style={{ flex: 1 }}
            />
            <Button onClick={tap}>Tap</Button>
          </div>
          <span className="quiet">Notes keep their bars; recordings keep their speed.</span>
          <Button type="primary" onClick={() => set(draft)}>
            Set tempo
          </Button>
        </div>
      }
    >
      <Button className="chip numbers" aria-label={`Tempo ${bpm} bpm`}>
        {bpm} bpm
      </Button>
    </Popover>
  );
});

function MetreEditor() {
  const { song, apply } = useSong();
  const { beats, unit } = song.metreMap[0];
  return (
    <MetreChip
      beats={beats}
      unit={unit}
      onSet={(metre) =>
        apply(`Set metre to ${metre.beats}/${metre.unit}`, {
          type: 'song.set',
          patch: { metreMap: [{ startTicks: 0, ...metre }, ...song.metreMap.slice(1)] },
        })
      }
    />
  );
}

type Metre = Pick<MetreEntry, 'beats' | 'unit'>;

const MetreChip = still(function MetreChip({
  beats,
  unit,
  onSet,
}: Metre & { onSet: (metre: Metre) => void }) {
  const [open, setOpen] = useState(false);
  const [draft, setDraft] = useState({ beats, unit });
  const set = () => {
    if (draft.beats !== beats || draft.unit !== unit) onSet(draft);
    setOpen(false);
  };
  const units = [2, 4, 8, 16].map((value) => ({ value: value as MetreEntry['unit'], label: String(value) }));
  return (
    <Popover
      open={open}
      onOpenChange={(next) => {
        setDraft({ beats, unit });
        setOpen(next);
      }}
      trigger="click"
      content={
        <div style={{ display: 'flex', gap: 8, alignItems: 'center' }}>
          <InputNumber
            aria-label="Beats in a bar"
            min={1}
            max={32}
            value={draft.beats}
            onChange={(value) => setDraft({ ...draft, beats: value ?? 4 })}
            style={{ width: 70 }}
          />
          /
          <Select
            aria-label="Note value of a beat"
            value={draft.unit}
            options={units}
            onChange={(value) => setDraft({ ...draft, unit: value })}
            style={{ width: 70 }}
          />
          <Button type="primary" onClick={set}>
            Set
          </Button>
        </div>
      }
    >
      <Button className="chip numbers" aria-label={`Metre ${beats}/${unit}`}>
        {beats}/{unit}
      </Button>
    </Popover>
  );
});
