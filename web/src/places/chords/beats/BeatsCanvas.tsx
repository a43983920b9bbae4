/** The picture of a recording with its beats: they are taken hold of and dragged, a double click adds one. */
import { useEffect, useLayoutEffect, useRef, useState, type MouseEvent, type PointerEvent } from 'react';
import type { Seconds } from '@plundra/core/signal';
import { movedBeat, withBeat, type HeardBeats } from '@plundra/core/song';
import { whileMoving } from '../../../audio/whileMoving.ts';
import { followPointer } from '../../../canvas/followPointer.ts';
import { prepareSurface, type SurfaceSize } from '../../../canvas/surface.ts';
import { scrollTime, secondsOf, xOf, zoomTime, type TimeView } from '../../../canvas/view.ts';
import { useSong } from '../../../song/SongContext.tsx';
import { beatNear, draggedTo } from './beatPlaces.ts';
import { drawBeats, HEAD_PIXELS, type BeatsLook } from './drawBeats.ts';
import type { BeatDraft } from './useBeatDraft.ts';

const CLICK_PIXELS = 3;
/** The playhead turns the page when it comes this far, and then stands here. */
const TURN_AT = 0.94;
const TURN_TO = 0.06;

interface Props {
  look: Omit<BeatsLook, 'heard' | 'chosen' | 'view'>;
  draft: BeatDraft;
  view: TimeView;
  setView(next: (old: TimeView) => TimeView): void;
  endSeconds: Seconds;
  toRecorded(song: Seconds): Seconds;
}

export function BeatsCanvas({ look, draft, view, setView, endSeconds, toRecorded }: Props) {
  const { engine } = useSong();
  const canvas = useRef<HTMLCanvasElement>(null);
  const line = useRef<HTMLDivElement>(null);
  const [size, setSize] = useState<SurfaceSize>({ width: 0, height: 0 });
  const [dragged, setDragged] = useState<HeardBeats | null>(null);
  const [overBeat, setOverBeat] = useState(false);
  const { heard, chosen } = draft;
  const { toSong, onsets, perBar } = look;
  useLayoutEffect(() => {
    const element = canvas.current!;
    const observer = new ResizeObserver(() =>
      setSize({ width: element.clientWidth, height: element.clientHeight }),
    );
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  useLayoutEffect(() => {
    const surface = prepareSurface(canvas.current, undefined, size);
    if (surface) drawBeats(surface, { ...look, heard: dragged ?? heard, chosen, view });
  });
  useEffect(
    () =>
      whileMoving(engine, () => {
        const x = xOf(view, engine.positionSeconds());
        if (line.current) line.current.style.transform = `translateX(${x}px)`;
        const isAway = engine.getState().playing && (x < 0 || x > TURN_AT * size.width);
        if (isAway && size.width > 0)
          setView((old) =>
            scrollTime(old, xOf(old, engine.positionSeconds()) - TURN_TO * size.width, endSeconds),
          );
      }),
    [engine, view, setView, size.width, endSeconds],
  );
  useEffect(() => {
    const element = canvas.current!;
    const onWheel = (event: WheelEvent) => {
      event.preventDefault();
      const x = event.clientX - element.getBoundingClientRect().left;
      setView((old) =>
        event.ctrlKey || event.metaKey
          ? zoomTime(old, Math.exp(-event.deltaY * 0.004), x)
          : scrollTime(old, event.deltaX || event.deltaY, endSeconds),
      );
    };
    element.addEventListener('wheel', onWheel, { passive: false });
    return () => element.removeEventListener('wheel', onWheel);
  }, [setView, endSeconds]);

  const xOfRecorded = (seconds: Seconds) => xOf(view, toSong(seconds));
  const recordedAt = (x: number) => toRecorded(Math.max(0, secondsOf(view, x)));
  const xIn = (event: { clientX: number }) => event.clientX - canvas.current!.getBoundingClientRect().left;
  const beatUnder = (event: { clientX: number }) => beatNear(heard.beats.map(xOfRecorded), xIn(event));
  const press = (event: PointerEvent<HTMLCanvasElement>) => {
    if (event.button !== 0) return;
    const index = beatUnder(event);
    if (index === undefined) {
      draft.choose(null);
      engine.seek(secondsOf(view, Math.max(0, xIn(event))));
      return;
    }
    draft.choose(index);
    const fromX = event.clientX;
    const beatX = xOfRecorded(heard.beats[index]);
    let next: HeardBeats | null = null;
    followPointer({
      moved(to) {
        const dx = to.clientX - fromX;
        if (!next && Math.abs(dx) <= CLICK_PIXELS) return;
        const seconds = draggedTo(beatX + dx, to.altKey ? [] : onsets, xOfRecorded, recordedAt);
        next = movedBeat(heard, index, seconds, perBar);
        setDragged(next);
      },
      dropped: () => next && draft.change(next, index),
      ended: () => setDragged(null),
    });
  };
  const add = (event: MouseEvent) => {
    if (beatUnder(event) !== undefined) return;
    const seconds = draggedTo(xIn(event), event.altKey ? [] : onsets, xOfRecorded, recordedAt);
    const next = withBeat(heard, seconds, perBar);
    draft.change(next, next.beats.indexOf(seconds));
  };
  return (
    <div className="beats-picture">
      <canvas
        ref={canvas}
        style={{ cursor: overBeat ? 'ew-resize' : 'default' }}
        data-testid="beats-canvas"
        onPointerDown={press}
        onPointerMove={(event) => setOverBeat(beatUnder(event) !== undefined)}
        onDoubleClick={add}
      />
      <div className="playhead-room" style={{ inset: `${HEAD_PIXELS}px 0 0 0` }} aria-hidden>
        <div ref={line} className="playhead" />
      </div>
    </div>
  );
}
