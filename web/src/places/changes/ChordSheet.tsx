/** The changes of the song as a chord sheet: rows of bars, each chord with its degree, how sure it is, and its evidence. */
import { useLayoutEffect, useMemo, useRef, useState, type PointerEvent } from 'react';
import { CaretRightFilled } from '@ant-design/icons';
import { isDoubtfulChord, type Change, type Section } from '@plundra/core/song';
import { chordInKey, functionOf, pitchClassesOf, type Chord, type Key } from '@plundra/core/theory';
import { ChordName, chordText } from '../../song/ChordName.tsx';
import { beatAt, fitsOneLine, nameSize, rowsOf, type SheetBar } from './sheetLayout.ts';

/** A pointer that moved less only clicked. */
const DRAG_PIXELS = 5;

export interface SheetPlace {
  ticks: number;
}

export function ChordSheet({
  bars,
  barsPerRow,
  sections,
  songKey,
  selected,
  place,
  playingId,
  onSelect,
  onPlace,
  onOpen,
  onMove,
}: {
  bars: readonly SheetBar[];
  barsPerRow: number;
  sections: readonly Section[];
  songKey: Key | null;
  selected: ReadonlySet<string>;
  place: SheetPlace | null;
  playingId: string | null;
  onSelect(change: Change, extend: boolean): void;
  onPlace(ticks: number): void;
  /** Double click: play from here. */
  onOpen(ticks: number): void;
  /** A chord was dragged to a beat; absent: chords stay. */
  onMove?: (change: Change, toTicks: number) => void;
}) {
  const sheet = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(800);
  useLayoutEffect(() => {
    const observer = new ResizeObserver(([entry]) => setWidth(entry.contentRect.width));
    observer.observe(sheet.current!);
    return () => observer.disconnect();
  }, []);
  const rows = useMemo(() => rowsOf(bars, barsPerRow, sections), [bars, barsPerRow, sections]);
  const [dragged, setDragged] = useState<{ id: string; toTicks: number } | null>(null);
  /** The beat under the pointer, in whichever bar that is. */
  const beatUnder = (event: PointerEvent): number | null => {
    for (const element of document.elementsFromPoint(event.clientX, event.clientY)) {
      const bar =
        element instanceof HTMLElement && bars.find(({ bar }) => String(bar) === element.dataset.bar);
      if (!bar) continue;
      const box = element.getBoundingClientRect();
      return beatAt(bar, (event.clientX - box.left) / box.width);
    }
    return null;
  };
  const barWidth = (width - 8) / barsPerRow;
  return (
    <div className="chord-sheet" ref={sheet} data-testid="chord-sheet">
      {rows.map((row) => (
        <div className="chord-row" key={row.bars[0].bar}>
          {row.section && <h3 className="chord-section">{row.section}</h3>}
          {row.bars.map((bar) => (
            <div
              key={bar.bar}
              data-bar={bar.bar}
              className="chord-bar"
              style={{ width: barWidth }}
              onClick={(event) => {
                const box = event.currentTarget.getBoundingClientRect();
                onPlace(beatAt(bar, (event.clientX - box.left) / box.width));
              }}
              onDoubleClick={() => onOpen(bar.startTicks)}
            >
              <span className="chord-bar-number numbers">{bar.bar}</span>
              {place && place.ticks >= bar.startTicks && place.ticks < bar.endTicks && (
                <span
                  className="chord-place"
                  style={{
                    left: `${(100 * (place.ticks - bar.startTicks)) / (bar.endTicks - bar.startTicks)}%`,
                    width: `${100 / bar.beats}%`,
                  }}
                />
              )}
              {dragged && dragged.toTicks >= bar.startTicks && dragged.toTicks < bar.endTicks && (
                <span
                  className="chord-target"
                  style={{
                    left: `${(100 * (dragged.toTicks - bar.startTicks)) / (bar.endTicks - bar.startTicks)}%`,
                  }}
                />
              )}
              {bar.held && bar.chords.length === 0 && <span className="chord-held" aria-hidden />}
              {bar.chords.map(({ span, from, to }) => (
                <ChordBox
                  key={span.change.id}
                  change={span.change}
                  songKey={songKey}
                  left={from}
                  widthPixels={(to - from) * barWidth - 8}
                  share={to - from}
                  selected={selected.has(span.change.id)}
                  playing={playingId === span.change.id}
                  onSelect={onSelect}
                  onDrag={
                    onMove &&
                    ((event) => {
                      const toTicks = beatUnder(event);
                      setDragged(toTicks === null ? null : { id: span.change.id, toTicks });
                    })
                  }
                  onDrop={() => {
                    if (dragged && dragged.toTicks !== span.startTicks)
                      onMove?.(span.change, dragged.toTicks);
                    setDragged(null);
                  }}
                />
              ))}
            </div>
          ))}
        </div>
      ))}
    </div>
  );
}

function ChordBox({
  change,
  songKey,
  left,
  share,
  widthPixels,
  selected,
  playing,
  onSelect,
  onDrag,
  onDrop,
}: {
  change: Change;
  songKey: Key | null;
  left: number;
  share: number;
  widthPixels: number;
  selected: boolean;
  playing: boolean;
  onSelect(change: Change, extend: boolean): void;
  onDrag?: (event: PointerEvent) => void;
  onDrop(): void;
}) {
  const { chord } = change;
  const pressed = useRef<{ x: number; y: number; moved: boolean } | null>(null);
  const text = chordText(chord);
  const numeral = chord && songKey ? chordInKey(chord, songKey).numeral : '';
  const doubtful = isDoubtfulChord(change);
  return (
    <button
      type="button"
      className={`chord-box${selected ? ' selected' : ''}${playing ? ' playing' : ''}${doubtful ? ' doubtful' : ''}`}
      style={{ left: `${100 * left}%`, width: `${100 * share}%` }}
      aria-pressed={selected}
      aria-label={`${text}${numeral ? `, ${numeral}` : ''}${doubtful ? ', doubtful' : ''}`}
      onPointerDown={(event) => {
        if (event.button !== 0 || !onDrag) return;
        pressed.current = { x: event.clientX, y: event.clientY, moved: false };
        event.currentTarget.setPointerCapture(event.pointerId);
      }}
      onPointerMove={(event) => {
        const press = pressed.current;
        if (!press) return;
        press.moved ||= Math.hypot(event.clientX - press.x, event.clientY - press.y) > DRAG_PIXELS;
        if (press.moved) onDrag?.(event);
      }}
      onPointerUp={() => {
        if (pressed.current?.moved) onDrop();
      }}
      onPointerCancel={() => (pressed.current = null)}
      onClick={(event) => {
        event.stopPropagation();
        const { current } = pressed;
        pressed.current = null;
        if (!current?.moved) onSelect(change, event.shiftKey);
      }}
    >
      <span
        className={`chord-line${fitsOneLine(text.length, widthPixels) ? '' : ' wrapped'}`}
        style={{ fontSize: nameSize(text.length, widthPixels) }}
      >
        <ChordName chord={chord} />
        {playing && <CaretRightFilled className="chord-playing" aria-hidden />}
      </span>
      <span className="chord-degree">
        {chord && songKey && <FunctionMark chord={chord} songKey={songKey} />}
        {numeral.replace(/b(?=[IViv])/g, '♭').replace(/#(?=[IViv])/g, '♯')}
      </span>
      {change.sounding && <Evidence chord={chord} sounding={change.sounding} />}
    </button>
  );
}

/** At home ●, away ○, leading ▸: a mark, since colour already says pitch. */
export function FunctionMark({ chord, songKey }: { chord: Chord; songKey: Key }) {
  const does = functionOf(chord, songKey);
  return (
    <span className="chord-function" title={does} aria-label={does}>
      {{ home: '●', away: '○', leading: '▸' }[does]}
    </span>
  );
}

/** How much each pitch class from C on sounded; those of the chord are dark. */
function Evidence({ chord, sounding }: { chord: Change['chord']; sounding: readonly number[] }) {
  const own = new Set(chord ? pitchClassesOf(chord) : []);
  return (
    <svg className="chord-evidence" viewBox="0 0 48 12" preserveAspectRatio="none" aria-hidden>
      {sounding.map((value, pitchClass) => (
        <rect
          key={pitchClass}
          x={4 * pitchClass + 0.4}
          width={3.2}
          y={12 - Math.max(0.6, 12 * value)}
          height={Math.max(0.6, 12 * value)}
          fill={own.has(pitchClass) ? '#24303A' : '#C9BFAB'}
        />
      ))}
    </svg>
  );
}
