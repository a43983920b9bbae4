/** The chords of the song as a chord sheet: rows of bars under the names of sections; chords are dragged on it. */
import {
  useEffect,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
  type PointerEvent,
  type RefObject,
} from 'react';
import { useVirtualizer } from '@tanstack/react-virtual';
import {
  keyAt,
  keyChangesOf,
  type ChordEntry,
  type ChordSpanOfSong,
  type Keyed,
  type Section,
  type TimeMap,
} from '@plundra/core/song';
import { keyName } from '@plundra/core/theory';
import { ChordBar, type SheetEvents } from './ChordBar.tsx';
import { beatAt, layOutBars, planRows, type SheetBar } from './sheetLayout.ts';

interface Props {
  spans: readonly ChordSpanOfSong[];
  time: TimeMap;
  endTicks: number;
  /** At least this many bars, so that there is room to type. */
  leastBars: number;
  /** What scrolls. */
  scrolled: RefObject<HTMLElement | null>;
  barsPerRow: number;
  sections: readonly Section[];
  keys: Keyed;
  selected: ReadonlySet<string>;
  /** Where the next chord goes, in ticks. */
  place: number | null;
  playingId: string | null;
  /** A chord that is only tried. */
  triedId: string | null;
  onSelect(change: ChordEntry, extend: boolean): void;
  onPlace(ticks: number): void;
  /** Double click: type here. */
  onOpen(): void;
  /** A chord was dragged to a beat; absent: chords stay. */
  onMove?: (change: ChordEntry, toTicks: number) => void;
}

export function ChordSheet(props: Props) {
  const { spans, time, endTicks, leastBars, scrolled, barsPerRow, sections } = props;
  const { keys, selected, place, playingId, triedId } = props;
  const sheet = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(800);
  useLayoutEffect(() => {
    const observer = new ResizeObserver(([entry]) => setWidth(entry.contentRect.width));
    observer.observe(sheet.current!);
    return () => observer.disconnect();
  }, []);
  const rows = useMemo(
    () => planRows(time, endTicks, leastBars, barsPerRow, sections, keyChangesOf(keys)),
    [time, endTicks, leastBars, barsPerRow, sections, keys],
  );
  // eslint-disable-next-line react-hooks/incompatible-library -- nothing here is memoized by a compiler
  const virtual = useVirtualizer({
    count: rows.count,
    getScrollElement: () => scrolled.current,
    estimateSize: (index) =>
      ROW_PIXELS + (rows.row(index).section || rows.row(index).key ? SECTION_PIXELS : 0),
    overscan: 6,
  });
  // What is chosen comes into sight.
  const chosenRow = place === null ? undefined : rows.rowOf(time.barAt(place).bar);
  useEffect(() => {
    if (chosenRow !== undefined) virtual.scrollToIndex(chosenRow, { align: 'auto' });
  }, [virtual, chosenRow]);
  const [target, setTarget] = useState<number | null>(null);
  const latest = useRef({ props, target });
  useEffect(() => {
    latest.current = { props, target };
  });
  const events = useMemo<SheetEvents>(
    () => ({
      select: (change, extend) => latest.current.props.onSelect(change, extend),
      place: (ticks) => latest.current.props.onPlace(ticks),
      open: () => latest.current.props.onOpen(),
      drag(_, event) {
        if (latest.current.props.onMove) setTarget(beatUnder(latest.current.props.time, event));
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
    <div
      className="chord-sheet"
      ref={sheet}
      data-testid="chord-sheet"
      style={{ height: virtual.getTotalSize(), position: 'relative' }}
    >
      {virtual.getVirtualItems().map((item) => {
        const row = rows.row(item.index);
        return (
          <div
            className="chord-row"
            key={item.key}
            ref={virtual.measureElement}
            data-index={item.index}
            style={{
              position: 'absolute',
              top: 0,
              left: 0,
              right: 0,
              transform: `translateY(${item.start}px)`,
            }}
          >
            {(row.section ?? row.key) && (
              <h3 className="chord-section">
                {row.section}
                {row.key && <span className="chord-key-change">{keyName(row.key)}</span>}
              </h3>
            )}
            {layOutBars(spans, time, row.firstBar, row.lastBar).map((bar) => {
              const ids = bar.chords.map(({ span }) => span.change.id);
              return (
                <ChordBar
                  key={bar.bar}
                  bar={bar}
                  width={barWidth}
                  songKey={keyAt(keys, bar.startTicks)}
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
        );
      })}
    </div>
  );
}

/** Heights before a row was measured. */
const ROW_PIXELS = 96;
const SECTION_PIXELS = 30;

/** The beat under the pointer, in whichever bar that is. */
function beatUnder(time: TimeMap, { clientX, clientY }: PointerEvent): number | null {
  for (const element of document.elementsFromPoint(clientX, clientY)) {
    const number = element instanceof HTMLElement ? Number(element.dataset.bar) : NaN;
    if (!(number >= 1)) continue;
    const [bar] = layOutBars([], time, number, number);
    const box = element.getBoundingClientRect();
    return beatAt(bar, (clientX - box.left) / box.width);
  }
  return null;
}
