/** The tempo over the song as a line with points: steps and ramps, dragged or typed. */
import { useLayoutEffect, useMemo, useRef, useState, type KeyboardEvent, type PointerEvent } from 'react';
import { Popover } from 'antd';
import {
  beatsPerMinute,
  createTimeMap,
  formatPosition,
  movedTempoPoint,
  quartersPerMinute,
  withoutTempoPoint,
  withRamp,
  withTempoPoint,
  type TempoEntry,
} from '@plundra/core/song';
import { followPointer } from '../../canvas/followPointer.ts';
import { secondsOf, xOf, type TimeView } from '../../canvas/view.ts';
import { useSong } from '../../song/SongContext.tsx';
import { colours } from '../../theme/tokens.ts';
import { snapped, type Snap } from './passageTools.ts';
import { lineOf, roomForPoints, scaleOf } from './tempoLine.ts';
import { TempoPointFields } from './TempoPointFields.tsx';

const LANE_PIXELS = 64;
/** Free above and below the line, for its numbers. */
const TOP_PIXELS = 22;
const BOTTOM_PIXELS = 10;
const CLICK_PIXELS = 3;

export function TempoLane({ view, snap }: { view: TimeView; snap: Snap }) {
  const { song, time, apply } = useSong();
  const svg = useRef<SVGSVGElement>(null);
  const [width, setWidth] = useState(0);
  const [open, setOpen] = useState<number | null>(null);
  const [dragged, setDragged] = useState<TempoEntry[] | null>(null);
  useLayoutEffect(() => {
    const element = svg.current!;
    const observer = new ResizeObserver(() => setWidth(element.clientWidth));
    observer.observe(element);
    return () => observer.disconnect();
  }, []);

  const tempoMap = dragged ?? song.tempoMap;
  const shownTime = useMemo(
    () => (dragged ? createTimeMap({ tempoMap: dragged, metreMap: song.metreMap }) : time),
    [dragged, song.metreMap, time],
  );
  const scale = useMemo(() => scaleOf(song.tempoMap), [song.tempoMap]);
  const yOf = (bpm: number) =>
    TOP_PIXELS +
    ((scale.most - bpm) / (scale.most - scale.least)) * (LANE_PIXELS - TOP_PIXELS - BOTTOM_PIXELS);
  const xAt = (ticks: number) => xOf(view, shownTime.secondsAt(ticks));
  const metreAt = (ticks: number) =>
    song.metreMap.findLast(({ startTicks }) => startTicks <= ticks) ?? song.metreMap[0];
  const shownBpm = ({ startTicks, bpm }: TempoEntry) =>
    Number(beatsPerMinute(bpm, metreAt(startTicks)).toFixed(1));
  const set = (label: string, next: readonly TempoEntry[]) =>
    next !== song.tempoMap && apply(label, { type: 'song.set', patch: { tempoMap: [...next] } });

  const add = (event: { clientX: number }) => {
    const x = event.clientX - svg.current!.getBoundingClientRect().left;
    const ticks = snapped(snap, view, time, time.ticksAt(Math.max(0, secondsOf(view, x))));
    const next = withTempoPoint(song, ticks);
    set('Add a tempo', next);
    setOpen(next.findIndex(({ startTicks }) => startTicks === ticks));
  };
  const drag = (index: number, event: PointerEvent<SVGGElement>) => {
    if (event.button !== 0) return;
    event.preventDefault();
    event.currentTarget.focus();
    const entry = song.tempoMap[index];
    const from = { x: event.clientX, y: event.clientY };
    let next: TempoEntry[] | null = null;
    followPointer({
      moved(to) {
        const [dx, dy] = [to.clientX - from.x, to.clientY - from.y];
        if (!next && Math.hypot(dx, dy) <= CLICK_PIXELS) return;
        const perPixel = (scale.most - scale.least) / (LANE_PIXELS - TOP_PIXELS - BOTTOM_PIXELS);
        const at = time.ticksAt(Math.max(0, time.secondsAt(entry.startTicks) + dx / view.pixelsPerSecond));
        const fine = to.altKey ? 10 : 1;
        next = movedTempoPoint(song.tempoMap, index, {
          // A hand that means one of them moves the other a little.
          ...(Math.abs(dx) > 2 * CLICK_PIXELS && { startTicks: snapped(snap, view, time, at) }),
          bpm: Math.round((entry.bpm - dy * perPixel) * fine) / fine,
        });
        setDragged(next);
      },
      dropped: () => (next ? set('Move a tempo', next) : setOpen(index)),
      ended: () => setDragged(null),
    });
  };
  const onKey = (index: number, event: KeyboardEvent) => {
    const entry = song.tempoMap[index];
    const [up, along] = [
      { ArrowUp: 1, ArrowDown: -1 }[event.key] ?? 0,
      { ArrowRight: 1, ArrowLeft: -1 }[event.key] ?? 0,
    ];
    if (up !== 0)
      set(
        'Change a tempo',
        movedTempoPoint(song.tempoMap, index, { bpm: entry.bpm + up * (event.altKey ? 0.1 : 1) }),
      );
    else if (along !== 0)
      set(
        'Move a tempo',
        movedTempoPoint(song.tempoMap, index, {
          startTicks: entry.startTicks + along * time.beatTicksAt(entry.startTicks),
        }),
      );
    else if (event.key === 'Delete' || event.key === 'Backspace')
      set('Remove a tempo', withoutTempoPoint(song.tempoMap, index));
    else if (event.key === 'Enter' || event.key === ' ') setOpen(index);
    else return;
    event.preventDefault();
    event.stopPropagation();
  };

  const xs = tempoMap.map(({ startTicks }) => xAt(startTicks));
  const room = roomForPoints(xs);
  return (
    <div className="part-row tempo-lane" style={{ height: LANE_PIXELS }}>
      <div className="part-head" style={{ padding: '4px 12px', color: colours.quietInk, fontSize: 13 }}>
        Tempo
      </div>
      <div className="part-picture">
        <svg
          ref={svg}
          width="100%"
          height={LANE_PIXELS}
          role="group"
          aria-label="Tempo over the song"
          onDoubleClick={add}
        >
          <title>A double click adds a tempo</title>
          <polyline
            points={lineOf(tempoMap, shownTime.quartersPerMinuteAt, xAt, yOf, width)}
            fill="none"
            stroke={colours.ink}
            strokeWidth={1.5}
          />
          {tempoMap.map((entry, i) => {
            const x = xs[i];
            // A point that is dragged or typed stays in sight among others.
            const isHeld = i === open || (dragged !== null && dragged[i] !== song.tempoMap[i]);
            if (x < -60 || x > width + 10 || !(room[i].shown || isHeld)) return null;
            const shown = shownBpm(entry);
            return (
              <g
                key={i}
                role="button"
                tabIndex={0}
                aria-label={`Tempo ${shown} bpm at ${formatPosition(time.barAt(entry.startTicks))}`}
                className="tempo-point"
                onPointerDown={(event) => drag(i, event)}
                onKeyDown={(event) => onKey(i, event)}
                onDoubleClick={(event) => event.stopPropagation()}
              >
                <circle cx={x} cy={yOf(entry.bpm)} r={9} fill="transparent" />
                <circle
                  cx={x}
                  cy={yOf(entry.bpm)}
                  r={4.5}
                  fill={colours.paper}
                  stroke={colours.plum}
                  strokeWidth={2}
                />
                {(room[i].numbered || isHeld) && (
                  <text x={x + 7} y={yOf(entry.bpm) - 7} fontSize={13} fill={colours.ink}>
                    {shown}
                  </text>
                )}
              </g>
            );
          })}
        </svg>
        {open !== null && song.tempoMap.at(open) && (
          <Popover
            key={open}
            open
            trigger="click"
            placement="bottom"
            onOpenChange={(isOpen) => !isOpen && setOpen(null)}
            content={
              <TempoPointFields
                entry={song.tempoMap[open]}
                bpm={shownBpm(song.tempoMap[open])}
                position={formatPosition(time.barAt(song.tempoMap[open].startTicks))}
                isFirst={open === 0}
                isLast={open === song.tempoMap.length - 1}
                onBpm={(bpm) =>
                  set(
                    `Tempo ${bpm} bpm`,
                    movedTempoPoint(song.tempoMap, open, {
                      bpm: quartersPerMinute(bpm, metreAt(song.tempoMap[open].startTicks)),
                    }),
                  )
                }
                onRamp={(ramp) =>
                  set(ramp ? 'Tempo goes to the next' : 'Tempo stays', withRamp(song.tempoMap, open, ramp))
                }
                onRemove={() => {
                  set('Remove a tempo', withoutTempoPoint(song.tempoMap, open));
                  setOpen(null);
                }}
              />
            }
          >
            <span
              style={{
                position: 'absolute',
                left: xAt(song.tempoMap[open].startTicks),
                top: yOf(song.tempoMap[open].bpm),
                width: 1,
                height: 1,
              }}
            />
          </Popover>
        )}
      </div>
    </div>
  );
}
