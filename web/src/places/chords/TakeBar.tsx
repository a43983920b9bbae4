/** A take that was played on chord keys: as a part, or as chords of the song. */
import { useState } from 'react';
import { App, Button, Select } from 'antd';
import { useNavigate } from 'react-router';
import { changesOfTake, notesOfTake, type Press, type TakePull } from '@plundra/core/arranging';
import { pasteChords, type ChordEntry, type ChordEntriesChange } from '@plundra/core/song';
import { notePartOf } from '../../song/newParts.ts';
import { useSong } from '../../song/SongContext.tsx';

const PULLS: { value: TakePull; label: string }[] = [
  { value: 'off', label: 'As played' },
  { value: '1/1', label: 'To whole notes' },
  { value: '1/2', label: 'To halves' },
  { value: '1/4', label: 'To quarters' },
  { value: '1/8', label: 'To eighths' },
  { value: '1/16', label: 'To sixteenths' },
];
const createId = () => crypto.randomUUID();

export function TakeBar({
  presses,
  changes,
  change,
  onDone,
}: {
  presses: readonly Press[];
  changes: readonly ChordEntry[];
  change(label: string, change: ChordEntriesChange): void;
  onDone(): void;
}) {
  const { song, time, apply, listen } = useSong();
  const { message } = App.useApp();
  const navigate = useNavigate();
  const [pull, setPull] = useState<TakePull>('1/8');
  const named = presses.filter(({ chord }) => chord).length;
  const makePart = () => {
    const notes = notesOfTake(presses, pull, time, createId);
    const part = notePartOf(song, 'Take', listen.chords.program, notes, createId);
    if (!apply(`Keep take as ${part.name}`, { type: 'part.add', part, index: song.parts.length })) return;
    void message.success(`${part.name}: ${notes.length} notes`, 4);
    onDone();
    void navigate(`../notes/${part.id}`);
  };
  const addToSong = () => {
    const played = changesOfTake(presses, pull, time, createId);
    const [first] = played;
    const end = Math.max(...presses.map(({ endSeconds }) => Math.round(time.ticksAt(endSeconds))));
    const bars = time.barStartTicks(time.barAt(Math.max(first.startTicks, end - 1)).bar + 1);
    change(
      `Changes from a take, ${played.length}`,
      pasteChords(
        changes,
        played.map(({ startTicks, chord }) => ({ offsetTicks: startTicks - first.startTicks, chord })),
        bars - first.startTicks,
        first.startTicks,
        createId,
      ),
    );
    onDone();
  };
  return (
    <div className="chord-key-editor" role="group" aria-label="Take">
      <span className="label">A take, {presses.length} played</span>
      <Select<TakePull>
        size="small"
        aria-label="Pull the take"
        style={{ width: 130 }}
        value={pull}
        options={PULLS}
        onChange={setPull}
      />
      <Button size="small" type="primary" onClick={makePart}>
        Make a part
      </Button>
      <Button size="small" disabled={named === 0} onClick={addToSong}>
        As the song’s chords there
      </Button>
      <Button size="small" type="text" onClick={onDone}>
        Discard
      </Button>
    </div>
  );
}
