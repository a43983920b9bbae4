/** What is done with all takes of a table, and which of them is best and why. */
import { memo } from 'react';
import { App, Button, Checkbox, InputNumber, Popover } from 'antd';
import { StarOutlined } from '@ant-design/icons';
import {
  melodyLineOf,
  planChoose,
  type BestOfPhrase,
  type Part,
  type TakeTable,
  type TakeWeights,
} from '@plundra/core/song';
import { useSong } from '../../../song/SongContext.tsx';
import { NoteTakeTools } from './NoteTakeTools.tsx';
import { ReadTakes, SoundTakeTools } from './SoundTakeTools.tsx';
import { formulaText, reasonText } from './takeText.ts';
import { TOGETHER, type HearingTakes } from './useHearTakes.ts';

interface Props {
  part: Part;
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
  const { message } = App.useApp();
  const played = part.kind !== 'recording';
  const unread = table.takes.flatMap(({ recorded }) =>
    recorded && !melodyLineOf(recorded) ? [recorded] : [],
  );
  const best = () => {
    const choices = ranking.flatMap(({ phrase, ranking: [first] }) =>
      first ? [{ phrase, takeId: first.take.id }] : [],
    );
    const edit = planChoose(song, part.id, choices, () => crypto.randomUUID());
    if (edit) apply(`Best takes of ${part.name}`.slice(0, 200), edit);
    else void message.info('The best take of each phrase is chosen already.', 3);
  };
  const ranked = ranking.at(selected);
  const reason = ranked && reasonText(ranked, weights);
  const chosen = table.phrases
    .map(({ chosenId }) => table.takes.find(({ id }) => id === chosenId)?.name.replace(/^Take /, '') ?? '–')
    .join(' · ');
  return (
    <div className="take-foot">
      <div className="take-buttons">
        {part.kind === 'recording' && unread.length > 0 ? (
          <ReadTakes part={part} unread={unread} all={unread.length === table.takes.length} />
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
        {part.kind === 'recording' ? (
          <SoundTakeTools part={part} />
        ) : (
          <NoteTakeTools part={part} table={table} />
        )}
      </div>
      <div className="take-words">
        <div>
          Best is the least of <b>{formulaText(weights, played)}</b>.
          <Popover
            trigger="click"
            title="How much each counts"
            content={<Weights weights={weights} setWeights={setWeights} played={played} />}
          >
            <Button type="link" size="small">
              Change
            </Button>
          </Popover>
          <span className="quiet">Chosen: {chosen}</span>
        </div>
        <div className="quiet" role="status">
          {reason
            ? `Phrase ${selected + 1}: ${reason}.`
            : played
              ? 'Nothing was played in this phrase.'
              : 'Read the takes to see how far off each one is.'}
        </div>
      </div>
    </div>
  );
});

function Weights({
  weights,
  setWeights,
  played,
}: Pick<Props, 'weights' | 'setWeights'> & { played: boolean }) {
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
      {!played && field('each cent off', 'cents', 0.5, 10)}
      {field('each millisecond off', 'ms', 0.5, 10)}
      {!played && field('each doubtful note', 'doubtful', 5, 100)}
      {played && field('each missed note', 'missed', 5, 100)}
      <p className="quiet" style={{ margin: '6px 0 0' }}>
        {played
          ? 'Milliseconds from the sixteenths of the song: the middle one of each phrase. Missed is what more than half of the takes play and this one does not.'
          : 'Cents from the notes that were meant, milliseconds from the sixteenths of the song: the middle one of each phrase.'}
      </p>
    </div>
  );
}
