/** Bars put in front of the chosen one, or taken out from it on. */
import { useMemo, useState } from 'react';
import { Button, InputNumber, Segmented } from 'antd';
import {
  changesOf,
  insertTime,
  planInsertion,
  planRemoval,
  removeTime,
  sectionsOf,
  type Edit,
  type SimpleEdit,
  type Song,
  type TimeShift,
} from '@plundra/core/song';
import { useSong } from '../../song/SongContext.tsx';

const MOST_BARS = 200;
const createId = () => crypto.randomUUID();

type Reach = 'song' | 'chords';
const REACHES: { value: Reach; label: string; title: string }[] = [
  { value: 'song', label: 'Whole song', title: 'Everything after the place moves along' },
  { value: 'chords', label: 'Chords only', title: 'Chords and sections move, parts stay' },
];

export function BarsEditor({ bar }: { bar: number }) {
  const { song, time, apply } = useSong();
  const [count, setCount] = useState(1);
  const [reach, setReach] = useState<Reach>('song');
  const plans = useMemo(
    () => ({
      insertion: planInsertion(song, bar, count),
      removal: planRemoval(song, bar, count, createId),
    }),
    [song, bar, count],
  );
  const at = time.barStartTicks(bar);
  const length = time.barStartTicks(bar + count) - at;
  const [changes, sections] = [changesOf(song), sectionsOf(song)];
  const insertion =
    reach === 'song' ? plans.insertion.edit : editOf(song, insertTime(changes, sections, at, length));
  const removal =
    reach === 'song' ? plans.removal.edit : editOf(song, removeTime(changes, sections, at, length, createId));
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
          max={MOST_BARS}
          precision={0}
          style={{ width: 60 }}
          value={count}
          onChange={(value) => setCount(value ?? 1)}
        />
        <Segmented<Reach>
          aria-label="What moves"
          size="small"
          value={reach}
          options={REACHES}
          onChange={setReach}
        />
      </div>
      <div className="actions" style={{ marginTop: 8 }}>
        <Button
          disabled={!insertion}
          onClick={() => insertion && apply(`Insert ${bars} before bar ${bar}`, insertion)}
        >
          Insert {bars} before
        </Button>
        <Button disabled={!removal} onClick={() => removal && apply(`Remove ${which}`, removal)}>
          Remove {which}
        </Button>
      </div>
      {reach === 'song' && <WhatStays {...plans.insertion} removedNotes={plans.removal.removedNotes} />}
    </>
  );
}

/** What somebody would not expect. */
function WhatStays({ staying, removedNotes }: { staying: string[]; removedNotes: number }) {
  if (staying.length === 0 && removedNotes === 0) return null;
  return (
    <p className="quiet">
      {staying.length > 0 &&
        `${staying.join(', ')} ${staying.length === 1 ? 'sounds across the place and stays' : 'sound across the place and stay'} where ${staying.length === 1 ? 'it is' : 'they are'}: recordings are not cut. `}
      {removedNotes > 0 && `Removing takes ${removedNotes} ${removedNotes === 1 ? 'note' : 'notes'} along.`}
    </p>
  );
}

function editOf(song: Song, { changes: { remove, put }, sections }: TimeShift): Edit | undefined {
  const edits: SimpleEdit[] = [];
  if (remove.length + put.length > 0) edits.push({ type: 'changes.put', remove, put });
  if (song.sections?.length) edits.push({ type: 'song.set', patch: { sections } });
  return edits.length > 0 ? { type: 'batch', edits } : undefined;
}
