/** Chords onto a note part: voicing, rhythm, sound. */
import { useEffect, useMemo, useState } from 'react';
import { App, Button, InputNumber, Select, Switch } from 'antd';
import { useNavigate } from 'react-router';
import { chordNotes, RHYTHMS, type ChordNotesSettings, type Rhythm } from '@plundra/core/arranging';
import {
  placedNotes,
  soundingNotesOf,
  type ChordSpanOfSong,
  type Part,
  type SimpleEdit,
  type TimeMap,
} from '@plundra/core/song';
import { isWholeWithoutRoot, percussionName, VOICINGS, type Voicing } from '@plundra/core/theory';
import { instrumentName, instrumentOptions } from '../../audio/instruments.ts';
import { notePartOf, notePassageOf } from '../../song/newParts.ts';
import { useSong } from '../../song/SongContext.tsx';

const VOICING_LABELS: Record<Voicing, string> = {
  close: 'Close',
  open: 'Open',
  drop2: 'Drop 2',
  rootless: 'Without the root',
  keyboard: 'Keyboard, two hands',
  guitar: 'Guitar, six strings',
  bass: 'Bass note only',
};
const RHYTHM_LABELS: Record<Rhythm, string> = {
  held: 'Held',
  beats: 'On every beat',
  strum: 'Strummed eighths',
  arpeggio: 'Arpeggio',
  part: 'Rhythm from a part',
};
/** Sounds that suit a voicing, taken when it is chosen. */
const PROGRAM_OF: Partial<Record<Voicing, number>> = { guitar: 25, bass: 33 };
const VELOCITY = 84;
const createId = () => crypto.randomUUID();

export function UseChords({ spans, all }: { spans: readonly ChordSpanOfSong[]; all: boolean }) {
  const { song, time, apply, setTried } = useSong();
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
  const [drum, setDrum] = useState<number | null>(null);
  const drums = from?.kind === 'drums' ? drumsOf(from) : [];
  const [ontoId, setOntoId] = useState<string | null>(null);
  const onto = song.parts.find((part) => part.kind === 'notes' && part.id === ontoId);
  const [hearing, setHearing] = useState(false);
  const made = useMadeNotes(
    spans,
    from,
    drum !== null && drums.includes(drum) ? drum : null,
    { voicing, rhythm, octaves, withBass, joinEqual, velocity: VELOCITY },
    time,
  );
  const symbols = spans.flatMap(({ change }) => change.chord ?? []);
  const rooted = symbols.filter((chord) => !isWholeWithoutRoot(chord)).length;
  const name = onto ? onto.name : `Chords · ${instrumentName(program)}`;
  const edit = useMemo((): SimpleEdit | null => {
    if (made.length === 0) return null;
    return onto
      ? { type: 'passage.add', partId: onto.id, passage: notePassageOf(made, createId) }
      : {
          type: 'part.add',
          part: notePartOf(song, 'Chords', program, made, createId),
          index: song.parts.length,
        };
  }, [made, onto, program, song]);
  // The part sounds with the song before it is made.
  useEffect(() => {
    if (!hearing) return;
    setTried(edit);
    return () => setTried(null);
  }, [hearing, edit, setTried]);
  const make = () => {
    if (!edit || !apply(onto ? `Chords onto ${name}` : `Make part ${name}`, edit)) return;
    setHearing(false);
    void message.success(`${name}: ${made.length} notes`, 4);
    if (edit.type === 'part.add') void navigate(`../notes/${edit.part.id}`);
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
      {voicing === 'rootless' && rooted > 0 && (
        <p className="quiet" role="status">
          {rooted} of {symbols.length} {symbols.length === 1 ? 'chord keeps its' : 'chords keep their'} root:
          triads are left out of this, without it they would be other chords.
        </p>
      )}
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
      {rhythm === 'part' && drums.length > 1 && (
        <div className="row">
          <span className="label">Drum</span>
          <Select
            aria-label="Rhythm from drum"
            size="small"
            style={{ width: 172 }}
            value={drum !== null && drums.includes(drum) ? drum : -1}
            options={[
              { value: -1, label: 'All of them' },
              ...drums.map((midi) => ({ value: midi, label: percussionName(midi) })),
            ]}
            onChange={(value) => setDrum(value < 0 ? null : value)}
          />
        </div>
      )}
      <div className="row">
        <span className="label">Onto</span>
        <Select
          aria-label="Onto part"
          size="small"
          style={{ width: 172 }}
          value={onto?.id ?? ''}
          options={[
            { value: '', label: 'A new part' },
            ...song.parts
              .filter((part) => part.kind === 'notes')
              .map(({ id, name: label }) => ({ value: id, label })),
          ]}
          onChange={(value) => setOntoId(value || null)}
        />
      </div>
      {!onto && (
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
      )}
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
      <label className="row">
        <span className="label">Hear while choosing</span>
        <Switch
          size="small"
          checked={hearing}
          title="What would be made sounds with the song"
          onChange={setHearing}
          aria-label="Hear while choosing"
        />
      </label>
      <Button block type="primary" style={{ marginTop: 8 }} disabled={!edit} onClick={make}>
        {!edit
          ? 'No notes to make'
          : onto
            ? `Put ${made.length} notes onto it`
            : `Make a part of ${made.length} notes`}
      </Button>
    </>
  );
}

/** The same notes while nothing that they depend on changes. */
function useMadeNotes(
  spans: readonly ChordSpanOfSong[],
  from: Part | undefined,
  drum: number | null,
  { voicing, rhythm, octaves, withBass, joinEqual, velocity }: Omit<ChordNotesSettings, 'strikes'>,
  time: TimeMap,
) {
  return useMemo(() => {
    const strikes = rhythm === 'part' && from ? strikesOf(from, drum, time) : undefined;
    const settings = { voicing, rhythm, octaves, withBass, joinEqual, velocity, strikes };
    return chordNotes(spans, settings, time, createId);
  }, [spans, from, drum, voicing, rhythm, octaves, withBass, joinEqual, velocity, time]);
}

/** Percussion keys that are struck, lowest first. */
function drumsOf(part: Part): number[] {
  const keys = part.kind === 'recording' ? [] : placedNotes(part).map(({ midi }) => midi);
  return [...new Set(keys)].sort((a, b) => a - b);
}

/** Where a part, or one drum of it, plays: notes that start together count once. */
function strikesOf(part: Part, drum: number | null, time: TimeMap) {
  const strikes = new Map<number, { startTicks: number; lengthTicks: number; velocity: number }>();
  for (const { startTicks, lengthTicks, velocity, midi } of part.kind === 'recording'
    ? []
    : soundingNotesOf(part)) {
    if (drum !== null && midi !== drum) continue;
    const length = part.kind === 'drums' ? time.beatTicksAt(startTicks) / 2 : lengthTicks;
    strikes.set(startTicks, { startTicks, lengthTicks: Math.round(length), velocity });
  }
  return [...strikes.values()].sort((a, b) => a.startTicks - b.startTicks);
}
