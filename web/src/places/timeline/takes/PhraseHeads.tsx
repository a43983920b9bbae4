/** The phrases of a take table over its rows; the boundary between two is dragged, or moved with the arrows. */
import { memo, useState, type CSSProperties, type KeyboardEvent, type PointerEvent } from 'react';
import { App } from 'antd';
import {
  EditError,
  formatPosition,
  planBoundary,
  type Phrase,
  type Part,
  type TakeTable,
} from '@plundra/core/song';
import { followPointer } from '../../../canvas/followPointer.ts';
import { secondsOf, type TimeView } from '../../../canvas/view.ts';
import { useSong } from '../../../song/SongContext.tsx';

/** A boundary moves by this with an arrow, and by a tenth of it with Alt. */
const ARROW_SECONDS = 0.05;

interface Props {
  part: Part;
  table: TakeTable;
  selected: number;
  onSelect(phrase: number): void;
}

/** Not painted again while the view moves: the table says where it is by its style. */
export const PhraseHeads = memo(function PhraseHeads({
  part,
  table: { takes, phrases },
  selected,
  onSelect,
}: Props) {
  const { song, time, apply } = useSong();
  const { message } = App.useApp();
  const [dragged, setDragged] = useState<{ ticks: number; x: number } | null>(null);
  const move = (fromTicks: number, toSeconds: number) => {
    try {
      const edit = planBoundary(song, part.id, fromTicks, Math.round(time.ticksAt(Math.max(0, toSeconds))));
      if (edit) apply(`Move the end of a phrase of ${part.name}`.slice(0, 200), edit);
    } catch (error) {
      if (!(error instanceof EditError)) throw error;
      void message.warning(error.message, 5);
    }
  };
  const drag = (event: PointerEvent<HTMLElement>, ticks: number) => {
    event.preventDefault();
    event.stopPropagation();
    const left = event.currentTarget.parentElement!.getBoundingClientRect().left;
    const view = viewOf(event.currentTarget);
    let to: number | undefined;
    followPointer({
      moved({ clientX }) {
        to = clientX - left;
        setDragged({ ticks, x: to });
      },
      dropped() {
        if (to !== undefined) move(ticks, secondsOf(view, to));
      },
      ended: () => setDragged(null),
    });
  };
  const onKey = (event: KeyboardEvent, ticks: number) => {
    const way = event.key === 'ArrowLeft' ? -1 : event.key === 'ArrowRight' ? 1 : 0;
    if (way === 0) return;
    event.preventDefault();
    event.stopPropagation();
    move(ticks, time.secondsAt(ticks) + way * ARROW_SECONDS * (event.altKey ? 0.1 : 1));
  };
  const inner = phrases.filter(({ startTicks }, i) => i > 0 && phrases[i - 1].endTicks === startTicks);
  return (
    <div className="take-heads">
      <div className="part-head">
        <b>{takes.length} takes</b>{' '}
        <span className="quiet">
          {part.kind === 'recording' ? 'off by cents and ms' : 'off by ms, and notes missed'}
        </span>
      </div>
      <div className="take-columns">
        {phrases.map((phrase, i) => (
          <button
            key={i}
            className={i === selected ? 'phrase selected' : 'phrase'}
            aria-label={`Phrase ${i + 1}, ${placeOf(phrase)}`}
            aria-pressed={i === selected}
            style={placed(time.secondsAt(phrase.startTicks), time.secondsAt(phrase.endTicks))}
            onClick={() => onSelect(i)}
          >
            <span className="word">Phrase </span>
            {i + 1}
          </button>
        ))}
        {inner.map(({ startTicks }) => (
          <span
            key={startTicks}
            role="slider"
            tabIndex={0}
            className="phrase-edge"
            aria-label={`End of phrase ${phrases.findIndex(({ endTicks }) => endTicks === startTicks) + 1}`}
            aria-valuenow={startTicks}
            aria-valuetext={formatPosition(time.barAt(startTicks))}
            title="Drag to let the phrase end elsewhere (← →, with Alt finer)"
            style={
              dragged?.ticks === startTicks
                ? { left: dragged.x }
                : placed(time.secondsAt(startTicks), time.secondsAt(startTicks))
            }
            onPointerDown={(event) => drag(event, startTicks)}
            onKeyDown={(event) => onKey(event, startTicks)}
          />
        ))}
      </div>
    </div>
  );

  function placeOf({ startTicks, endTicks }: Phrase): string {
    return `${formatPosition(time.barAt(startTicks))} to ${formatPosition(time.barAt(endTicks))}`;
  }
});

/** A cell of the table from one second of the song to another. */
const placed = (from: number, to: number) => ({ '--from': from, '--seconds': to - from }) as CSSProperties;

/** What the table says of where it is. */
function viewOf(inside: HTMLElement): TimeView {
  const { style } = inside.closest<HTMLElement>('.take-table')!;
  return {
    startSeconds: parseFloat(style.getPropertyValue('--start-seconds')),
    pixelsPerSecond: parseFloat(style.getPropertyValue('--second-pixels')),
  };
}
