/** Bars put in front of the chosen one, or taken out from it on. */
import { useState } from 'react';
import { App, Button, InputNumber, Segmented } from 'antd';
import {
  chordEntriesOf,
  insertTime,
  notesWithin,
  planInsertion,
  planRemoval,
  recordingsAcross,
  removeTime,
  sectionsOf,
  type Edit,
  type SimpleEdit,
  type Song,
  type TimeShift,
} from '@plundra/core/song';
import { useSong } from './SongContext.tsx';

const MAX_BARS = 200;
const createId = () => crypto.randomUUID();

type Reach = 'song' | 'chords';
const REACHES: { value: Reach; label: string; title: string }[] = [
  { value: 'song', label: 'Whole song', title: 'Everything after the place moves along' },
  { value: 'chords', label: 'Chords only', title: 'Chords and sections move, parts stay' },
];

interface Props {
  bar: number;
  /** Also of the chords alone, where chords are what one looks at. */
  chordsAlone?: boolean;
  onDone?(): void;
}

export function BarsEditor({ bar, chordsAlone = false, onDone }: Props) {
  const { song, time, apply } = useSong();
  const { message } = App.useApp();
  const [count, setCount] = useState(1);
  const [reach, setReach] = useState<Reach>('song');
  const whole = reach === 'song';
  const chordsOnly = (shift: typeof insertTime | typeof removeTime) => {
    const at = time.barStartTicks(bar);
    const length = time.barStartTicks(bar + count) - at;
    return editOf(song, shift(chordEntriesOf(song), sectionsOf(song), at, length, createId));
  };
  const insert = () => (whole ? planInsertion(song, bar, count) : chordsOnly(insertTime));
  const remove = () => (whole ? planRemoval(song, bar, count, createId) : chordsOnly(removeTime));
  const take = (label: string, edit: Edit | undefined) => {
    if (edit) {
      apply(label, edit);
      onDone?.();
    } else void message.info(whole ? 'Nothing comes after this place.' : 'No chord comes after this place.');
  };
  const bars = count === 1 ? 'a bar' : `${count} bars`;
  const which = count === 1 ? `bar ${bar}` : `bars ${bar}–${bar + count - 1}`;
  return (
    <>
      <div className="row">
        <span className="label">Bars</span>
        <InputNumber
          aria-label="How many bars"
          size="small"
          min={1}
          max={MAX_BARS}
          precision={0}
          style={{ width: 60 }}
          value={count}
          onChange={(value) => setCount(value ?? 1)}
        />
      </div>
      {chordsAlone && (
        <Segmented<Reach>
          aria-label="What moves"
          size="small"
          block
          value={reach}
          options={REACHES}
          onChange={setReach}
        />
      )}
      <div className="actions" style={{ marginTop: 8 }}>
        <Button onClick={() => take(`Insert ${bars} before bar ${bar}`, insert())}>
          Insert {bars} before
        </Button>
        <Button onClick={() => take(`Remove ${which}`, remove())}>Remove {which}</Button>
      </div>
      {whole && <WhatHappens song={song} bar={bar} bars={count} />}
    </>
  );
}

/** Side effects worth a warning. */
function WhatHappens({ song, bar, bars }: { song: Song; bar: number; bars: number }) {
  const cut = recordingsAcross(song, bar);
  const going = notesWithin(song, bar, bars);
  if (cut.length === 0 && going === 0) return null;
  return (
    <p className="quiet">
      {cut.length > 0 &&
        `${cut.join(', ')} ${cut.length === 1 ? 'sounds' : 'sound'} across the place and will be cut there. `}
      {going > 0 && `Removing takes ${going} ${going === 1 ? 'note' : 'notes'} along.`}
    </p>
  );
}

function editOf(song: Song, { changes: { remove, put }, sections }: TimeShift): Edit | undefined {
  const edits: SimpleEdit[] = [];
  if (remove.length + put.length > 0) edits.push({ type: 'changes.put', remove, put });
  if (song.sections?.length) edits.push({ type: 'song.set', patch: { sections } });
  return edits.length > 0 ? { type: 'batch', edits } : undefined;
}
