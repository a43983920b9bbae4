/** Dragging on the Timeline: passages, their edges and fades, and a rectangle over empty space. */
import { useCallback, useEffect, useMemo, useRef, useState, type PointerEvent, type RefObject } from 'react';
import { applyEdit, EditError, type Part, type PassagePlace, type Song } from '@plundra/core/song';
import { scrollTime, secondsOf, type TimeView } from '../../canvas/view.ts';
import {
  editOfDrag,
  keyOf,
  passageAt,
  passagesWithin,
  type DragContext,
  type DraggedEdit,
  type PassageDrag,
} from './passageTools.ts';

/** Nearer than this it was a click. */
const CLICK_PIXELS = 4;
/** Near a side the picture scrolls along while something is dragged. */
const SIDE_PIXELS = 36;
const SCROLL_PIXELS = 14;

interface Point {
  /** From the left of the pictures. */
  x: number;
  /** On the screen. */
  clientY: number;
}

type Drag =
  | {
      kind: 'passage';
      drag: PassageDrag;
      from: Point;
      to: Point;
      free: boolean;
      began: boolean;
      /** What is selected when nothing was dragged: what was selected together moves together, a click is meant for one. */
      clicked: readonly PassagePlace[];
    }
  | {
      kind: 'marquee';
      fromSeconds: number;
      from: Point;
      to: Point;
      leftX: number;
      before: readonly PassagePlace[];
    };

export interface PassageDragging {
  /** The song as it would be if the drag ended now. */
  shownSong: Song;
  /** What stands in the way of it. */
  refusal: string | null;
  /** A rectangle over empty space. */
  marquee: {
    fromSeconds: number;
    toSeconds: number;
    fromY: number;
    toY: number;
    /** Where the pictures begin on the screen. */
    leftX: number;
  } | null;
  dragging: boolean;
  onPointerDown(part: Part, event: PointerEvent<HTMLElement>): void;
}

interface Use {
  context: Omit<DragContext, 'view'>;
  view: TimeView;
  setView(make: (old: TimeView) => TimeView): void;
  endSeconds: number;
  rows: RefObject<HTMLElement | null>;
  selected: readonly PassagePlace[];
  select(places: readonly PassagePlace[]): void;
  /** The drag has ended: this is what it did. */
  done(made: DraggedEdit): void;
  say(problem: string): void;
}

export function usePassageDrag(use: Use): PassageDragging {
  const { context, view, setView, endSeconds, rows, selected, select, done, say } = use;
  const [drag, setDrag] = useState<Drag | null>(null);

  const full = useMemo<DragContext>(
    () => ({ ...context, ...(drag?.kind === 'passage' && drag.free && { snap: 'off' as const }), view }),
    [context, view, drag],
  );
  const planned = useMemo((): { made?: DraggedEdit; song?: Song; refusal?: string } => {
    if (drag?.kind !== 'passage' || !drag.began) return {};
    try {
      const made = editOfDrag(drag.drag, secondsOf(view, drag.to.x), full);
      return made ? { made, song: applyEdit(context.song, made.edit).song } : {};
    } catch (error) {
      if (!(error instanceof EditError)) throw error;
      return { refusal: error.message };
    }
  }, [drag, view, full, context.song]);

  const marquee = useMemo(() => {
    if (drag?.kind !== 'marquee') return null;
    const [fromY, toY] = [drag.from.clientY, drag.to.clientY].sort((a, b) => a - b);
    return {
      fromSeconds: drag.fromSeconds,
      toSeconds: secondsOf(view, drag.to.x),
      fromY,
      toY,
      leftX: drag.leftX,
    };
  }, [drag, view]);

  // The newest of everything, for handlers that stay the same: rows that are told of another are painted again.
  const { time } = context;
  const latest = useRef({ planned, marquee, drag, view, time, selected });
  useEffect(() => {
    latest.current = { planned, marquee, drag, view, time, selected };
  });

  const active = drag !== null;
  useEffect(() => {
    if (!active) return;
    const left = () => {
      const picture = rows.current?.querySelector('.part-picture');
      return picture?.getBoundingClientRect() ?? new DOMRect();
    };
    const onMove = (event: globalThis.PointerEvent) => {
      const to = { x: event.clientX - left().left, clientY: event.clientY };
      setDrag((old) => {
        if (!old) return null;
        if (old.kind === 'marquee') return { ...old, to };
        const began = old.began || Math.abs(to.x - old.from.x) > CLICK_PIXELS;
        return { ...old, to, began, free: event.ctrlKey || event.metaKey || event.altKey };
      });
    };
    const onUp = () => {
      const { planned: last, drag: ended } = latest.current;
      if (ended?.kind === 'passage') {
        if (last.refusal) say(last.refusal);
        else if (last.made) done(last.made);
        else if (!ended.began) select(ended.clicked);
      }
      setDrag(null);
    };
    const onKey = (event: KeyboardEvent) => {
      if (event.key !== 'Escape') return;
      event.stopPropagation();
      if (latest.current.drag?.kind === 'marquee') select(latest.current.drag.before);
      setDrag(null);
    };
    let request = 0;
    const scroll = () => {
      const { drag: now } = latest.current;
      const width = left().width;
      const by = !now
        ? 0
        : now.to.x > width - SIDE_PIXELS
          ? SCROLL_PIXELS
          : now.to.x < SIDE_PIXELS
            ? -SCROLL_PIXELS
            : 0;
      if (by !== 0 && (now?.kind === 'marquee' || now?.began))
        setView((old) => scrollTime(old, by, endSeconds + 60));
      request = requestAnimationFrame(scroll);
    };
    scroll();
    window.addEventListener('pointermove', onMove);
    window.addEventListener('pointerup', onUp);
    window.addEventListener('pointercancel', onUp);
    window.addEventListener('keydown', onKey, true);
    return () => {
      cancelAnimationFrame(request);
      window.removeEventListener('pointermove', onMove);
      window.removeEventListener('pointerup', onUp);
      window.removeEventListener('pointercancel', onUp);
      window.removeEventListener('keydown', onKey, true);
    };
  }, [active, rows, endSeconds, setView, select, done, say]);

  // What the rectangle touches is selected while it grows.
  useEffect(() => {
    if (drag?.kind !== 'marquee' || !marquee) return;
    const touched = new Set(
      [...(rows.current?.querySelectorAll<HTMLElement>('[data-part-id]') ?? [])]
        .filter((row) => {
          const { top, bottom } = row.getBoundingClientRect();
          return top < marquee.toY && bottom > marquee.fromY;
        })
        .map((row) => row.dataset.partId),
    );
    const parts = context.song.parts.filter(({ id }) => touched.has(id));
    const within = passagesWithin(parts, marquee.fromSeconds, marquee.toSeconds, context.time);
    const known = new Set(drag.before.map(keyOf));
    select([...drag.before, ...within.filter((place) => !known.has(keyOf(place)))]);
  }, [drag, marquee, rows, context.song, context.time, select]);

  const onPointerDown = useCallback(
    (part: Part, event: PointerEvent<HTMLElement>) => {
      if (event.button !== 0) return;
      const { view, time, selected } = latest.current;
      const box = event.currentTarget.getBoundingClientRect();
      const point = { x: event.clientX - box.left, clientY: event.clientY };
      const hit = passageAt(part, view, time, point.x, event.clientY - box.top);
      if (!hit) {
        const before = event.shiftKey ? selected : [];
        select(before);
        setDrag({
          kind: 'marquee',
          fromSeconds: secondsOf(view, point.x),
          from: point,
          to: point,
          leftX: box.left,
          before,
        });
        return;
      }
      const place = { partId: part.id, passageId: hit.passage.id };
      const isSelected = selected.some((each) => keyOf(each) === keyOf(place));
      const toggled = isSelected
        ? selected.filter((each) => keyOf(each) !== keyOf(place))
        : [...selected, place];
      if (event.shiftKey) return select(toggled);
      const adds = event.ctrlKey || event.metaKey;
      const places = isSelected ? selected : adds ? toggled : [place];
      if (!isSelected) select(places);
      const drag = { zone: hit.zone, place, places, fromSeconds: secondsOf(view, point.x) };
      const clicked = adds ? toggled : [place];
      setDrag({ kind: 'passage', drag, from: point, to: point, free: false, began: false, clicked });
    },
    [select],
  );

  return {
    shownSong: planned.song ?? context.song,
    refusal: planned.refusal ?? null,
    marquee,
    dragging: drag?.kind === 'passage' && drag.began,
    onPointerDown,
  };
}
