/** The take table under a part: a row for each take, a column for each phrase; a click takes that phrase from that take. */
import { memo, useCallback, useMemo, useRef, useState, type CSSProperties } from 'react';
import {
  figuresOfTable,
  FIRST_TAKE_WEIGHTS,
  planChoose,
  railMidi,
  rankTakes,
  takeTableOf,
  type Part,
  type TakeWeights,
} from '@plundra/core/song';
import type { TimeView } from '../../../canvas/view.ts';
import { SongContext, useSong } from '../../../song/SongContext.tsx';
import { useLater } from '../../../song/useLater.ts';
import { pitchLanes } from '../pitchLanes.ts';
import { PhraseHeads } from './PhraseHeads.tsx';
import { TakeFoot } from './TakeFoot.tsx';
import { TakeLine } from './TakeLine.tsx';
import { useHearTakes } from './useHearTakes.ts';

/**
 * The table of a part as it is kept, not as it is dragged. When the song changes the rows are painted first and the table a moment
 * later, or when someone acts; scrolling takes it along at once.
 */
interface Props {
  partId: string;
  view: TimeView;
  /** It was just opened: it comes into sight. */
  reveal: boolean;
}

export function TakeTable({ partId, view, reveal }: Props) {
  const shown = useLater(useSong());
  const part = shown.song.parts.find(({ id }) => id === partId);
  if (!part) return null;
  return (
    <SongContext.Provider value={shown}>
      <TableOfPart part={part} view={view} reveal={reveal} />
    </SongContext.Provider>
  );
}

type TableProps = Pick<Props, 'view' | 'reveal'> & { part: Part };

const TableOfPart = memo(function TableOfPart({ part, view, reveal }: TableProps) {
  const { song, time, apply } = useSong();
  const table = takeTableOf(part, time);
  const [selected, setSelected] = useState(0);
  const [weights, setWeights] = useState<TakeWeights>(FIRST_TAKE_WEIGHTS);
  const hearing = useHearTakes(part, table);
  const figures = useMemo(() => (table ? figuresOfTable(table, time) : new Map<string, []>()), [table, time]);
  const ranking = useMemo(() => (table ? rankTakes(table, figures, weights) : []), [table, figures, weights]);
  const lanes = useMemo(
    () =>
      pitchLanes(
        part.kind === 'recording'
          ? part.takes.flatMap(({ line }) =>
              (line?.notes ?? []).map((note) => railMidi(note, line!.tuningCents)),
            )
          : part.passages.flatMap(({ notes }) => notes.map(({ midi }) => midi)),
        part.kind === 'drums',
      ),
    [part],
  );
  const choose = useCallback(
    (phrase: number, takeId: string) => {
      if (!table) return;
      setSelected(phrase);
      const choice = { phrase: table.phrases[phrase], takeId };
      const edit = planChoose(song, part.id, [choice], () => crypto.randomUUID());
      const take = table.takes.find(({ id }) => id === takeId)!;
      if (edit) apply(`Take phrase ${phrase + 1} from ${take.name}`.slice(0, 200), edit);
    },
    [table, song, part, apply],
  );
  const wanted = useRef(reveal);
  const intoSight = useCallback((section: HTMLElement | null) => {
    if (wanted.current) section?.scrollIntoView({ block: 'nearest' });
  }, []);
  if (!table) return null;
  return (
    <section
      ref={intoSight}
      className="take-table"
      style={{ '--second-pixels': `${view.pixelsPerSecond}px` } as CSSProperties}
      aria-label={`Takes of ${part.name}`}
      data-testid="take-table"
    >
      {/* What lies by these numbers need not be painted anew while the view moves. */}
      <div style={{ '--start-seconds': view.startSeconds } as CSSProperties}>
        <PhraseHeads part={part} table={table} selected={selected} onSelect={setSelected} />
      </div>
      {table.takes.map((take) => (
        <TakeLine
          key={take.id}
          part={part}
          take={take}
          phrases={table.phrases}
          figures={figures.get(take.id)!}
          lanes={lanes}
          view={view}
          time={time}
          selected={selected}
          hearing={hearing.takeId === take.id}
          onHear={hearing.hear}
          onChoose={choose}
        />
      ))}
      <TakeFoot
        part={part}
        table={table}
        ranking={ranking}
        selected={selected}
        weights={weights}
        setWeights={setWeights}
        hearing={hearing}
      />
    </section>
  );
});
