/** The changes of the song as a chord sheet: rows of bars under the names of sections; chords are dragged on it. */
import { useEffect, useLayoutEffect, useMemo, useRef, useState, type PointerEvent } from 'react';
import type { Change, Section } from '@plundra/core/song';
import type { Key } from '@plundra/core/theory';
import { ChordBar, type SheetEvents } from './ChordBar.tsx';
import { beatAt, rowsOf, type SheetBar } from './sheetLayout.ts';

interface Props {
  bars: readonly SheetBar[];
  barsPerRow: number;
  sections: readonly Section[];
  songKey: Key | null;
  selected: ReadonlySet<string>;
  /** Where the next chord goes, in ticks. */
  place: number | null;
  playingId: string | null;
  /** A chord that is only tried. */
  triedId: string | null;
  onSelect(change: Change, extend: boolean): void;
  onPlace(ticks: number): void;
  /** Double click: play from here. */
  onOpen(ticks: number): void;
  /** A chord was dragged to a beat; absent: chords stay. */
  onMove?: (change: Change, toTicks: number) => void;
}

export function ChordSheet(props: Props) {
  const { bars, barsPerRow, sections, songKey, selected, place, playingId, triedId } = props;
  const sheet = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(800);
  useLayoutEffect(() => {
    const observer = new ResizeObserver(([entry]) => setWidth(entry.contentRect.width));
    observer.observe(sheet.current!);
    return () => observer.disconnect();
  }, []);
  const rows = useMemo(() => rowsOf(bars, barsPerRow, sections), [bars, barsPerRow, sections]);
  const [target, setTarget] = useState<number | null>(null);
  const latest = useRef({ props, target });
  useEffect(() => {
    latest.current = { props, target };
  });
  const events = useMemo<SheetEvents>(
    () => ({
      select: (change, extend) => latest.current.props.onSelect(change, extend),
      place: (ticks) => latest.current.props.onPlace(ticks),
      open: (ticks) => latest.current.props.onOpen(ticks),
      drag(_, event) {
        if (latest.current.props.onMove) setTarget(beatUnder(latest.current.props.bars, event));
      },
      drop(change) {
        const { props, target } = latest.current;
        if (target !== null && target !== change.startTicks) props.onMove?.(change, target);
        setTarget(null);
      },
    }),
    [],
  );
  const barWidth = (width - 8) / barsPerRow;
  const within = (bar: SheetBar, ticks: number | null) =>
    ticks !== null && ticks >= bar.startTicks && ticks < bar.endTicks ? ticks : null;
  return (
    <div className="chord-sheet" ref={sheet} data-testid="chord-sheet">
      {rows.map((row) => (
        <div className="chord-row" key={row.bars[0].bar}>
          {row.section && <h3 className="chord-section">{row.section}</h3>}
          {row.bars.map((bar) => {
            const ids = bar.chords.map(({ span }) => span.change.id);
            return (
              <ChordBar
                key={bar.bar}
                bar={bar}
                width={barWidth}
                songKey={songKey}
                selectedIds={ids.filter((id) => selected.has(id)).join(' ')}
                place={within(bar, place)}
                target={within(bar, target)}
                playingId={playingId !== null && ids.includes(playingId) ? playingId : null}
                triedId={triedId !== null && ids.includes(triedId) ? triedId : null}
                events={events}
              />
            );
          })}
        </div>
      ))}
    </div>
  );
}

/** The beat under the pointer, in whichever bar that is. */
function beatUnder(bars: readonly SheetBar[], { clientX, clientY }: PointerEvent): number | null {
  for (const element of document.elementsFromPoint(clientX, clientY)) {
    const bar =
      element instanceof HTMLElement && bars.find((each) => String(each.bar) === element.dataset.bar);
    if (!bar) continue;
    const box = element.getBoundingClientRect();
    return beatAt(bar, (clientX - box.left) / box.width);
  }
  return null;
}
