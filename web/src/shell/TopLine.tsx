/** The top line of a song: title, key, tempo, metre, undo, saving, export. */
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
import { Tooltip } from 'antd';
import { Link } from 'react-router';
import { Button, Input, memoControl, TipButton } from '../controls/index.tsx';
import { outboxWorks } from '../song/outbox.ts';
import { useSaving, useSong } from '../song/SongContext.tsx';
import { ExportMenu } from './ExportMenu.tsx';
import { KeyEditor } from './KeyEditor.tsx';
import { MetreEditor, TempoEditor } from './TempoEditor.tsx';

/** Title, key, tempo and metre with their editors, undo, saved state, export. */
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
      <ExportMenu />
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

const WayOut = memoControl(function WayOut() {
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
