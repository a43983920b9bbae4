/** The take table under a part: a row for each take, a column for each phrase; a click takes that phrase from that take. */
import { memo, useMemo, useState } from 'react';
import {
  FIRST_TAKE_WEIGHTS,
  planChoose,
  railMidi,
  rankTakes,
  takeFigures,
  takeTableOf,
  type RecordingPart,
  type TakeFigures,
  type TakeWeights,
} from '@plundra/core/song';
import type { TimeView } from '../../../canvas/view.ts';
import { useSong } from '../../../song/SongContext.tsx';
import { pitchLanes } from '../pitchLanes.ts';
import { PhraseHeads } from './PhraseHeads.tsx';
import { TakeFoot } from './TakeFoot.tsx';
import { TakeLine } from './TakeLine.tsx';
import { nameOfTake } from './takeText.ts';
import { useHearTakes } from './useHearTakes.ts';

const HEAD_PIXELS = 26;
export const TAKE_PIXELS = 66;
const FOOT_PIXELS = 88;

/** With the lines between rows. */
export const takeTablePixels = (takes: number): number =>
  HEAD_PIXELS + FOOT_PIXELS + 2 + takes * (TAKE_PIXELS + 1);

interface Props {
  part: RecordingPart;
  view: TimeView;
}

export const TakeTable = memo(function TakeTable({ part, view }: Props) {
  const { song, time, apply } = useSong();
  const table = useMemo(() => takeTableOf(part, time), [part, time]);
  const [selected, setSelected] = useState(0);
  const [weights, setWeights] = useState<TakeWeights>(FIRST_TAKE_WEIGHTS);
  const hearing = useHearTakes(part, table);
  const ranking = useMemo(() => (table ? rankTakes(table, weights, time) : []), [table, weights, time]);
  const figures = useMemo(() => {
    const found = new Map<string, (TakeFigures | undefined)[]>();
    for (const take of table?.takes ?? [])
      found.set(
        take.id,
        table!.phrases.map(({ cells }) => takeFigures(take, cells.get(take.id) ?? [], time)),
      );
    return found;
  }, [table, time]);
  const lanes = useMemo(
    () =>
      pitchLanes(
        (table?.takes ?? []).flatMap(({ line }) =>
          (line?.notes ?? []).map((note) => railMidi(note, line!.tuningCents)),
        ),
        false,
      ),
    [table],
  );
  if (!table) return null;
  const choose = (phrase: number, takeId: string) => {
    setSelected(phrase);
    const edit = planChoose(song, part.id, [{ phrase: table.phrases[phrase], takeId }], () =>
      crypto.randomUUID(),
    );
    const take = table.takes.find(({ id }) => id === takeId)!;
    if (edit) apply(`Take phrase ${phrase + 1} from ${nameOfTake(part, take)}`.slice(0, 200), edit);
  };
  return (
    <section className="take-table" aria-label={`Takes of ${part.name}`} data-testid="take-table">
      <PhraseHeads part={part} table={table} view={view} selected={selected} onSelect={setSelected} />
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
