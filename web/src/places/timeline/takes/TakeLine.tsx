/** One take of a take table: hear it, and what it has in each phrase. */
import { memo, useEffect, useLayoutEffect, useMemo, useRef, useState, type CSSProperties } from 'react';
import { CaretRightFilled, EllipsisOutlined, PauseOutlined } from '@ant-design/icons';
import { App, Button, Dropdown, Input } from 'antd';
import { useQuery } from '@tanstack/react-query';
import { useNavigate } from 'react-router';
import { median } from '@plundra/core/signal';
import {
  EditError,
  formatPosition,
  melodyLineOf,
  placesOfTake,
  planTakeName,
  planTakeRemoval,
  type Part,
  type Phrase,
  type TableTake,
  type TakeFigures,
  type TimeMap,
} from '@plundra/core/song';
import { prepareSurface } from '../../../canvas/surface.ts';
import type { TimeView } from '../../../canvas/view.ts';
import { contourOf, readingQuery } from '../../../song/queries.ts';
import { useSong } from '../../../song/SongContext.tsx';
import { useRecordings } from '../../../song/useRecording.ts';
import type { PitchLanes } from '../pitchLanes.ts';
import { drawTakeFigures } from './drawTakeFigures.ts';
import { drawTakeRow, spansOf } from './drawTakeRow.ts';
import { figuresSentence } from './takeText.ts';

interface Props {
  part: Part;
  take: TableTake;
  phrases: readonly Phrase[];
  /** For each phrase; undefined where nothing is read. */
  figures: readonly (TakeFigures | undefined)[];
  lanes: PitchLanes;
  view: TimeView;
  time: TimeMap;
  selected: number;
  hearing: boolean;
  onHear(takeId: string): void;
  onChoose(phrase: number, takeId: string): void;
}

export const TakeLine = memo(function TakeLine(props: Props) {
  const { part, take, figures, time, hearing, onHear } = props;
  const { name } = take;
  return (
    <div className="take-line" data-testid="take-line" data-take-id={take.id}>
      <TakeHead {...{ part, take, figures, time, hearing, onHear, name }} />
      <TakeCells {...props} name={name} />
    </div>
  );
});

type HeadProps = Pick<Props, 'part' | 'take' | 'figures' | 'time' | 'hearing' | 'onHear'> & { name: string };

/** Not painted again while the view moves. */
const TakeHead = memo(function TakeHead({ part, take, figures, time, hearing, onHear, name }: HeadProps) {
  const { apply } = useSong();
  const navigate = useNavigate();
  const { message, modal } = App.useApp();
  const [renaming, setRenaming] = useState(false);
  const read = figures.filter((each) => each !== undefined);
  const rename = (typed: string) => {
    setRenaming(false);
    // Nothing was typed: it keeps the name of its place.
    if (typed.trim() === name) return;
    try {
      const edit = planTakeName(part, take.id, typed);
      if (edit) apply(`Rename ${name}`.slice(0, 200), edit);
    } catch (error) {
      if (!(error instanceof EditError)) throw error;
      void message.warning(error.message, 5);
    }
  };
  const remove = () => {
    const go = () => apply(`Remove ${name} of ${part.name}`.slice(0, 200), planTakeRemoval(part, take.id));
    const places = placesOfTake(part, take.id);
    if (places.length === 0) return void go();
    const where = places.map((ticks) => formatPosition(time.barAt(ticks))).slice(0, 6);
    modal.confirm({
      title: `${name} sounds at ${where.join(', ')}${places.length > where.length ? ' and elsewhere' : ''}`,
      content: 'Without it nothing is heard there until you take another. Undo brings it back.',
      okText: 'Remove it',
      onOk: () => void go(),
    });
  };
  return (
    <div className="part-head">
      <div className="names">
        {renaming ? (
          <Input
            size="small"
            autoFocus
            aria-label="Name of the take"
            defaultValue={name}
            maxLength={60}
            onBlur={(event) => rename(event.target.value)}
            onPressEnter={(event) => event.currentTarget.blur()}
            onKeyDown={(event) => event.key === 'Escape' && setRenaming(false)}
          />
        ) : (
          <b className="take-name">{name}</b>
        )}
        <Button
          size="small"
          icon={hearing ? <PauseOutlined /> : <CaretRightFilled />}
          aria-label={hearing ? `Stop hearing ${name}` : `Hear ${name}`}
          aria-pressed={hearing}
          type={hearing ? 'primary' : 'default'}
          onClick={() => onHear(take.id)}
        >
          Hear
        </Button>
        <Dropdown
          trigger={['click']}
          menu={{
            items: [
              { key: 'notes', label: 'Open in Notes' },
              { key: 'name', label: 'Rename' },
              { key: 'remove', label: 'Remove', danger: true },
            ],
            onClick: ({ key }) => {
              if (key === 'notes') void navigate(`../notes/${part.id}`);
              else if (key === 'name') setRenaming(true);
              else remove();
            },
          }}
        >
          <Button size="small" type="text" icon={<EllipsisOutlined />} aria-label={`More of ${name}`} />
        </Dropdown>
      </div>
      <div className="quiet numbers">
        {read.length > 0 ? `median ${figuresOfAll(read)}` : take.recorded ? 'not read yet' : 'no notes'}
      </div>
    </div>
  );
});

/** "6 c · 11 ms", "11 ms · 2 missed" */
function figuresOfAll(read: readonly TakeFigures[]): string {
  const middle = (values: readonly number[]) => Math.round(median(values));
  const cents = read.flatMap((each) => each.cents ?? []);
  const missed = read.reduce((sum, each) => sum + each.missed, 0);
  return [
    cents.length > 0 && `${middle(cents)} c`,
    `${middle(read.map(({ ms }) => ms))} ms`,
    missed > 0 && `${missed} missed`,
  ]
    .filter(Boolean)
    .join(' · ');
}

function TakeCells({ part: _part, ...props }: Props & { name: string }) {
  const { take, phrases, figures, lanes, view, time, selected, name, onChoose } = props;
  const canvas = useRef<HTMLCanvasElement>(null);
  const [width, setWidth] = useState(0);
  useLayoutEffect(() => {
    const element = canvas.current!;
    const observer = new ResizeObserver(() => setWidth(element.clientWidth));
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  const hash = take.recorded?.recordingHash;
  const hashes = useMemo(() => (hash === undefined ? [] : [hash]), [hash]);
  const { known } = useRecordings(hashes);
  const readingId = take.recorded && melodyLineOf(take.recorded)?.readingId;
  const { data } = useQuery({ ...readingQuery(readingId ?? ''), enabled: readingId !== undefined });
  const contour = useMemo(() => data && contourOf(data), [data]);
  const spans = useMemo(
    () =>
      spansOf(
        phrases.flatMap(({ cells }) => cells.get(take.id) ?? []),
        take,
        time,
      ),
    [phrases, take, time],
  );
  useEffect(() => {
    const surface = prepareSurface(canvas.current);
    if (!surface) return;
    drawTakeRow(surface, { take, spans, contour, lanes, view, recordings: known });
    drawTakeFigures(surface, { take, phrases, figures, view, time });
  }, [take, spans, contour, lanes, view, known, width, phrases, figures, time]);
  return (
    <div className="take-columns">
      <canvas ref={canvas} aria-hidden />
      {/* Scrolling moves all of them together. */}
      <div
        className="take-cells"
        style={{ transform: `translateX(${-view.startSeconds * view.pixelsPerSecond}px)` }}
      >
        <CellButtons {...{ take, phrases, figures, time, selected, name, onChoose }} />
      </div>
    </div>
  );
}

type CellsProps = Pick<Props, 'take' | 'phrases' | 'figures' | 'time' | 'selected' | 'onChoose'> & {
  name: string;
};

/** What is clicked, over the picture. Where they lie follows from the numbers of the table: they are painted again only when what they say changes. */
const CellButtons = memo(function CellButtons({
  take,
  phrases,
  figures,
  time,
  selected,
  name,
  onChoose,
}: CellsProps) {
  return phrases.map((phrase, i) => {
    if (!phrase.cells.has(take.id)) return null;
    const from = time.secondsAt(phrase.startTicks);
    const seconds = time.secondsAt(phrase.endTicks) - from;
    const chosen = phrase.chosenId === take.id;
    const found = figures[i];
    const says = found ? figuresSentence(found) : take.recorded ? 'not read yet' : 'no notes';
    return (
      <button
        key={i}
        className={`take-cell${chosen ? ' chosen' : ''}${i === selected ? ' selected' : ''}`}
        style={{ '--from': from, '--seconds': seconds } as CSSProperties}
        aria-label={`Phrase ${i + 1} from ${name}: ${says}`}
        aria-pressed={chosen}
        title={says}
        onClick={() => onChoose(i, take.id)}
      />
    );
  });
});
