/** The steps of a part above its notes. */
import { useMemo, type ReactNode } from 'react';
import { CheckOutlined, MenuFoldOutlined, MenuUnfoldOutlined } from '@ant-design/icons';
import { useNavigate } from 'react-router';
import {
  chosenPassages,
  isDoubtful,
  melodyLineOf,
  shownNotes,
  type Part,
  type PlacedRecording,
} from '@plundra/core/song';
import { Button, Select } from '../../controls/index.tsx';
import { useSong } from '../../song/SongContext.tsx';
import { partColours } from '../../theme/tokens.ts';
import { CutName } from '../../controls/CutName.tsx';
import { movedCount, OFF_CENTS, offCount } from './correcting.ts';
import { countHits, countNotes } from './noteEditing.ts';
import type { ReadingUse } from './useReading.ts';

export type StepName = 'read' | 'clean' | 'tune' | 'time' | 'use';

interface Props {
  part: Part;
  /** Those of a recording. */
  passages: readonly PlacedRecording[];
  reading: ReadingUse;
  step: StepName;
  sheetOpen: boolean;
  onStep(step: StepName): void;
  onSheet(): void;
  children: ReactNode;
}

/** The steps of the work on a part, each with its count. */
export function StepStrip({ part, passages, reading, step, sheetOpen, onStep, onSheet, children }: Props) {
  const { song } = useSong();
  const navigate = useNavigate();
  const lines = passages.flatMap(({ line: read }) => read ?? []);
  const line = lines.at(0);
  const doubtful = lines.reduce((sum, { notes }) => sum + notes.filter(isDoubtful).length, 0);
  const melodies = useMemo(() => passages.flatMap((each) => melodyLineOf(each) ?? []), [passages]);
  const melody = melodies.at(0);
  const off = useMemo(() => melodies.reduce((sum, each) => sum + offCount(each), 0), [melodies]);
  const stretch = passages.find((each) => each.stretch)?.stretch;
  const moved = useMemo(
    () =>
      melodies.length > 0
        ? melodies.reduce((sum, each) => sum + movedCount(each), 0)
        : (stretch?.onsets.filter((onset) => onset.targetSeconds !== undefined).length ?? 0),
    [melodies, stretch],
  );
  const transposed = melody ? 0 : (stretch?.semitones ?? 0);
  const count = part.kind === 'drums' || line?.reads === 'hits' ? countHits : countNotes;
  const noteCount =
    part.kind === 'recording'
      ? lines.reduce((sum, { notes }) => sum + notes.length, 0)
      : chosenPassages(part).reduce((sum, passage) => sum + shownNotes(passage).length, 0);
  const made = song.parts.filter(
    (each) => each.kind !== 'recording' && each.madeFromPartId === part.id,
  ).length;
  const steps: { name: StepName; label: string; count: string; done: boolean }[] =
    part.kind === 'recording'
      ? [
          {
            name: 'read',
            label: 'Read',
            count: reading.status
              ? `${Math.round(reading.status.progress * 100)} %`
              : line
                ? count(noteCount)
                : 'not yet',
            done: !!line,
          },
          {
            name: 'clean',
            label: 'Clean up',
            count: line ? `${doubtful} doubtful` : '',
            done: !!line && doubtful === 0,
          },
          {
            name: 'tune',
            label: 'Tune',
            count: melody
              ? `${off} off`
              : transposed !== 0
                ? `${transposed > 0 ? '+' : '−'}${Math.abs(transposed)}`
                : '',
            done: (!!melody && noteCount > 0 && off === 0) || transposed !== 0,
          },
          {
            name: 'time',
            label: 'Time',
            count: moved > 0 ? `${moved} moved` : '',
            done: moved > 0,
          },
          {
            name: 'use',
            label: 'Use',
            count: made > 0 ? `${made} made` : '',
            done: made > 0,
          },
        ]
      : [
          { name: 'clean', label: 'Edit', count: count(noteCount), done: false },
          { name: 'time', label: 'Time', count: '', done: false },
        ];
  return (
    <div className="steps">
      <Select
        aria-label="Part"
        size="small"
        value={part.id}
        style={{ width: 150 }}
        onChange={(id) => void navigate(`../notes/${id}`)}
        options={song.parts.map((each) => ({
          value: each.id,
          label: (
            <span className="named-part">
              <span
                className="mark"
                style={{ background: partColours[each.colour], transform: 'scale(0.85)', marginRight: 4 }}
              >
                {each.mark}
              </span>
              <CutName name={each.name} />
            </span>
          ),
        }))}
      />
      {steps.map(({ name, label, count, done }, i) => (
        <button
          key={name}
          className={`step${name === step ? ' current' : ''}${done ? ' done' : ''}`}
          aria-current={name === step ? 'step' : undefined}
          title={name === 'tune' ? `Notes further than ${OFF_CENTS} cents from their rail` : undefined}
          onClick={() => onStep(name)}
          data-testid={`step-${name}`}
        >
          {steps.length > 1 && <span className="number">{done ? <CheckOutlined /> : i + 1}</span>}
          {label}
          <span className="count numbers">{count}</span>
        </button>
      ))}
      <span className="gap" />
      {children}
      <Button
        className={`sheet-toggle${sheetOpen ? ' open' : ''}`}
        size="small"
        type="text"
        aria-label={sheetOpen ? 'Close the side sheet' : 'Open the side sheet'}
        icon={sheetOpen ? <MenuUnfoldOutlined /> : <MenuFoldOutlined />}
        onClick={onSheet}
      />
    </div>
  );
}
