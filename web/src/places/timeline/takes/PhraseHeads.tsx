/** The phrases of a take table over its rows; the boundary between two is dragged, or moved with the arrows. */
import { useState, type KeyboardEvent, type PointerEvent } from 'react';
import { App } from 'antd';
import {
  EditError,
  formatPosition,
  planBoundary,
  type Phrase,
  type RecordingPart,
  type TakeTable,
} from '@plundra/core/song';
import { followPointer } from '../../../canvas/followPointer.ts';
import { secondsOf, xOf, type TimeView } from '../../../canvas/view.ts';
import { useSong } from '../../../song/SongContext.tsx';

/** A boundary moves by this with an arrow, and by a tenth of it with Alt. */
const ARROW_SECONDS = 0.05;
/** Narrower phrases have no room for their name. */
const NAME_PIXELS = 56;
const NUMBER_PIXELS = 16;

interface Props {
  part: RecordingPart;
  table: TakeTable;
  view: TimeView;
  selected: number;
  onSelect(phrase: number): void;
}

export function PhraseHeads({ part, table: { takes, phrases }, view, selected, onSelect }: Props) {
  const { song, time, apply } = useSong();
  const { message } = App.useApp();
  const [dragged, setDragged] = useState<{ ticks: number; x: number } | null>(null);
  const xAt = (ticks: number) => xOf(view, time.secondsAt(ticks));
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
        <b>{takes.length} takes</b> <span className="quiet">off by cents and ms</span>
      </div>
      <div className="take-columns">
        {phrases.map((phrase, i) => {
          const [left, right] = [xAt(phrase.startTicks), xAt(phrase.endTicks)];
          const room = right - left;
          return (
            <button
              key={phrase.startTicks}
              className={i === selected ? 'phrase selected' : 'phrase'}
              aria-label={`Phrase ${i + 1}, ${placeOf(phrase)}`}
              aria-pressed={i === selected}
              style={{ left, width: Math.max(0, room) }}
              onClick={() => onSelect(i)}
            >
              {room > NAME_PIXELS ? `Phrase ${i + 1}` : room > NUMBER_PIXELS ? i + 1 : ''}
            </button>
          );
        })}
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
            style={{ left: dragged?.ticks === startTicks ? dragged.x : xAt(startTicks) }}
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
}
