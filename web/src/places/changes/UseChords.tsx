/** Chords onto a note part: voicing, rhythm, sound. */
import { useState } from 'react';
import { App, Button, InputNumber, Select, Switch } from 'antd';
import { useNavigate } from 'react-router';
import { chordNotes, RHYTHMS, type Rhythm } from '@plundra/core/arranging';
import { markOf } from '@plundra/core/formats';
import type { ChordSpanOfSong, NotePart, Part, SimpleEdit, TimeMap } from '@plundra/core/song';
import { VOICINGS, type Voicing } from '@plundra/core/theory';
import { instrumentName, instrumentOptions } from '../../audio/instruments.ts';
import { nextColour } from '../../song/newParts.ts';
import { useSong } from '../../song/SongContext.tsx';

const VOICING_LABELS: Record<Voicing, string> = {
  close: 'Close',
  open: 'Open',
  drop2: 'Second voice dropped',
  rootless: 'Without the root',
  keyboard: 'Keyboard, two hands',
  guitar: 'Guitar, six strings',
  bass: 'Bass note only',
};
const RHYTHM_LABELS: Record<Rhythm, string> = {
  held: 'Held',
  beats: 'On every beat',
  strum: 'Strummed eighths',
  arpeggio: 'Broken',
  part: 'Rhythm from a part',
};
/** Sounds that suit a voicing, taken when it is chosen. */
const PROGRAM_OF: Partial<Record<Voicing, number>> = { guitar: 25, bass: 33 };
const VELOCITY = 84;
const LEVEL_DB = -4;
const createId = () => crypto.randomUUID();

export function UseChords({ spans, all }: { spans: readonly ChordSpanOfSong[]; all: boolean }) {
  const { song, time, apply } = useSong();
  const { message } = App.useApp();
  const navigate = useNavigate();
  const [voicing, setVoicing] = useState<Voicing>('keyboard');
  const [rhythm, setRhythm] = useState<Rhythm>('held');
  const [program, setProgram] = useState(4);
  const [octaves, setOctaves] = useState(0);
  const [withBass, setWithBass] = useState(false);
  const [joinEqual, setJoinEqual] = useState(false);
  const rhythmParts = song.parts.filter((part) => part.kind !== 'recording');
  const [fromPartId, setFromPartId] = useState<string | null>(null);
  const from = rhythmParts.find(({ id }) => id === fromPartId) ?? rhythmParts.at(0);
  const made = chordNotes(
    spans,
    {
      voicing,
      rhythm,
      octaves,
      withBass,
      joinEqual,
      velocity: VELOCITY,
      strikes: rhythm === 'part' && from ? strikesOf(from, time) : undefined,
    },
    time,
    createId,
  );
  const make = () => {
    const start = spans[0].startTicks;
    const end = Math.max(...made.map(({ startTicks, lengthTicks }) => startTicks + lengthTicks));
    const name = `Chords · ${instrumentName(program)}`;
    const part: NotePart = {
      kind: 'notes',
      program,
      id: createId(),
      name,
      mark: markOf(instrumentName(program)),
      colour: nextColour(song),
      levelDb: LEVEL_DB,
      pan: 0,
      mute: false,
      solo: false,
      passages: [
        {
          type: 'notes',
          id: createId(),
          startTicks: start,
          lengthTicks: end - start,
          notes: made.map((note) => ({ ...note, startTicks: note.startTicks - start })),
        },
      ],
    };
    const edit: SimpleEdit = { type: 'part.add', part, index: song.parts.length };
    if (!apply(`Make part ${name}`, edit)) return;
    void message.success(`${name}: ${made.length} notes`, 4);
    void navigate(`../line/${part.id}`);
  };
  return (
    <>
      <h3>Use {all ? 'all chords' : spans.length === 1 ? 'this chord' : 'these chords'}</h3>
      <div className="row">
        <span className="label">Voicing</span>
        <Select<Voicing>
          aria-label="Voicing"
          size="small"
          style={{ width: 172 }}
          value={voicing}
          options={VOICINGS.map((value) => ({ value, label: VOICING_LABELS[value] }))}
          onChange={(value) => {
            setVoicing(value);
            setProgram(PROGRAM_OF[value] ?? (program === 25 || program === 33 ? 4 : program));
          }}
        />
      </div>
      <div className="row">
        <span className="label">Rhythm</span>
        <Select<Rhythm>
          aria-label="Rhythm"
          size="small"
          style={{ width: 172 }}
          value={rhythm}
          options={RHYTHMS.filter((value) => value !== 'part' || rhythmParts.length > 0).map((value) => ({
            value,
            label: RHYTHM_LABELS[value],
          }))}
          onChange={setRhythm}
        />
      </div>
      {rhythm === 'part' && (
        <div className="row">
          <span className="label">From</span>
          <Select
            aria-label="Rhythm from part"
            size="small"
            style={{ width: 172 }}
            value={from?.id}
            options={rhythmParts.map(({ id, name }) => ({ value: id, label: name }))}
            onChange={setFromPartId}
          />
        </div>
      )}
      <div className="row">
        <span className="label">Sound</span>
        <Select
          aria-label="Sound of the part"
          size="small"
          style={{ width: 172 }}
          value={program}
          options={instrumentOptions}
          onChange={setProgram}
        />
      </div>
      <div className="row">
        <span className="label">Octaves up</span>
        <InputNumber
          aria-label="Octaves up"
          size="small"
          style={{ width: 64 }}
          min={-2}
          max={2}
          value={octaves}
          onChange={(value) => setOctaves(value ?? 0)}
        />
      </div>
      {!['keyboard', 'guitar', 'bass'].includes(voicing) && (
        <label className="row">
          <span className="label">With the bass below</span>
          <Switch size="small" checked={withBass} onChange={setWithBass} aria-label="With the bass below" />
        </label>
      )}
      {rhythm === 'held' && (
        <label className="row">
          <span className="label">Join notes that stay</span>
          <Switch
            size="small"
            checked={joinEqual}
            onChange={setJoinEqual}
            aria-label="Join notes that stay"
          />
        </label>
      )}
      <Button block type="primary" style={{ marginTop: 8 }} disabled={made.length === 0} onClick={make}>
        {made.length === 0 ? 'No notes to make' : `Make a part of ${made.length} notes`}
      </Button>
    </>
  );
}

/** Where a part plays: notes that start together count once. */
function strikesOf(part: Part, time: TimeMap) {
  const strikes = new Map<number, { startTicks: number; lengthTicks: number; velocity: number }>();
  for (const passage of part.passages) {
    if (passage.type !== 'notes') continue;
    for (const { startTicks, lengthTicks, velocity, muted } of passage.notes) {
      if (muted) continue;
      const at = passage.startTicks + startTicks;
      const length = part.kind === 'drums' ? time.beatTicksAt(at) / 2 : lengthTicks;
      strikes.set(at, { startTicks: at, lengthTicks: Math.round(length), velocity });
    }
  }
  return [...strikes.values()].sort((a, b) => a.startTicks - b.startTicks);
}
