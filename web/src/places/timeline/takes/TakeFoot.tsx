/** What is done with all takes of a table: read them, take the best of each phrase, set the seams, print what was chosen. */
import { memo, useRef, useState } from 'react';
import { App, Button, Checkbox, InputNumber, Popover, Progress, Select } from 'antd';
import { StarOutlined } from '@ant-design/icons';
import { useQueryClient } from '@tanstack/react-query';
import {
  melodyLineOf,
  planChoose,
  type BestOfPhrase,
  type RecordingPart,
  type TakeTable,
  type TakeWeights,
} from '@plundra/core/song';
import { planFoundPhrases } from '../../../song/recording/findPhrases.ts';
import { useRecord } from '../../../song/recording/RecordingContext.ts';
import { readTakes } from '../../../song/readTakes.ts';
import { useSong } from '../../../song/SongContext.tsx';
import { usePrintPart } from './usePrintPart.ts';
import { formulaText, nameOfTake, reasonText } from './takeText.ts';
import { TOGETHER, type HearingTakes } from './useHearTakes.ts';

const SEAMS_MS = [2, 10, 20, 40, 80, 150];
const FIRST_SEAM_MS = 10;

interface Props {
  part: RecordingPart;
  table: TakeTable;
  ranking: readonly BestOfPhrase[];
  selected: number;
  weights: TakeWeights;
  setWeights(weights: TakeWeights): void;
  hearing: HearingTakes;
}

/** Not painted again while the view moves. */
export const TakeFoot = memo(function TakeFoot({
  part,
  table,
  ranking,
  selected,
  weights,
  setWeights,
  hearing,
}: Props) {
  const { song, apply } = useSong();
  const { setInto, setOpen } = useRecord();
  const queries = useQueryClient();
  const { message } = App.useApp();
  const [share, setShare] = useState<number | null>(null);
  const running = useRef<AbortController | null>(null);
  const { printing, print, stop: stopPrinting } = usePrintPart(part);
  const unread = table.takes.filter((take) => !melodyLineOf(take));

  const read = async () => {
    const controller = new AbortController();
    running.current = controller;
    setShare(0);
    try {
      const edits = await readTakes(part, unread, setShare, controller.signal);
      apply(`Read the takes of ${part.name}`.slice(0, 200), { type: 'batch', edits });
    } catch (error) {
      if (!controller.signal.aborted)
        void message.error(
          error instanceof Error ? error.message : 'The takes could not be read. Try again.',
          7,
        );
    } finally {
      setShare(null);
    }
  };
  const best = () => {
    const choices = ranking.flatMap(({ phrase, ranking: [first] }) =>
      first ? [{ phrase, takeId: first.take.id }] : [],
    );
    const edit = planChoose(song, part.id, choices, () => crypto.randomUUID());
    if (edit) apply(`Best takes of ${part.name}`.slice(0, 200), edit);
    else void message.info('The best take of each phrase is chosen already.', 3);
  };
  const findPhrases = async () => {
    const edit = await planFoundPhrases(song, part.id, queries, () => crypto.randomUUID()).catch(
      () => undefined,
    );
    if (edit) apply(`Find the phrases of ${part.name}`.slice(0, 200), edit);
    else
      void message.info(
        'There is no further place where all takes are quiet. Cut the part with X where a phrase should end.',
        6,
      );
  };
  const reason = ranking.at(selected) && reasonText(part, ranking[selected]);
  const chosen = table.phrases
    .map(({ chosenId }) => table.takes.find(({ id }) => id === chosenId))
    .map((take) => (take ? nameOfTake(part, take).replace(/^Take /, '') : '–'))
    .join(' · ');
  return (
    <div className="take-foot">
      <div className="take-buttons">
        {share !== null ? (
          <>
            <span className="quiet">Reading {unread.length} takes</span>
            <Progress percent={Math.round(share * 100)} size="small" style={{ width: 160 }} />
            <Button size="small" onClick={() => running.current?.abort()}>
              Stop
            </Button>
          </>
        ) : unread.length > 0 ? (
          <Button size="small" type="primary" onClick={() => void read()}>
            Read {unread.length === table.takes.length ? 'the takes' : `${unread.length} more`}
          </Button>
        ) : (
          <Button size="small" icon={<StarOutlined />} onClick={best}>
            Best of each
          </Button>
        )}
        <Button
          size="small"
          aria-pressed={hearing.takeId === TOGETHER}
          type={hearing.takeId === TOGETHER ? 'primary' : 'default'}
          onClick={() => hearing.hear(TOGETHER)}
        >
          Hear all together
        </Button>
        <span className="gap" />
        <Button size="small" onClick={() => void findPhrases()}>
          Find phrases
        </Button>
        <Select
          aria-label="Length of the seams"
          size="small"
          value={Math.round((part.seamSeconds ?? FIRST_SEAM_MS / 1000) * 1000)}
          style={{ width: 124 }}
          options={SEAMS_MS.map((ms) => ({ value: ms, label: `Seams: ${ms} ms` }))}
          onChange={(ms) =>
            apply(`Set the seams of ${part.name}`.slice(0, 200), {
              type: 'part.set',
              partId: part.id,
              patch: { seamSeconds: ms === FIRST_SEAM_MS ? null : ms / 1000 },
            })
          }
        />
        {printing === null ? (
          <Button
            size="small"
            title="A new part with what is heard of this one, as one recording"
            onClick={() => void print()}
          >
            Print as one
          </Button>
        ) : (
          <Button size="small" onClick={stopPrinting}>
            Stop printing, {Math.round(printing * 100)} %
          </Button>
        )}
        <Button
          size="small"
          onClick={() => {
            setInto(part.id);
            setOpen(true);
          }}
        >
          Record a take
        </Button>
      </div>
      <div className="take-words">
        <div>
          Best is the least of <b>{formulaText(weights)}</b>.
          <Popover
            trigger="click"
            title="How much each counts"
            content={<Weights weights={weights} setWeights={setWeights} />}
          >
            <Button type="link" size="small">
              Change
            </Button>
          </Popover>
          <span className="quiet">Chosen: {chosen}</span>
        </div>
        <div className="quiet" role="status">
          {reason ? `Phrase ${selected + 1}: ${reason}.` : 'Read the takes to see how far off each one is.'}
        </div>
      </div>
    </div>
  );
});

function Weights({ weights, setWeights }: Pick<Props, 'weights' | 'setWeights'>) {
  const field = (label: string, key: keyof TakeWeights, step: number, most: number) => (
    <div className="row">
      <Checkbox
        checked={weights[key] > 0}
        onChange={({ target }) => setWeights({ ...weights, [key]: target.checked ? step : 0 })}
      >
        {label}
      </Checkbox>
      <InputNumber
        size="small"
        aria-label={`Weight of ${label}`}
        style={{ width: 70 }}
        min={0}
        max={most}
        step={step}
        value={weights[key]}
        onChange={(value) => value !== null && setWeights({ ...weights, [key]: value })}
      />
    </div>
  );
  return (
    <div style={{ width: 230 }}>
      {field('each cent off', 'cents', 0.5, 10)}
      {field('each millisecond off', 'ms', 0.5, 10)}
      {field('each doubtful note', 'doubtful', 5, 100)}
      <p className="quiet" style={{ margin: '6px 0 0' }}>
        Cents from the notes that were meant, milliseconds from the sixteenths of the song: the middle one of
        each phrase.
      </p>
    </div>
  );
}
