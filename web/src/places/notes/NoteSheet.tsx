/** The side sheet of selected notes: exact values, velocities, actions. */
import { useState } from 'react';
import {
  centsFromNearest,
  degreeOf,
  keyName,
  noteNameIn,
  parseNote,
  PERCUSSION_KEYS,
  percussionName,
  degreeOverChord,
  degreeText,
  ordinal,
} from '@plundra/core/theory';
import {
  formatPosition,
  keyAt,
  LONGEST_LYRIC,
  parsePosition,
  changeAt,
  chordEntriesOf,
} from '@plundra/core/song';
import { groupStrokes, type Stroke } from '@plundra/core/reading';
import { Button, Input, InputNumber, Select, Slider } from '../../controls/index.tsx';
import { SoundOfPart } from './SoundOfPart.tsx';
import { chordText } from '../../song/ChordName.tsx';
import { useSong } from '../../song/SongContext.tsx';
import { colours } from '../../theme/tokens.ts';
import type { CanvasNote } from './canvasNote.ts';
import type { LineSheetProps } from './LineSheet.tsx';
import { OFF_CENTS } from './correcting.ts';
import { clipSpan, countHits, countNotes, followed, type NoteEditing } from './noteEditing.ts';

/** Numbers and actions of the selected notes. */
export function NoteSheet({
  part,
  passage,
  editing,
  selected,
  change,
  setSelected,
  doubtful,
}: LineSheetProps & { editing: NoteEditing }) {
  const { song, time } = useSong();
  const notes = editing.notes.filter((note) => selected.has(note.id));
  if (notes.length === 0) return null;
  const single = notes.length === 1 ? notes[0] : null;
  const keyOf = (note: CanvasNote) => keyAt(song, time.ticksAt((note.startSeconds + note.endSeconds) / 2));
  const velocities = notes.map((note) => note.velocity);
  const meanVelocity = Math.round(velocities.reduce((sum, value) => sum + value, 0) / notes.length);
  const spread = Math.max(...velocities) - Math.min(...velocities);
  const isLine = notes[0].played !== undefined;
  const drums = part.kind === 'drums' || (passage.type === 'recording' && passage.line?.reads === 'hits');
  const chordal = passage.type === 'recording' && passage.line?.reads === 'notes';
  const strokes = chordal
    ? groupStrokes(editing.notes).filter(({ ids }) => ids.some((id) => selected.has(id)))
    : [];
  const allMuted = notes.every((note) => note.muted);
  const count = drums ? countHits : countNotes;
  const raise = (by: number) => change(editing.setVelocity(selected, (velocity) => velocity + by));
  const after = () =>
    setSelected(
      new Set(
        editing.notes.filter((note) => note.startSeconds >= notes[0].startSeconds).map((note) => note.id),
      ),
    );
  const samePitch = () => {
    const pitches = new Set(notes.map((note) => Math.round(note.midi)));
    setSelected(
      new Set(editing.notes.filter((note) => pitches.has(Math.round(note.midi))).map((note) => note.id)),
    );
  };
  return (
    <>
      <h2 className="numbers">
        {count(notes.length)}{' '}
        {single && `· ${drums ? percussionName(single.midi) : noteNameIn(single.midi, keyOf(single))}`}
      </h2>
      {drums && <DrumRow notes={notes} onSet={(key) => change(editing.setPitch(selected, key))} />}
      {single ? (
        <SingleNote key={single.id} note={single} drums={drums} editing={editing} change={change} />
      ) : (
        <ManyNotes notes={notes} />
      )}
      {strokes.length > 0 && (
        <div className="row">
          <span className="label">{strokes.length === 1 ? 'Stroke' : `${strokes.length} strokes`}</span>
          {strokes.length === 1 && <span className="numbers">{strokeText(strokes[0])}</span>}
        </div>
      )}
      {notes.some((note) => note.bends) && (
        <>
          <h3>Pitch bend</h3>
          <div className="row">
            <span className="numbers">{bendText(notes)}</span>
            <Button size="small" onClick={() => change(editing.straighten?.(selected))}>
              Straighten
            </Button>
          </div>
        </>
      )}
      <h3>Velocity</h3>
      <div className="row">
        <VelocitySlider
          key={`${[...selected][0]}-${meanVelocity}`}
          value={meanVelocity}
          onSet={(value) =>
            change(editing.setVelocity(selected, (velocity) => velocity + value - meanVelocity))
          }
        />
        <InputNumber
          aria-label="Velocity"
          className="numbers"
          style={{ width: 68 }}
          min={1}
          max={127}
          precision={0}
          value={meanVelocity}
          onChange={(value) => value !== null && raise(value - meanVelocity)}
        />
      </div>
      {!single && (
        <div className="row">
          <span className="quiet">{spread === 0 ? 'All alike' : 'Mean; differences are kept'}</span>
          <span>
            <Button size="small" onClick={() => raise(-10)}>
              −10
            </Button>{' '}
            <Button size="small" onClick={() => raise(10)}>
              Raise 10
            </Button>
          </span>
        </div>
      )}
      <h3>Actions</h3>
      <div className="actions" style={{ marginTop: 0 }}>
        {notes.some((note) => note.doubtful) && (
          <Button type="primary" title="Key K: what is selected is right" onClick={doubtful.keep}>
            Keep
          </Button>
        )}
        <Button disabled={notes.length < 2} title="Key J" onClick={() => change(editing.join(selected))}>
          Join
        </Button>
        {single && (
          <Button
            title="Cuts in the middle; key X cuts at the pointer"
            onClick={() => change(editing.cut(single.id, (single.startSeconds + single.endSeconds) / 2))}
          >
            Cut
          </Button>
        )}
        {!drums && (
          <>
            <Button
              title={isLine ? 'The reading took the wrong octave' : 'Shift + ↑'}
              onClick={() => change(followed(editing.octave(selected, 1), selected))}
            >
              Octave ↑
            </Button>
            <Button
              title={isLine ? 'The reading took the wrong octave' : 'Shift + ↓'}
              onClick={() => change(followed(editing.octave(selected, -1), selected))}
            >
              Octave ↓
            </Button>
          </>
        )}
        <Button title="Key Delete" onClick={() => change(editing.drop(selected))}>
          Drop
        </Button>
        <Button
          title="Key M: a muted note stays where it is and does not sound"
          onClick={() => change(editing.mute(selected, !allMuted))}
        >
          {allMuted ? 'Unmute' : 'Mute'}
        </Button>
        <Button
          title="Ctrl + D"
          onClick={() => {
            const clip = editing.copy(selected);
            if (clip) change(editing.paste(clip, clipSpan(clip).endTicks - clipSpan(clip).startTicks));
          }}
        >
          Duplicate
        </Button>
      </div>
      <h3>Select</h3>
      <div className="actions" style={{ marginTop: 0 }}>
        <Button size="small" onClick={samePitch}>
          {drums ? 'Same drum' : 'Same pitch'}
        </Button>
        <Button size="small" onClick={after} title="Shift + End">
          All after
        </Button>
        <Button
          size="small"
          onClick={() => setSelected(new Set(editing.notes.map((note) => note.id)))}
          title="Ctrl + A"
        >
          All
        </Button>
        {strokes.length > 0 && (
          <Button
            size="small"
            onClick={() => setSelected(new Set(strokes.flatMap(({ ids }) => ids)))}
            title="All notes that the same movement of the hand struck"
          >
            Whole stroke
          </Button>
        )}
        {editing.notes.some((note) => note.doubtful) && (
          <Button size="small" onClick={() => doubtful.goTo(1)} title="Key N">
            Next doubtful
          </Button>
        )}
      </div>
      {part.kind === 'notes' && <SoundOfPart part={part} />}
    </>
  );
}

/** "−12 to +40 cents" */
function bendText(notes: readonly CanvasNote[]): string {
  const cents = notes.flatMap(({ bends = [] }) => bends.map(({ semitones }) => Math.round(100 * semitones)));
  const signed = (value: number) => (value > 0 ? `+${value}` : String(value).replace('-', '−'));
  return `${signed(Math.min(0, ...cents))} to ${signed(Math.max(0, ...cents))} cents`;
}

/** "down, 4 notes over 18 ms" */
function strokeText({ ids, direction, spreadSeconds }: Stroke): string {
  const way = direction === 'together' ? 'together' : direction;
  return `${way}, ${countNotes(ids.length)} over ${Math.round(spreadSeconds * 1000)} ms`;
}

/** Which drum is struck, of all selected notes. */
function DrumRow({ notes, onSet }: { notes: readonly CanvasNote[]; onSet: (key: number) => void }) {
  const keys = new Set(notes.map(({ midi }) => Math.round(midi)));
  return (
    <div className="row">
      <span className="label">Drum</span>
      <Select
        aria-label="Drum"
        style={{ width: 140 }}
        value={keys.size === 1 ? [...keys][0] : undefined}
        placeholder={`${keys.size} drums`}
        options={PERCUSSION_KEYS.map((key) => ({ value: key, label: percussionName(key) }))}
        onChange={onSet}
      />
    </div>
  );
}

/** Exact values of one note, typed. */
function SingleNote({
  note,
  drums,
  editing,
  change,
}: {
  note: CanvasNote;
  drums: boolean;
  editing: NoteEditing;
  change: LineSheetProps['change'];
}) {
  const { song, time } = useSong();
  const ids = new Set([note.id]);
  const ticks = time.ticksAt(note.startSeconds);
  const lengthTicks = Math.round(time.ticksAt(note.endSeconds) - ticks);
  const key = keyAt(song, ticks + lengthTicks / 2);
  const degree = key ? degreeOf(note.midi, key) : undefined;
  // A note that starts a little early belongs to the chord it leads into.
  const middleTicks = ticks + lengthTicks / 2;
  const chord = changeAt(chordEntriesOf(song), middleTicks)?.chord;
  const offCents = note.played ? Math.round(note.played.centsOff) : 0;
  const cents = Math.round(centsFromNearest(note.midi));
  const pitchText = `${noteNameIn(note.midi, key)}${cents === 0 ? '' : ` ${cents > 0 ? '+' : ''}${cents}`}`;
  return (
    <>
      {note.played && (
        <>
          <div className="row">
            <span className="label">Played</span>
            <span className="numbers">
              {noteNameIn(note.played.midi, key)}{' '}
              <span
                style={{
                  color: Math.abs(offCents) <= 10 ? colours.inTune : offCents > 0 ? '#A9571B' : colours.flat,
                }}
              >
                {offCents === 0
                  ? 'on pitch'
                  : `${Math.abs(offCents)} cents ${offCents > 0 ? 'sharp' : 'flat'}`}
              </span>
            </span>
          </div>
        </>
      )}
      {note.doubtful && (
        <div className="row">
          <span className="label">Sure</span>
          <span style={{ color: colours.doubt }}>doubtful</span>
        </div>
      )}
      {!drums && (
        <>
          <TypedRow
            label={note.played ? 'Note' : 'Pitch'}
            value={pitchText}
            hint="A note such as F♯4, Bb3 +12, or a number"
            parse={parseNote}
            onSet={(midi) => change(editing.setPitch(ids, midi))}
          />
          {key && (
            <div className="row">
              <span className="label">In {keyName(key)}</span>
              <span>{degree ? `${ordinal(degree)} of the key` : 'outside the key'}</span>
            </div>
          )}
          {chord && (
            <div className="row">
              <span className="label">Over {chordText(chord)}</span>
              <span>{degreeText(degreeOverChord(note.midi, chord))} of the chord</span>
            </div>
          )}
        </>
      )}
      <TypedRow
        label="Start"
        value={formatPosition(time.barAt(Math.round(ticks)))}
        hint="Bar.beat.tick, for example 5.3.120"
        parse={(text) => {
          const position = parsePosition(text);
          return position && time.secondsAt(time.ticksOf(position));
        }}
        onSet={(seconds) => change(editing.move(ids, { seconds: seconds - note.startSeconds, semitones: 0 }))}
      />
      <TypedRow
        label="Length"
        value={String(lengthTicks)}
        unit={`ticks · ${(note.endSeconds - note.startSeconds).toFixed(2)} s`}
        hint="A number of ticks; 960 are a quarter note"
        parse={(text) => (/^\s*\d+\s*$/.test(text) && Number(text) > 0 ? Number(text) : undefined)}
        onSet={(length) => change(editing.trim(note.id, note.startSeconds, time.secondsAt(ticks + length)))}
      />
      {!drums && editing.setLyric && (
        <label className="row">
          <span className="label">Words</span>
          <Input
            key={note.lyric}
            size="small"
            aria-label="Words"
            title="What is sung on the note; a hyphen at its end where the word goes on"
            placeholder="none"
            maxLength={LONGEST_LYRIC}
            style={{ width: 120 }}
            defaultValue={note.lyric}
            onBlur={(event) => {
              const lyric = event.target.value.trim();
              if (lyric !== (note.lyric ?? '')) change(editing.setLyric!(note.id, lyric));
            }}
            onPressEnter={(event) => event.currentTarget.blur()}
          />
        </label>
      )}
    </>
  );
}

/** A value that is typed; what cannot be read is marked and says what is expected. */
function TypedRow({
  label,
  value,
  unit,
  hint,
  parse,
  onSet,
}: {
  label: string;
  value: string;
  unit?: string;
  hint: string;
  parse: (text: string) => number | undefined;
  onSet: (value: number) => void;
}) {
  const [draft, setDraft] = useState<string | null>(null);
  const bad = draft !== null && parse(draft) === undefined;
  const finish = () => {
    const parsed = draft === null ? undefined : parse(draft);
    if (parsed !== undefined && draft !== value) onSet(parsed);
    setDraft(null);
  };
  return (
    <>
      <label className="row">
        <span className="label">{label}</span>
        <span style={{ display: 'flex', alignItems: 'center', gap: 6 }}>
          <Input
            size="small"
            className="numbers"
            aria-label={label}
            status={bad ? 'error' : ''}
            style={{ width: 96, textAlign: 'right' }}
            value={draft ?? value}
            onChange={(event) => setDraft(event.target.value)}
            onBlur={finish}
            onPressEnter={finish}
            onKeyDown={(event) => event.key === 'Escape' && setDraft(null)}
          />
          {unit && <span className="quiet numbers">{unit}</span>}
        </span>
      </label>
      {bad && <div style={{ color: colours.error, fontSize: 13 }}>{hint}</div>}
    </>
  );
}

function ManyNotes({ notes }: { notes: readonly CanvasNote[] }) {
  const { song, time } = useSong();
  const key = keyAt(song, time.ticksAt(notes[0].startSeconds));
  const low = Math.min(...notes.map((note) => note.midi));
  const high = Math.max(...notes.map((note) => note.midi));
  const end = Math.max(...notes.map((note) => note.endSeconds));
  const off = notes.filter((note) => note.played && Math.abs(note.played.centsOff) > OFF_CENTS).length;
  const doubtful = notes.filter((note) => note.doubtful).length;
  return (
    <>
      <div className="row">
        <span className="label">Pitches</span>
        <span>
          {noteNameIn(low, key)} – {noteNameIn(high, key)}
        </span>
      </div>
      <div className="row">
        <span className="label">Time</span>
        <span className="numbers">
          {formatPosition(time.barAt(time.ticksAt(notes[0].startSeconds)))} –{' '}
          {formatPosition(time.barAt(time.ticksAt(end)))}
        </span>
      </div>
      {notes[0].played && (
        <div className="row">
          <span className="label">Off by more than 20 cents</span>
          <span className="numbers">
            {off} of {notes.length}
          </span>
        </div>
      )}
      {doubtful > 0 && (
        <div className="row">
          <span className="label">Doubtful</span>
          <span className="numbers">{doubtful}</span>
        </div>
      )}
    </>
  );
}

function VelocitySlider({ value, onSet }: { value: number; onSet: (value: number) => void }) {
  const [draft, setDraft] = useState(value);
  return (
    <Slider
      ariaLabelForHandle="Velocity slider"
      style={{ flex: 1 }}
      min={1}
      max={127}
      value={draft}
      onChange={setDraft}
      onChangeComplete={onSet}
      tooltip={{ open: false }}
    />
  );
}
