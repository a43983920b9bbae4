import { useEffect, useLayoutEffect, useRef, useState, type MouseEvent } from 'react';
import { drawChordRow, usePlacedChords } from '../../canvas/chordRow.ts';
import { followPointer } from '../../canvas/followPointer.ts';
import { gridLines } from '../../canvas/timeGrid.ts';
import { prepareSurface } from '../../canvas/surface.ts';
import { secondsOf, xOf, type TimeView } from '../../canvas/view.ts';
import type { Engine } from '../../audio/engine.ts';
import { useSong } from '../../song/SongContext.tsx';
import { FrameMarks } from './FrameMarks.tsx';
import { snapped, type Snap } from './passageTools.ts';
import { colours, fontFamily } from '../../theme/tokens.ts';

const RULER_PIXELS = 28;
const CHORD_PIXELS = 22;

/** A drag with Shift sets the loop while it goes; a click with Shift takes it away. */
function dragLoop(
  engine: Engine,
  secondsAt: (clientX: number) => number,
  fromX: number,
  snapTo: (seconds: number) => number,
): void {
  const from = snapTo(secondsAt(fromX));
  engine.setLoop(null);
  followPointer({
    moved(event) {
      const to = snapTo(secondsAt(event.clientX));
      engine.setLoop(
        to === from ? null : { startSeconds: Math.min(from, to), endSeconds: Math.max(from, to) },
      );
    },
    dropped: () => undefined,
  });
}

interface Props {
  view: TimeView;
  snap: Snap;
  /** Where a change of key or metre is open. */
  markAt: number | null;
  setMarkAt(ticks: number | null): void;
}

/** Bars and chords above the rows; a click moves the playhead. */
export function TimelineRuler({ view, snap, markAt, setMarkAt }: Props) {
  const { song, time, engine } = useSong();
  const chords = usePlacedChords(song, time);
  const canvas = useRef<HTMLCanvasElement>(null);
  const [width, setWidth] = useState(0);
  useLayoutEffect(() => {
    const element = canvas.current!;
    const observer = new ResizeObserver(() => setWidth(element.clientWidth));
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  // Drawn when it changes, not while the song plays: only the playhead moves then.
  useEffect(() => {
    const draw = () => {
      const surface = prepareSurface(canvas.current);
      if (!surface) return;
      const { context, height } = surface;
      context.font = `13px ${fontFamily}`;
      context.textBaseline = 'middle';
      for (const line of gridLines(view, width, time, 0)) {
        if (line.weight !== 'bar') continue;
        context.fillStyle = '#C9BFAB';
        context.fillRect(Math.round(line.x), line.label ? 4 : 16, 1, height);
        context.fillStyle = colours.quietInk;
        if (line.label) context.fillText(line.label, line.x + 5, 13);
      }
      const { loop: range, loopOn } = engine.getState();
      if (range) {
        const [from, to] = [xOf(view, range.startSeconds), xOf(view, range.endSeconds)];
        context.fillStyle = loopOn ? '#6D2E5B55' : '#6D2E5B22';
        context.fillRect(from, RULER_PIXELS - 6, to - from, 6);
      }
      drawChordRow(context, chords, view, { left: 0, right: width, top: RULER_PIXELS, height: CHORD_PIXELS });
    };
    draw();
    return engine.subscribe(draw);
  }, [view, width, time, engine, chords]);
  const openBar = (event: MouseEvent<HTMLElement>) => {
    const x = event.clientX - event.currentTarget.getBoundingClientRect().left;
    const ticks = Math.round(time.ticksAt(Math.max(0, secondsOf(view, x))));
    setMarkAt(time.barStartTicks(time.barAt(ticks).bar));
  };
  return (
    <div
      className="part-row"
      data-start-seconds={view.startSeconds}
      data-pixels-per-second={view.pixelsPerSecond}
      style={{
        height: RULER_PIXELS + (chords.length > 0 ? CHORD_PIXELS : 0),
        background: colours.paper,
      }}
    >
      <div className="part-head" style={{ padding: '4px 12px', color: colours.quietInk, fontSize: 13 }}>
        Part
      </div>
      <div className="part-picture">
        <canvas
          ref={canvas}
          data-testid="ruler"
          title="A click moves the playhead; Shift and a drag set the loop; a double click puts bars in or changes key or metre at its bar"
          onDoubleClick={openBar}
          onContextMenu={(event) => {
            event.preventDefault();
            // The menu of passages is not meant.
            event.stopPropagation();
            openBar(event);
          }}
          onPointerDown={(event) => {
            const { left } = event.currentTarget.getBoundingClientRect();
            const at = (clientX: number) => Math.max(0, secondsOf(view, clientX - left));
            if (event.shiftKey)
              dragLoop(engine, at, event.clientX, (seconds) =>
                time.secondsAt(snapped(snap, view, time, time.ticksAt(seconds))),
              );
            else engine.seek(at(event.clientX));
          }}
        />
        <FrameMarks view={view} width={width} openAt={markAt} setOpenAt={setMarkAt} />
      </div>
    </div>
  );
}
