/** Tune: correction of pitch for the selected notes, or for all. */
import { useState } from 'react';
import { WarningFilled } from '@ant-design/icons';
import { correctedNote, pitchFigures, risksOf, riskText, wantsAnotherTake } from '@plundra/core/retune';
import {
  railMidi,
  type Edit,
  type PlacedRecording,
  type RecordingPart,
  type SimpleEdit,
} from '@plundra/core/song';
import { keyName, noteNameIn, parseNote } from '@plundra/core/theory';
import { Button, Input, Slider } from '../../controls/index.tsx';
import { useSong } from '../../song/SongContext.tsx';
import { colours } from '../../theme/tokens.ts';
import {
  inEach,
  meantIn,
  notesMeant,
  shared,
  keyOfNotes,
  tuneNotes,
  untuneNotes,
  type TuneSettings,
} from './correcting.ts';
import { countNotes, type LabelledEdit } from './noteEditing.ts';

interface Props {
  part: RecordingPart;
  /** Those of the part whose melody was read, in order of time. */
  passages: readonly PlacedRecording[];
  selected: ReadonlySet<string>;
  setSelected(ids: ReadonlySet<string>): void;
  change(change: LabelledEdit | undefined): void;
}

export function TuneSheet({ part, passages, selected, setSelected, change }: Props) {
  const { song, time, apply } = useSong();
  const [typed, setTyped] = useState<string | null>(null);
  const meant = meantIn(passages, selected);
  const line = meant.at(0)?.passage.line;
  if (!line)
    return <p className="quiet">This line has no notes that could be tuned. Read the melody again.</p>;
  const notes = notesMeant(meant);
  const tune = (settings: Partial<TuneSettings>) =>
    change(
      inEach(meant, ({ passage, notes: own }) =>
        tuneNotes(part.id, passage, own, settings, keyOfNotes(song, passage, time)),
      ),
    );
  const lines = meant.map(({ passage, notes: own }) => ({
    notes: own,
    tuningCents: passage.line!.tuningCents,
  }));
  const before = pitchFigures(lines, 'played');
  const after = pitchFigures(lines, 'sounding');
  const tuningOf = new Map(lines.flatMap((each) => each.notes.map((note) => [note, each.tuningCents])));
  const keys = [
    ...new Set(meant.flatMap(({ passage, notes: own }) => own.map(keyOfNotes(song, passage, time)))),
  ];
  const anyKey = keys.some(Boolean);
  const rail = shared(notes, (note) => railMidi(note, tuningOf.get(note)!));
  const takeIds = [...new Set(meant.map(({ passage }) => passage.takeId))];
  const eachTake = (make: (takeId: string) => SimpleEdit): Edit => ({
    type: 'batch',
    edits: takeIds.map(make),
  });
  const railName = rail === undefined ? '' : noteNameIn(Math.round(rail), keys[0]);
  const risky = notes.filter(
    (note) => note.target && risksOf(correctedNote(note, tuningOf.get(note)!)).length > 0,
  );
  const typedMidi = typed === null ? undefined : parseNote(typed);
  const toTyped = () => {
    if (typedMidi !== undefined) tune({ goal: { midi: typedMidi } });
    setTyped(null);
  };
  return (
    <>
      <h2>Tune</h2>
      <p className="quiet" data-testid="tune-scope">
        {selected.size > 0
          ? `For the ${countNotes(notes.length)} selected.`
          : `For all ${countNotes(notes.length)}.`}
      </p>
      <Button block type="primary" onClick={() => tune({ centre: 1 })} title="Key T">
        Pull to the rails
      </Button>
      <Share
        label="Pull"
        value={shared(notes, (note) => note.target?.centre ?? 0)}
        onChange={(centre) => tune({ centre })}
      />
      <Share
        label="Vibrato kept"
        value={shared(notes, (note) => note.target?.vibratoKept ?? 1)}
        onChange={(vibratoKept) => tune({ vibratoKept })}
      />
      <Share
        label="Wander kept"
        value={shared(notes, (note) => note.target?.driftKept ?? 1)}
        onChange={(driftKept) => tune({ driftKept })}
      />
      <h3>Rails</h3>
      <div className="row">
        <Button size="small" onClick={() => tune({ goal: 'nearest' })}>
          Nearest note
        </Button>
        <Button
          size="small"
          disabled={!anyKey}
          title={
            anyKey
              ? keys.map((key) => (key ? keyName(key) : 'no key')).join(', then ')
              : 'Set the key of the song first'
          }
          onClick={() => tune({ goal: 'scale' })}
        >
          Scale of the key
        </Button>
      </div>
      {Math.abs(line.tuningCents) >= 1 && (
        <div className="row">
          <span className="label">
            They lie {Math.abs(line.tuningCents).toFixed(0)} cents {line.tuningCents < 0 ? 'low' : 'high'}, as
            the recording does
          </span>
          <Button
            size="small"
            onClick={() =>
              apply(
                'Set tuning to A4 = 440 Hz',
                eachTake((takeId) => ({ type: 'line.tuning', partId: part.id, takeId, tuningCents: 0 })),
              )
            }
          >
            To A4 = 440 Hz
          </Button>
        </div>
      )}
      <div className="row">
        <span className="label">Note</span>
        <Input
          size="small"
          aria-label="Note of the rails"
          style={{ width: 120 }}
          placeholder={railName || 'several'}
          value={typed ?? railName}
          status={typed !== null && typedMidi === undefined ? 'error' : undefined}
          onChange={(event) => setTyped(event.target.value)}
          onPressEnter={toTyped}
          onBlur={toTyped}
        />
      </div>
      <Figures before={before} after={after} />
      {risky.length > 0 && (
        <div className="row" data-testid="risks">
          <span>
            <WarningFilled style={{ color: colours.error, marginRight: 6 }} />
            {countNotes(risky.length)} may be heard as corrected:{' '}
            {riskText(risky.map((note) => risksOf(correctedNote(note, tuningOf.get(note)!))))}
          </span>
          <Button size="small" onClick={() => setSelected(new Set(risky.map((note) => note.id)))}>
            Select
          </Button>
        </div>
      )}
      {passages.some(({ line: read }) => read && wantsAnotherTake(read)) && (
        <p className="quiet">
          More than half of this take is off by more than a third of a semitone. Recording it again will sound
          better than correcting it.
        </p>
      )}
      <h3>Formants</h3>
      <div className="row">
        <Slider
          ariaLabelForHandle="Formants in semitones"
          style={{ flex: 1 }}
          min={-6}
          max={6}
          step={0.5}
          included={false}
          marks={{ 0: '' }}
          key={line.formantSemitones ?? 0}
          defaultValue={line.formantSemitones ?? 0}
          onChangeComplete={(semitones) =>
            apply(
              'Shift formants',
              eachTake((takeId) => ({ type: 'line.formants', partId: part.id, takeId, semitones })),
            )
          }
        />
        <span className="numbers label">{formatSigned(line.formantSemitones ?? 0)}</span>
      </div>
      <p className="quiet">
        They stay where they are when notes move; shifted, the voice grows darker or brighter.
      </p>
      <Button
        block
        disabled={!notes.some((note) => note.target)}
        onClick={() => change(inEach(meant, ({ passage, notes: own }) => untuneNotes(part.id, passage, own)))}
      >
        Pitch as played
      </Button>
    </>
  );
}

/** A share in per cent that is applied when it is let go. */
export function Share({
  label,
  value,
  onChange,
}: {
  label: string;
  value: number | undefined;
  onChange(value: number): void;
}) {
  const [dragged, setDragged] = useState<number | null>(null);
  const shown = dragged ?? (value === undefined ? undefined : Math.round(value * 100));
  return (
    <div className="row">
      <span className="label" style={{ width: 92 }}>
        {label}
      </span>
      <Slider
        ariaLabelForHandle={`${label} in per cent`}
        style={{ flex: 1 }}
        min={0}
        max={100}
        value={shown ?? 0}
        tooltip={{ open: false }}
        onChange={setDragged}
        onChangeComplete={(percent) => {
          setDragged(null);
          onChange(percent / 100);
        }}
      />
      <span className="numbers" style={{ width: 46, textAlign: 'right' }}>
        {shown === undefined ? 'mixed' : `${shown} %`}
      </span>
    </div>
  );
}

function Figures({ before, after }: Record<'before' | 'after', { medianCents: number; worstCents: number }>) {
  const cents = (value: number) => value.toFixed(0);
  return (
    <table className="figures numbers" data-testid="pitch-figures">
      <thead>
        <tr>
          <th>Off the rail</th>
          <th>before</th>
          <th>after</th>
        </tr>
      </thead>
      <tbody>
        <tr>
          <td>median</td>
          <td>{cents(before.medianCents)} cents</td>
          <td>{cents(after.medianCents)} cents</td>
        </tr>
        <tr>
          <td>worst</td>
          <td>{cents(before.worstCents)} cents</td>
          <td>{cents(after.worstCents)} cents</td>
        </tr>
      </tbody>
    </table>
  );
}

function formatSigned(value: number): string {
  return value > 0 ? `+${value}` : String(value).replace('-', '−');
}

export type { Props as CorrectionSheetProps };
