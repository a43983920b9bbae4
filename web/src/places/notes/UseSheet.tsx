/** The step Use: note parts from a recording, and its corrected sound as a file. */
import { useRef, useState } from 'react';
import { DownloadOutlined, SoundOutlined } from '@ant-design/icons';
import { App } from 'antd';
import { useNavigate } from 'react-router';
import { splitByRegister } from '@plundra/core/reading';
import { passagesOfRecording } from '@plundra/core/arranging';
import {
  placedRecordings,
  railMidi,
  readsHits,
  type RecordingPart,
  type PlacedRecording,
  type SimpleEdit,
} from '@plundra/core/song';
import { percussionName } from '@plundra/core/theory';
import { correctionSpecOf } from '@plundra/core/retune';
import { Button, Switch } from '../../controls/index.tsx';
import { api } from '../../api/client.ts';
import { instrumentName, INSTRUMENTS, type Sound } from '../../audio/instruments.ts';
import { notePartFromLine } from '../../song/newParts.ts';
import { useSaving, useSong } from '../../song/SongContext.tsx';
import { saveFile } from '../../api/saveFile.ts';
import { countHits, countNotes } from './noteEditing.ts';
import type { Contours } from './usePassageSources.ts';

const SOUNDS: { value: Sound; label: string }[] = [
  ...INSTRUMENTS.map(({ program, name }) => ({ value: program, label: name })),
  { value: 'drums', label: 'Drum kit' },
];

const DRUM_SOUNDS = SOUNDS.filter(({ value }) => value === 'drums');

/** Makes a note part of the line, with a sound chosen by ear. */
export function UseSheet({
  part,
  passage,
  contours,
}: {
  part: RecordingPart;
  passage: PlacedRecording;
  contours: Contours;
}) {
  const { song, time, apply, engine, listen, setListen } = useSong();
  const { message } = App.useApp();
  const navigate = useNavigate();
  const [bends, setBends] = useState(false);
  const { line } = passage;
  const drums = readsHits(passage);
  const program: Sound = drums ? 'drums' : listen.lineProgram;
  if (!line)
    return (
      <>
        <h2>Use</h2>
        <p className="quiet">Read the melody first; then it can be made a note part.</p>
        <SaveRecording part={part} passage={passage} />
      </>
    );

  const choose = (next: Sound) => {
    setListen({ lineProgram: next });
    const middle = line.notes[Math.floor(line.notes.length / 2)];
    void engine.live.preview(middle?.midi ?? 67, 96, next);
  };
  const notes = placedRecordings(part)
    .filter((each) => readsHits(each) === drums)
    .flatMap((each) => each.line?.notes ?? []);
  const chordal = line.reads === 'notes';
  const make = () => {
    const createId = () => crypto.randomUUID();
    const placed = passagesOfRecording(part, time, { hits: drums, ...(bends && { contourOf: contours }) });
    const count = placed.reduce((sum, { notes }) => sum + notes.length, 0);
    const { part: made, edit } = notePartFromLine(
      song,
      part,
      placed,
      program,
      instrumentName(program),
      createId,
    );
    if (!apply(`Make note part ${made.name}`, edit)) return;
    void message.success(`${made.name}: ${countNotes(count)}, beside the recording`, 4);
    void navigate(`../notes/${made.id}`);
  };
  /** Several parts from groups of the line's notes, as one step. */
  const makeParts = (groups: { name: string; ids: ReadonlySet<string> }[]): SimpleEdit[] => {
    const createId = () => crypto.randomUUID();
    return groups.flatMap(({ name, ids }) => {
      const placed = passagesOfRecording(part, time, { hits: drums, only: ids });
      if (placed.length === 0) return [];
      return [notePartFromLine(song, part, placed, program, name, createId).edit];
    });
  };
  const splitDrums = () => {
    const keys = [...new Set(notes.map((note) => Math.round(railMidi(note, 0))))].sort((a, b) => a - b);
    const edits = makeParts(
      keys.map((key) => ({
        name: percussionName(key) ?? `Key ${key}`,
        ids: new Set(notes.filter((note) => Math.round(railMidi(note, 0)) === key).map(({ id }) => id)),
      })),
    );
    if (apply(`Take apart into ${edits.length} parts`, { type: 'batch', edits }))
      void message.success(`${edits.length} drum parts made, one for each drum`, 5);
  };
  const makeTwo = () => {
    const registers = splitByRegister(
      notes.map((note) => ({ ...note, midi: railMidi(note, line.tuningCents) })),
    );
    const edits = makeParts(
      (['upper', 'lower'] as const).map((register) => ({
        name: `${instrumentName(program)}, ${register}`,
        ids: new Set(registers[register]),
      })),
    );
    if (apply('Make two note parts by register', { type: 'batch', edits }))
      void message.success(
        `${registers.upper.length} notes in the upper part, ${registers.lower.length} in the lower`,
        5,
      );
  };
  return (
    <>
      <h2>Use</h2>
      <p className="quiet">
        Choose a sound: with Listen on “Both” or “Notes” the line is played with it at once.
      </p>
      <div role="group" aria-label="Sound" className="sound-choice">
        {(drums ? DRUM_SOUNDS : SOUNDS).map(({ value, label }) => (
          <Button
            key={value}
            size="small"
            type={value === program ? 'primary' : 'default'}
            ghost={value === program}
            aria-pressed={value === program}
            icon={<SoundOutlined />}
            onClick={() => choose(value)}
          >
            {label}
          </Button>
        ))}
      </div>
      {!chordal && !drums && (
        <label className="row">
          <span>Pitch bend from the contour</span>
          <Switch size="small" checked={bends} onChange={setBends} aria-label="Pitch bend from the contour" />
        </label>
      )}
      <Button
        block
        type="primary"
        size="large"
        style={{ marginTop: 8 }}
        disabled={line.notes.length === 0}
        onClick={make}
      >
        {drums ? 'Make a drum part' : 'Make a note part'}
      </Button>
      {drums && (
        <Button block style={{ marginTop: 8 }} disabled={line.notes.length === 0} onClick={splitDrums}>
          Take apart: a part for each drum
        </Button>
      )}
      {chordal && (
        <Button
          block
          style={{ marginTop: 8 }}
          disabled={line.notes.length < 2}
          onClick={makeTwo}
          title="As two hands or two voices: the split follows the widest gap between the pitches"
        >
          Make two: upper and lower register
        </Button>
      )}
      <p className="quiet">
        {(drums ? countHits : countNotes)(notes.length)} with their lengths and velocities. The recording and
        its line stay as they are.
      </p>
      <SaveRecording part={part} passage={passage} />
    </>
  );
}

/** The recording as it sounds now, as a file. */
function SaveRecording({ part, passage }: { part: RecordingPart; passage: PlacedRecording }) {
  const { song } = useSong();
  const { saveState } = useSaving();
  const { message } = App.useApp();
  const [saving, setSaving] = useState(false);
  const stop = useRef<AbortController | null>(null);
  const corrected = correctionSpecOf(passage) !== null;
  const save = async () => {
    const abort = (stop.current = new AbortController());
    setSaving(true);
    try {
      const bytes = await api.partSound(song.id, part.id, passage.takeId, abort.signal);
      saveFile(`${part.name}${corrected ? ' corrected' : ''}.wav`, 'audio/wav', bytes);
    } catch (error) {
      if (!abort.signal.aborted)
        void message.error(error instanceof Error ? error.message : 'The recording could not be saved.', 7);
    } finally {
      setSaving(false);
    }
  };
  return (
    <>
      <h3>The recording</h3>
      <div className="row">
        {/* The server corrects what it has stored. */}
        <Button
          icon={<DownloadOutlined />}
          loading={saving}
          disabled={saveState !== 'saved'}
          onClick={() => void save()}
        >
          {corrected ? 'Save the corrected recording' : 'Save the recording'}
        </Button>
        {saving && (
          <Button size="small" onClick={() => stop.current?.abort()}>
            Stop
          </Button>
        )}
      </div>
      <p className="quiet">
        A WAV file at full quality; what was not corrected in it is exactly as recorded.
      </p>
    </>
  );
}
