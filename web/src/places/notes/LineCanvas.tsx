/** The notes canvas: three layers (background, notes, moving things), pointer tools and zoom. */
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
import { gridStepTicks as stepOfGrid, type Grid } from '@plundra/core/song';
import { whileMoving } from '../../audio/whileMoving.ts';
import { prepareSurface, wholePixels } from '../../canvas/surface.ts';
import {
  fitView,
  followPlayhead,
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
import { changedColumns } from './changedColumns.ts';
import { CursorLine } from './CursorLine.tsx';
import { drawBackground } from './drawBackground.ts';
import { drawMoving } from './drawMoving.ts';
import { drawNotes } from './drawNotes.ts';
import { notesDuring, type Gesture, type Tool } from './gesture.ts';
import { hitTest } from './hitTest.ts';
import { BANDS, noteBand, reachOf, type LineScene } from './lineScene.ts';
import { countOnsets } from './onsetEditor.ts';
import { countNotes, type LabelledEdit, type NoteEditing } from './noteEditing.ts';
import { createPointerState, cursorOf, localPoint, pointerTools } from './pointerTools.ts';

export interface LineCanvasHandle {
  stepTicks(): number;
  zoom(factor: number): void;
  fit(): void;
  /** Scrolls by three quarters of the width, back or on. */
  page(direction: 1 | -1): void;
  reveal(note: CanvasNote): void;
  /** Scrolls so that a time stands at the left. */
  showTime(seconds: number): void;
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
  /** Where it is opened, in seconds of the song; null: where it was left. */
  openAtSeconds: number | null;
  onSelect(ids: ReadonlySet<string>): void;
  onChange(change: LabelledEdit | undefined): void;
  /** Sounds a pitch while something is dragged. */
  onHear(midi: number, velocity: number): void;
}

const rememberedViews = new Map<string, View>();
/** Longest stretch shown at first. */
const FIRST_SECONDS = 16;
const NO_NOTES: readonly CanvasNote[] = [];
/** What is scrolled to stands so far from the left edge. */
const LEAD_PIXELS = 100;

const startingAt = (view: View, seconds: number): View => ({
  ...view,
  startSeconds: Math.max(-BANDS.labels, seconds * view.pixelsPerSecond - LEAD_PIXELS) / view.pixelsPerSecond,
});

export const LineCanvas = forwardRef<LineCanvasHandle, Props>(function LineCanvas(
  { scene, editing, grid, tool, viewKey, openAtSeconds, onSelect, onChange, onHear },
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

  const notes = editing?.notes ?? NO_NOTES;
  const setView = useCallback(
    (next: View | ((old: View) => View)) =>
      setViewState((old) => {
        const made = typeof next === 'function' ? (old ? next(old) : old) : next;
        if (made) rememberedViews.set(viewKey, made);
        return made;
      }),
    [viewKey],
  );

  const band = noteBand(size.height, scene.recordings !== null);
  const { recordings } = scene;
  const fitted = useCallback(() => {
    const fit = fitViewInBand(notes, size.width, band.bottom - band.top, FIRST_SECONDS);
    // What is not read yet is shown from where it is first heard.
    const first = recordings?.at(0);
    return notes.length === 0 && first ? startingAt(fit, first.toSong(first.fromSeconds)) : fit;
  }, [notes, recordings, size.width, band.bottom, band.top]);
  // A part that is opened for the first time, or whose first notes arrive, is shown whole.
  const hadNotes = useRef(notes.length > 0);
  const openAt = useRef(openAtSeconds);
  useEffect(() => {
    if (size.width === 0) return;
    const firstNotes = notes.length > 0 && !hadNotes.current;
    hadNotes.current = notes.length > 0;
    if (!view || firstNotes) setView(fitted());
    if (openAt.current === null || notes.length === 0) return;
    const atSeconds = openAt.current;
    openAt.current = null;
    setView((old) => startingAt(old, atSeconds));
  }, [view, size.width, notes.length, fitted, setView]);

  useLayoutEffect(() => {
    const element = frame.current!;
    const observer = new ResizeObserver(() =>
      setSize({ width: element.clientWidth, height: element.clientHeight }),
    );
    observer.observe(element);
    return () => observer.disconnect();
  }, []);

  const gridStepTicks = view
    ? stepOfGrid(grid, scene.time.ticksAt(view.startSeconds), scene.time, view.pixelsPerSecond)
    : 0;
  const snap = useMemo(() => ({ time: scene.time, stepTicks: gridStepTicks }), [scene.time, gridStepTicks]);
  const shownNotes = useMemo(() => notesDuring(gesture, notes), [gesture, notes]);
  const reach = useMemo(() => reachOf(shownNotes), [shownNotes]);
  const full: LineScene | null = useMemo(
    () => (view ? { ...scene, view, gridStepTicks, notes: shownNotes } : null),
    [scene, view, gridStepTicks, shownNotes],
  );

  useImperativeHandle(
    ref,
    () => ({
      stepTicks: () => gridStepTicks,
      zoom: (factor) => setView((old) => zoomTime(old, factor, size.width / 2, BANDS.labels)),
      fit: () => setView(fitted()),
      page: (direction) =>
        setView((old) => scrollTime(old, direction * size.width * 0.75, endSeconds, BANDS.labels)),
      reveal: (note) =>
        setView((old) => {
          const x = xOf(old, note.startSeconds);
          const y = yOf(old, note.midi);
          const inTime = x >= BANDS.labels && x < size.width - 80;
          const inPitch = y > 20 && y < band.bottom - band.top - 20;
          const middle = (band.bottom - band.top) / 2 / old.pixelsPerSemitone;
          const towards = scrollTime(old, x - size.width * 0.35, endSeconds, BANDS.labels);
          return {
            ...old,
            ...(!inTime && { startSeconds: towards.startSeconds }),
            ...(!inPitch && { topMidi: note.midi + middle }),
          };
        }),
      showTime: (seconds) => setView((old) => startingAt(old, seconds)),
      pointerSeconds: () => (pointer && view ? secondsOf(view, pointer.x) : undefined),
      noteUnderPointer() {
        if (!pointer || !full) return undefined;
        const hit = hitTest(full, reach, size.height, pointer.x, pointer.y);
        return 'note' in hit ? hit.note : undefined;
      },
    }),
    [gridStepTicks, setView, size, fitted, endSeconds, band.bottom, band.top, pointer, view, full, reach],
  );

  // Background: only when the view or what lies under the notes changes.
  useLayoutEffect(() => {
    const surface = full && prepareSurface(back.current);
    if (surface) drawBackground(surface, full);
    // eslint-disable-next-line react-hooks/exhaustive-deps -- notes and selection are drawn on another layer
  }, [
    view,
    size,
    scene.keys,
    scene.time,
    scene.recordings,
    scene.partColour,
    scene.chords,
    scene.drumRows,
    gridStepTicks,
  ]);

  // Notes: after an edit only where they changed.
  const drawn = useRef<{ scene: LineScene; size: typeof size } | null>(null);
  useLayoutEffect(() => {
    if (!full) return;
    const last = drawn.current;
    const changed = last?.size === size ? changedColumns(last.scene, full, size.width) : 'all';
    drawn.current = { scene: full, size };
    if (!changed) return;
    const columns = changed === 'all' ? undefined : wholePixels(changed);
    const surface = prepareSurface(front.current, columns);
    if (surface) drawNotes(surface, full, reach, columns);
    else drawn.current = null;
  }, [full, size, reach]);

  // Moving things: playhead, loop, marquee. While playing at every frame of the screen, otherwise on change.
  useEffect(() => {
    const show = () => {
      const surface = view && prepareSurface(top.current);
      if (surface)
        drawMoving(
          surface.context,
          surface.width,
          surface.height,
          { view, recordings },
          gesture,
          engine.positionSeconds(),
          engine.getState(),
        );
      if (engine.getState().playing && !gesture)
        setView((old) => followPlayhead(old, engine.positionSeconds(), size.width, BANDS.labels));
    };
    return whileMoving(engine, show);
  }, [view, recordings, gesture, engine, size, setView]);

  // React listens to wheel passively; zooming must keep the page still.
  useEffect(() => {
    const element = frame.current!;
    const onWheel = (event: WheelEvent) => {
      event.preventDefault();
      const { x, y } = localPoint(event, element);
      if (event.ctrlKey || event.metaKey)
        setView((old) => zoomTime(old, Math.exp(-event.deltaY * 0.004), x, BANDS.labels));
      else if (event.altKey) setView((old) => zoomPitch(old, Math.exp(-event.deltaY * 0.004), y - band.top));
      else if (event.shiftKey)
        setView((old) => scrollTime(old, event.deltaY || event.deltaX, endSeconds, BANDS.labels));
      else {
        setView((old) => {
          const moved = event.deltaX !== 0 ? scrollTime(old, event.deltaX, endSeconds, BANDS.labels) : old;
          return event.deltaY !== 0 ? scrollPitch(moved, event.deltaY * 0.6, band.bottom - band.top) : moved;
        });
      }
    };
    element.addEventListener('wheel', onWheel, { passive: false });
    return () => element.removeEventListener('wheel', onWheel);
  }, [setView, endSeconds, band.top, band.bottom]);

  const [pointerState] = useState(createPointerState);
  const handlers = pointerTools(pointerState, {
    frame,
    full,
    notes,
    reach,
    height: size.height,
    band,
    snap,
    tool,
    editing,
    engine,
    endSeconds,
    gesture,
    setGesture,
    setPointer,
    setView,
    onSelect,
    onChange,
    onHear,
  });

  const hover = full && pointer && !gesture ? hitTest(full, reach, size.height, pointer.x, pointer.y) : null;
  const cursor = gesture ? 'default' : cursorOf(hover, tool);
  return (
    <div
      ref={frame}
      className="time-canvas"
      style={{ cursor }}
      tabIndex={0}
      role="application"
      aria-label={`${editing?.unpitched ? `Onsets on a canvas, ${countOnsets(notes.length)}` : `Notes on a canvas, ${countNotes(notes.length)}`}, ${scene.selected.size} selected. N goes to the next doubtful note, arrows move the selection, question mark lists all keys.`}
      {...handlers}
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
