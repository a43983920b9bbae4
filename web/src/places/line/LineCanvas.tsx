/** The Line canvas: three layers (background, notes, moving things), pointer tools and zoom. */
import {
  forwardRef,
  useCallback,
  useEffect,
  useImperativeHandle,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
} from 'react';
import { effectiveGridTicks, type Grid } from '@plundra/core/song';
import { prepareSurface } from '../../canvas/surface.ts';
import {
  fitView,
  followPlayhead,
  midiOf,
  scrollPitch,
  scrollTime,
  secondsOf,
  xOf,
  yOf,
  zoomPitch,
  zoomTime,
  type View,
} from '../../canvas/view.ts';
import { useSong } from '../../song/SongContext.tsx';
import type { CanvasNote } from './canvasNote.ts';
import { CursorLine } from './CursorLine.tsx';
import { drawBackground } from './drawBackground.ts';
import { drawMoving } from './drawMoving.ts';
import { drawNotes } from './drawNotes.ts';
import { dragMove, notesDuring, snapSeconds, type Gesture, type Tool } from './gesture.ts';
import { hitTest, notesInBox, type Hit } from './hitTest.ts';
import { BANDS, noteBand, type LineScene } from './lineScene.ts';
import { countNotes, type Change, type NoteEditing } from './noteEditing.ts';

export interface LineCanvasHandle {
  stepTicks(): number;
  zoom(factor: number): void;
  fit(): void;
  /** Scrolls by three quarters of the width, back or on. */
  page(direction: 1 | -1): void;
  reveal(note: CanvasNote): void;
  pointerSeconds(): number | undefined;
  noteUnderPointer(): CanvasNote | undefined;
}

interface Props {
  scene: Omit<LineScene, 'view' | 'gridStepTicks' | 'notes'>;
  editing: NoteEditing | null;
  grid: Grid;
  tool: Tool;
  /** Remembers zoom and scroll of each opened part. */
  viewKey: string;
  onSelect(ids: ReadonlySet<string>): void;
  onChange(change: Change | undefined): void;
  /** Sounds a pitch while something is dragged. */
  onHear(midi: number, velocity: number): void;
}

const rememberedViews = new Map<string, View>();
/** Longest stretch shown at first. */
const FIRST_SECONDS = 16;
const NO_NOTES: readonly CanvasNote[] = [];

export const LineCanvas = forwardRef<LineCanvasHandle, Props>(function LineCanvas(
  { scene, editing, grid, tool, viewKey, onSelect, onChange, onHear },
  ref,
) {
  const { engine, endSeconds } = useSong();
  const frame = useRef<HTMLDivElement>(null);
  const back = useRef<HTMLCanvasElement>(null);
  const front = useRef<HTMLCanvasElement>(null);
  const top = useRef<HTMLCanvasElement>(null);
  const [size, setSize] = useState({ width: 0, height: 0 });
  const [view, setViewState] = useState<View | null>(rememberedViews.get(viewKey) ?? null);
  const [gesture, setGesture] = useState<Gesture | null>(null);
  const [pointer, setPointer] = useState<{ x: number; y: number } | null>(null);
  const dragFrom = useRef<{ x: number; y: number; hit: Hit } | null>(null);
  const lastHeard = useRef(-1);

  const notes = editing?.notes ?? NO_NOTES;
  const longest = useMemo(
    () => notes.reduce((most, note) => Math.max(most, note.endSeconds - note.startSeconds), 0),
    [notes],
  );
  const setView = useCallback(
    (next: View | ((old: View) => View)) =>
      setViewState((old) => {
        const made = typeof next === 'function' ? (old ? next(old) : old) : next;
        if (made) rememberedViews.set(viewKey, made);
        return made;
      }),
    [viewKey],
  );

  const band = noteBand(size.height, scene.recording !== null);
  const fitted = useCallback(
    () => fitViewInBand(notes, size.width, band.bottom - band.top, FIRST_SECONDS),
    [notes, size.width, band.bottom, band.top],
  );
  // A part that is opened for the first time, or whose first notes arrive, is shown whole.
  const hadNotes = useRef(notes.length > 0);
  useEffect(() => {
    if (size.width === 0) return;
    const firstNotes = notes.length > 0 && !hadNotes.current;
    hadNotes.current = notes.length > 0;
    if (!view || firstNotes) setView(fitted());
  }, [view, size.width, notes.length, fitted, setView]);

  useLayoutEffect(() => {
    const element = frame.current!;
    const observer = new ResizeObserver(() =>
      setSize({ width: element.clientWidth, height: element.clientHeight }),
    );
    observer.observe(element);
    return () => observer.disconnect();
  }, []);

  const pixelsPerTick = view ? view.pixelsPerSecond * (scene.time.secondsAt(960) / 960) : 0.1;
  const gridStepTicks = effectiveGridTicks(grid, pixelsPerTick);
  const snap = useMemo(() => ({ time: scene.time, stepTicks: gridStepTicks }), [scene.time, gridStepTicks]);
  const shownNotes = useMemo(() => notesDuring(gesture, notes), [gesture, notes]);
  const full: LineScene | null = useMemo(
    () => (view ? { ...scene, view, gridStepTicks, notes: shownNotes } : null),
    [scene, view, gridStepTicks, shownNotes],
  );

  useImperativeHandle(
    ref,
    () => ({
      stepTicks: () => gridStepTicks,
      zoom: (factor) => setView((old) => zoomTime(old, factor, size.width / 2)),
      fit: () => setView(fitted()),
      page: (direction) => setView((old) => scrollTime(old, direction * size.width * 0.75, endSeconds)),
      reveal: (note) =>
        setView((old) => {
          const x = xOf(old, note.startSeconds);
          const y = yOf(old, note.midi);
          const inside =
            x > BANDS.labels + 40 && x < size.width - 80 && y > 20 && y < band.bottom - band.top - 20;
          if (inside) return old;
          const middle = (band.bottom - band.top) / 2 / old.pixelsPerSemitone;
          return {
            ...old,
            startSeconds: Math.max(0, note.startSeconds - (size.width * 0.35) / old.pixelsPerSecond),
            topMidi: note.midi + middle,
          };
        }),
      pointerSeconds: () => (pointer && view ? secondsOf(view, pointer.x) : undefined),
      noteUnderPointer() {
        if (!pointer || !full) return undefined;
        const hit = hitTest(full, longest, size.height, pointer.x, pointer.y);
        return 'note' in hit ? hit.note : undefined;
      },
    }),
    [gridStepTicks, setView, size, fitted, endSeconds, band.bottom, band.top, pointer, view, full, longest],
  );

  // Background: only when the view or what lies under the notes changes.
  useLayoutEffect(() => {
    const surface = full && prepareSurface(back.current);
    if (surface) drawBackground(surface, full);
    // eslint-disable-next-line react-hooks/exhaustive-deps -- notes and selection are drawn on another layer
  }, [view, size, scene.key, scene.time, scene.recording, scene.partColour, gridStepTicks]);

  useLayoutEffect(() => {
    const surface = full && prepareSurface(front.current);
    if (surface) drawNotes(surface, full, longest);
  }, [full, size, longest]);

  // Moving things: playhead, loop, marquee. While playing at every frame of the screen, otherwise on change.
  useEffect(() => {
    let request = 0;
    const draw = () => {
      const surface = full && prepareSurface(top.current);
      if (surface)
        drawMoving(
          surface.context,
          surface.width,
          surface.height,
          full,
          gesture,
          engine.positionSeconds(),
          engine.getState(),
        );
    };
    const loop = () => {
      draw();
      if (engine.getState().playing) {
        if (!gesture) setView((old) => followPlayhead(old, engine.positionSeconds(), size.width));
        request = requestAnimationFrame(loop);
      }
    };
    loop();
    const unsubscribe = engine.subscribe(() => {
      cancelAnimationFrame(request);
      loop();
    });
    return () => {
      cancelAnimationFrame(request);
      unsubscribe();
    };
  }, [full, gesture, engine, size, setView]);

  // React listens to wheel passively; zooming must keep the page still.
  useEffect(() => {
    const element = frame.current!;
    const onWheel = (event: WheelEvent) => {
      event.preventDefault();
      const { x, y } = localPoint(event, element);
      if (event.ctrlKey || event.metaKey) setView((old) => zoomTime(old, Math.exp(-event.deltaY * 0.004), x));
      else if (event.altKey) setView((old) => zoomPitch(old, Math.exp(-event.deltaY * 0.004), y - band.top));
      else if (event.shiftKey) setView((old) => scrollTime(old, event.deltaY || event.deltaX, endSeconds));
      else {
        setView((old) => {
          const moved = event.deltaX !== 0 ? scrollTime(old, event.deltaX, endSeconds) : old;
          return event.deltaY !== 0 ? scrollPitch(moved, event.deltaY * 0.6, band.bottom - band.top) : moved;
        });
      }
    };
    element.addEventListener('wheel', onWheel, { passive: false });
    return () => element.removeEventListener('wheel', onWheel);
  }, [setView, endSeconds, band.top, band.bottom]);

  const hear = (midi: number, velocity: number) => {
    if (Math.round(midi) === lastHeard.current) return;
    lastHeard.current = Math.round(midi);
    onHear(midi, velocity);
  };

  const onPointerDown = (event: React.PointerEvent) => {
    if (!full || !view || event.button === 2) return;
    const point = localPoint(event, frame.current!);
    const hit = hitTest(full, longest, size.height, point.x, point.y);
    frame.current!.focus({ preventScroll: true });
    frame.current!.setPointerCapture(event.pointerId);
    dragFrom.current = { ...point, hit };
    lastHeard.current = -1;
    const additive = event.shiftKey || event.ctrlKey || event.metaKey;
    const selected = scene.selected;
    if (event.button === 1) return setGesture({ kind: 'scroll', ...point });
    if (hit.zone === 'ruler') {
      if (event.shiftKey)
        return setGesture({
          kind: 'loop',
          fromSeconds: snapSeconds(secondsOf(view, point.x), snap),
          toSeconds: snapSeconds(secondsOf(view, point.x), snap),
        });
      engine.seek(Math.max(0, secondsOf(view, point.x)));
      return setGesture({ kind: 'seek' });
    }
    if (hit.zone === 'labels') {
      const same = notes.filter((note) => Math.round(note.midi) === hit.midi).map((note) => note.id);
      onSelect(new Set(additive ? [...selected, ...same] : same));
      onHear(hit.midi, 90);
      return;
    }
    if (!editing) return;
    if (tool === 'cut' && 'note' in hit) return onChange(editing.cut(hit.note.id, secondsOf(view, point.x)));
    if (tool === 'draw' && (hit.zone === 'empty' || hit.zone === 'waveform')) {
      const start = event.altKey
        ? secondsOf(view, point.x)
        : snapSeconds(secondsOf(view, point.x), scene.recording ? { ...snap, stepTicks: 0 } : snap);
      const midi =
        hit.zone === 'waveform'
          ? (heardPitch(scene, start) ?? 67)
          : Math.round(midiOf(view, point.y - band.top));
      hear(midi, 80);
      return setGesture({ kind: 'draw', startSeconds: start, endSeconds: start, midi });
    }
    if ('note' in hit) {
      const { note } = hit;
      const already = selected.has(note.id);
      const ids = additive
        ? new Set(already ? [...selected].filter((id) => id !== note.id) : [...selected, note.id])
        : already
          ? selected
          : new Set([note.id]);
      if (ids !== selected) onSelect(ids);
      if (additive && already) return;
      if (hit.zone === 'stem')
        return setGesture({ kind: 'velocity', note, ids: new Set([...ids, note.id]), by: 0 });
      if (hit.zone === 'start' || hit.zone === 'end') {
        return setGesture({
          kind: 'trim',
          note,
          edge: hit.zone,
          startSeconds: note.startSeconds,
          endSeconds: note.endSeconds,
        });
      }
      hear(note.midi, note.velocity);
      return setGesture({ kind: 'move', note, ids, move: { seconds: 0, semitones: 0 }, moved: false });
    }
    setGesture({
      kind: 'marquee',
      x0: point.x,
      y0: point.y,
      x1: point.x,
      y1: point.y,
      before: additive ? selected : new Set(),
    });
  };

  const onPointerMove = (event: React.PointerEvent) => {
    const point = localPoint(event, frame.current!);
    setPointer(point);
    const from = dragFrom.current;
    if (!gesture || !from || !view || !full) return;
    const seconds = secondsOf(view, point.x);
    const free = event.ctrlKey || event.metaKey;
    switch (gesture.kind) {
      case 'marquee': {
        const box = { ...gesture, x1: point.x, y1: point.y };
        setGesture(box);
        onSelect(new Set([...gesture.before, ...notesInBox({ ...full, notes }, size.height, box)]));
        break;
      }
      case 'move': {
        const drag = {
          seconds: (point.x - from.x) / view.pixelsPerSecond,
          semitones: (from.y - point.y) / view.pixelsPerSemitone,
          pixelsX: point.x - from.x,
        };
        const far = Math.abs(point.x - from.x) > 3 || Math.abs(point.y - from.y) > 3;
        if (!far && !gesture.moved) break;
        const move = dragMove(gesture.note, drag, { free, fine: event.altKey, snap });
        if (move.semitones !== 0 || gesture.move.semitones !== 0)
          hear(gesture.note.midi + move.semitones, gesture.note.velocity);
        setGesture({ ...gesture, move, moved: true });
        break;
      }
      case 'trim': {
        const at = free || scene.recording ? seconds : snapSeconds(seconds, snap);
        if (gesture.edge === 'start')
          setGesture({ ...gesture, startSeconds: Math.min(at, gesture.endSeconds - 0.03) });
        else setGesture({ ...gesture, endSeconds: Math.max(at, gesture.startSeconds + 0.03) });
        break;
      }
      case 'velocity':
        setGesture({ ...gesture, by: Math.round((from.y - point.y) * 1.5) });
        break;
      case 'draw':
        setGesture({
          ...gesture,
          endSeconds: Math.max(
            gesture.startSeconds,
            free || scene.recording ? seconds : snapSeconds(seconds, snap),
          ),
        });
        break;
      case 'seek':
        engine.seek(Math.max(0, seconds));
        break;
      case 'loop':
        setGesture({ ...gesture, toSeconds: snapSeconds(seconds, snap) });
        break;
      case 'scroll':
        setView((old) =>
          scrollPitch(
            scrollTime(old, gesture.x - point.x, endSeconds),
            gesture.y - point.y,
            band.bottom - band.top,
          ),
        );
        setGesture({ ...gesture, ...point });
        break;
    }
  };

  const onPointerUp = () => {
    const done = gesture;
    const from = dragFrom.current;
    setGesture(null);
    dragFrom.current = null;
    if (!done || !editing || !from) {
      if (done?.kind === 'loop') finishLoop(done);
      return;
    }
    switch (done.kind) {
      case 'marquee':
        if (Math.abs(done.x1 - done.x0) < 3 && Math.abs(done.y1 - done.y0) < 3 && done.before.size === 0)
          onSelect(new Set());
        break;
      case 'move':
        if (done.moved && (done.move.seconds !== 0 || done.move.semitones !== 0))
          onChange(editing.move(done.ids, done.move));
        else if (done.ids.size > 1 && !done.moved) onSelect(new Set([done.note.id]));
        break;
      case 'trim':
        if (done.startSeconds !== done.note.startSeconds || done.endSeconds !== done.note.endSeconds) {
          onChange(editing.trim(done.note.id, done.startSeconds, done.endSeconds));
        }
        break;
      case 'velocity':
        if (done.by !== 0) onChange(editing.setVelocity(done.ids, (velocity) => velocity + done.by));
        break;
      case 'draw':
        onChange(editing.draw(done.startSeconds, done.endSeconds, done.midi));
        break;
      case 'loop':
        finishLoop(done);
        break;
    }
  };

  const finishLoop = (done: { fromSeconds: number; toSeconds: number }) => {
    const [a, b] = [Math.min(done.fromSeconds, done.toSeconds), Math.max(done.fromSeconds, done.toSeconds)];
    engine.setLoop(b - a > 0.05 ? { startSeconds: a, endSeconds: b } : null);
  };

  const hover =
    full && pointer && !gesture ? hitTest(full, longest, size.height, pointer.x, pointer.y) : null;
  const cursor = gesture ? 'default' : cursorOf(hover, tool);
  return (
    <div
      ref={frame}
      className="time-canvas"
      style={{ cursor }}
      tabIndex={0}
      role="application"
      aria-label={`Notes on a canvas, ${countNotes(notes.length)}, ${scene.selected.size} selected. N goes to the next doubtful note, arrows move the selection, question mark lists all keys.`}
      onPointerDown={onPointerDown}
      onPointerMove={onPointerMove}
      onPointerUp={onPointerUp}
      onPointerCancel={() => setGesture(null)}
      onPointerLeave={() => setPointer(null)}
      onContextMenu={(event) => event.preventDefault()}
      data-testid="line-canvas"
    >
      <canvas ref={back} />
      <canvas ref={front} />
      <canvas ref={top} />
      {view && pointer && pointer.x > BANDS.labels && (
        <CursorLine scene={scene} view={view} pointer={pointer} bandTop={band.top} bandBottom={band.bottom} />
      )}
    </div>
  );
});

function fitViewInBand(
  notes: readonly CanvasNote[],
  width: number,
  height: number,
  longestSeconds: number,
): View {
  const view = fitView(notes, width - BANDS.labels, height, longestSeconds);
  return { ...view, startSeconds: Math.max(0, view.startSeconds) - BANDS.labels / view.pixelsPerSecond };
}

function localPoint(
  event: { clientX: number; clientY: number },
  element: HTMLElement,
): { x: number; y: number } {
  const box = element.getBoundingClientRect();
  return { x: event.clientX - box.left, y: event.clientY - box.top };
}

/** The pitch that the contour has at a time, for drawing over the waveform. */
function heardPitch(scene: Props['scene'], songSeconds: number): number | undefined {
  const contour = scene.recording?.contour;
  if (!contour) return undefined;
  const at = Math.round((songSeconds - scene.recording!.originSeconds) / contour.hopSeconds);
  for (let t = at; t < at + 12; t++) {
    const f0Hz = contour.f0Hz[t];
    if (f0Hz > 0) return 69 + 12 * Math.log2(f0Hz / 440);
  }
  return undefined;
}

function cursorOf(hit: Hit | null, tool: Tool): string {
  if (!hit) return 'default';
  if (tool === 'cut') return 'note' in hit ? 'text' : 'default';
  if (tool === 'draw' && (hit.zone === 'empty' || hit.zone === 'waveform')) return 'crosshair';
  switch (hit.zone) {
    case 'start':
    case 'end':
      return 'ew-resize';
    case 'stem':
      return 'ns-resize';
    case 'note':
      return 'grab';
    case 'labels':
    case 'ruler':
      return 'pointer';
    default:
      return 'default';
  }
}
