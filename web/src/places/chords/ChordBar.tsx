/** One bar of the chord sheet and its chords. Drawn anew only when something in it changes: a sheet may have hundreds. */
import { memo, useRef, type PointerEvent } from 'react';
import { CaretRightFilled } from '@ant-design/icons';
import { isDoubtfulChord, type ChordEntry } from '@plundra/core/song';
import { chordInKey, functionOf, pitchClassesOf, type Chord, type Key } from '@plundra/core/theory';
import { ChordName, chordText, numeralText } from '../../song/ChordName.tsx';
import { beatAt, fitsOneLine, nameSize, type SheetBar } from './sheetLayout.ts';

/** A pointer that moved less only clicked. */
const DRAG_PIXELS = 5;
/** Widths of the mark before a numeral, and of a letter in it. */
const MARK_PIXELS = 14;
const DEGREE_PIXELS = 6;

/** What the sheet does on clicks and drags; always the same object, so that bars need not be drawn anew for it. */
export interface SheetEvents {
  select(change: ChordEntry, extend: boolean): void;
  place(ticks: number): void;
  /** Double click: type here. */
  open(): void;
  drag(change: ChordEntry, event: PointerEvent): void;
  drop(change: ChordEntry): void;
}

interface Props {
  bar: SheetBar;
  width: number;
  songKey: Key | null;
  /** Ids of chosen chords of this bar, with spaces between. */
  selectedIds: string;
  /** Ticks in this bar: where the next chord goes, and where a dragged one would start. */
  place: number | null;
  target: number | null;
  playingId: string | null;
  triedId: string | null;
  events: SheetEvents;
}

export const ChordBar = memo(function ChordBar({
  bar,
  width,
  songKey,
  selectedIds,
  place,
  target,
  playingId,
  triedId,
  events,
}: Props) {
  const percentAt = (ticks: number) =>
    `${(100 * (ticks - bar.startTicks)) / (bar.endTicks - bar.startTicks)}%`;
  const selected = selectedIds.split(' ');
  return (
    <div
      data-bar={bar.bar}
      className="chord-bar"
      style={{ width }}
      onClick={(event) => {
        const box = event.currentTarget.getBoundingClientRect();
        events.place(beatAt(bar, (event.clientX - box.left) / box.width));
      }}
      onDoubleClick={() => events.open()}
    >
      <span className="chord-bar-number numbers">{bar.bar}</span>
      {place !== null && (
        <span className="chord-place" style={{ left: percentAt(place), width: `${100 / bar.beats}%` }} />
      )}
      {target !== null && <span className="chord-target" style={{ left: percentAt(target) }} />}
      {bar.held && bar.chords.length === 0 && <span className="chord-held" aria-hidden />}
      {bar.chords.map(({ span, from, to }) => (
        <ChordBox
          key={span.change.id}
          bar={bar}
          change={span.change}
          songKey={songKey}
          left={from}
          widthPixels={(to - from) * width - 14}
          share={to - from}
          selected={selected.includes(span.change.id)}
          playing={playingId === span.change.id}
          tried={triedId === span.change.id}
          events={events}
        />
      ))}
    </div>
  );
});

function ChordBox({
  bar,
  change,
  songKey,
  left,
  share,
  widthPixels,
  selected,
  playing,
  tried,
  events,
}: {
  bar: SheetBar;
  change: ChordEntry;
  songKey: Key | null;
  left: number;
  share: number;
  widthPixels: number;
  selected: boolean;
  playing: boolean;
  tried: boolean;
  events: SheetEvents;
}) {
  const { chord } = change;
  const pressed = useRef<{ x: number; y: number; moved: boolean } | null>(null);
  const text = chordText(chord);
  const numeral = chord && songKey ? chordInKey(chord, songKey).numeral : '';
  const doubtful = isDoubtfulChord(change);
  return (
    <button
      type="button"
      className={`chord-box${selected ? ' selected' : ''}${playing ? ' playing' : ''}${doubtful ? ' doubtful' : ''}${tried ? ' tried' : ''}`}
      style={{ left: `${100 * left}%`, width: `${100 * share}%` }}
      aria-pressed={selected}
      aria-label={`${text}${numeral ? `, ${numeral}` : ''}${doubtful ? ', doubtful' : ''}${tried ? ', tried' : ''}`}
      onPointerDown={(event) => {
        if (event.button !== 0) return;
        pressed.current = { x: event.clientX, y: event.clientY, moved: false };
        event.currentTarget.setPointerCapture(event.pointerId);
      }}
      onPointerMove={(event) => {
        const press = pressed.current;
        if (!press) return;
        press.moved ||= Math.hypot(event.clientX - press.x, event.clientY - press.y) > DRAG_PIXELS;
        if (press.moved) events.drag(change, event);
      }}
      onPointerUp={() => {
        if (pressed.current?.moved) events.drop(change);
      }}
      onPointerCancel={() => (pressed.current = null)}
      onClick={(event) => {
        event.stopPropagation();
        const { current } = pressed;
        pressed.current = null;
        if (current?.moved) return;
        // A chord holds for beats: a click beside its name on one of the later ones chooses that beat.
        const box = event.currentTarget.parentElement!.getBoundingClientRect();
        const beat = event.detail === 0 ? 0 : beatAt(bar, (event.clientX - box.left) / box.width);
        const name = event.currentTarget.querySelector('.chord-line')!.getBoundingClientRect();
        const onName = event.clientX <= name.right && event.clientY <= name.bottom;
        if (beat > change.startTicks && !onName && !event.shiftKey) events.place(beat);
        else events.select(change, event.shiftKey);
      }}
    >
      <span
        className={`chord-line${fitsOneLine(text, widthPixels) ? '' : ' wrapped'}`}
        style={{ fontSize: nameSize(text, widthPixels) }}
      >
        <ChordName chord={chord} />
        {playing && <CaretRightFilled className="chord-playing" aria-hidden />}
      </span>
      <span className="chord-degree" title={numeralText(numeral)}>
        {/* Where there is little room the numeral says more than the mark. */}
        {chord && songKey && widthPixels >= MARK_PIXELS + DEGREE_PIXELS * numeral.length && (
          <FunctionMark chord={chord} songKey={songKey} />
        )}
        {numeralText(numeral)}
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
function Evidence({ chord, sounding }: { chord: ChordEntry['chord']; sounding: readonly number[] }) {
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
