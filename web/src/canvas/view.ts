/** Geometry of a time canvas: seconds ↔ x and pitch ↔ y, zoom and scroll. Pure; nothing is drawn here. */
import { clamp, type Midi, type Seconds } from '@plundra/core/signal';

export interface TimeView {
  /** Song time at the left edge of the picture. */
  startSeconds: Seconds;
  pixelsPerSecond: number;
}

export interface PitchView {
  /** Pitch at the top edge. */
  topMidi: Midi;
  pixelsPerSemitone: number;
}

export interface View extends TimeView, PitchView {}

export const ZOOM = {
  leastPixelsPerSecond: 2,
  mostPixelsPerSecond: 4000,
  leastPixelsPerSemitone: 5,
  mostPixelsPerSemitone: 80,
};

export const xOf = (view: TimeView, seconds: Seconds): number =>
  (seconds - view.startSeconds) * view.pixelsPerSecond;
export const secondsOf = (view: TimeView, x: number): Seconds => view.startSeconds + x / view.pixelsPerSecond;
/** A whole note's lane is centred on its pitch. */
export const yOf = (view: PitchView, midi: Midi): number => (view.topMidi - midi) * view.pixelsPerSemitone;
export const midiOf = (view: PitchView, y: number): Midi => view.topMidi - y / view.pixelsPerSemitone;

/**
 * Zooms in time around a point, which keeps its place. `coveredPixels`: how much at the left lies under labels; second
 * 0 stays to the right of it, or reaches it.
 */
export function zoomTime<V extends TimeView>(view: V, factor: number, aroundX: number, coveredPixels = 0): V {
  const pixelsPerSecond = clamp(
    view.pixelsPerSecond * factor,
    ZOOM.leastPixelsPerSecond,
    ZOOM.mostPixelsPerSecond,
  );
  const fixed = secondsOf(view, aroundX);
  return {
    ...view,
    pixelsPerSecond,
    startSeconds: Math.max(0 - coveredPixels / pixelsPerSecond, fixed - aroundX / pixelsPerSecond),
  };
}

/** Zooms in pitch around a point, which keeps its place. */
export function zoomPitch(view: View, factor: number, aroundY: number): View {
  const pixelsPerSemitone = clamp(
    view.pixelsPerSemitone * factor,
    ZOOM.leastPixelsPerSemitone,
    ZOOM.mostPixelsPerSemitone,
  );
  return { ...view, pixelsPerSemitone, topMidi: midiOf(view, aroundY) + aroundY / pixelsPerSemitone };
}

export function scrollTime<V extends TimeView>(
  view: V,
  pixels: number,
  endSeconds: Seconds,
  coveredPixels = 0,
): V {
  const most = Math.max(0, endSeconds - 40 / view.pixelsPerSecond);
  return {
    ...view,
    startSeconds: clamp(
      view.startSeconds + pixels / view.pixelsPerSecond,
      0 - coveredPixels / view.pixelsPerSecond,
      most,
    ),
  };
}

export function scrollPitch(view: View, pixels: number, height: number): View {
  const visible = height / view.pixelsPerSemitone;
  return {
    ...view,
    topMidi: clamp(view.topMidi - pixels / view.pixelsPerSemitone, Math.min(127, visible - 1), 128),
  };
}

interface Point {
  x: number;
  y: number;
}

/** Fingers closer than this in one direction say nothing about zoom in it. */
const PINCH_PIXELS = 30;

/**
 * One of two fingers has moved: what lies under each finger stays under it. In a direction in which they are close
 * together the picture follows half the way, so that two moving fingers carry it along.
 */
export function pinchView(
  view: View,
  { from, to, other, bandTop }: { from: Point; to: Point; other: Point; bandTop: number },
  endSeconds: Seconds,
  coveredPixels = 0,
): View {
  const spread = (axis: 'x' | 'y') => {
    const [before, after] = [from[axis] - other[axis], to[axis] - other[axis]];
    const clear = Math.abs(before) >= PINCH_PIXELS && Math.abs(after) >= PINCH_PIXELS;
    return clear && before * after > 0 ? after / before : undefined;
  };
  const [inTime, inPitch] = [spread('x'), spread('y')];
  const timed =
    inTime === undefined
      ? scrollTime(view, (from.x - to.x) / 2, endSeconds, coveredPixels)
      : zoomTime(view, inTime, other.x, coveredPixels);
  return inPitch === undefined
    ? { ...timed, topMidi: timed.topMidi + (to.y - from.y) / 2 / timed.pixelsPerSemitone }
    : zoomPitch(timed, inPitch, other.y - bandTop);
}

/** A view that shows all of the given spans with some air around. */
export function fitView(
  spans: readonly { startSeconds: Seconds; endSeconds: Seconds; midi: Midi }[],
  width: number,
  height: number,
  longestSeconds: Seconds,
): View {
  if (spans.length === 0) {
    return {
      startSeconds: 0,
      pixelsPerSecond: 60,
      topMidi: 79,
      pixelsPerSemitone: clamp(height / 26, 10, 24),
    };
  }
  let low = 127;
  let high = 0;
  let first = Infinity;
  let last = 0;
  for (const { startSeconds, endSeconds, midi } of spans) {
    low = Math.min(low, midi);
    high = Math.max(high, midi);
    first = Math.min(first, startSeconds);
    last = Math.max(last, endSeconds);
  }
  const startSeconds = Math.max(0, first - 0.5);
  const shown = Math.min(longestSeconds, last + 0.5 - startSeconds);
  const semitones = Math.max(14, high - low + 5);
  const pixelsPerSemitone = clamp(height / semitones, 6, 30);
  const middle = (high + low) / 2;
  return {
    startSeconds,
    pixelsPerSecond: clamp(width / Math.max(1, shown), ZOOM.leastPixelsPerSecond, 400),
    topMidi: middle + height / pixelsPerSemitone / 2,
    pixelsPerSemitone,
  };
}

/** Keeps a moving playhead in sight: turns the page when it leaves to the right, jumps when it is elsewhere. */
export function followPlayhead(view: View, seconds: Seconds, width: number, coveredPixels = 0): View {
  const x = xOf(view, seconds);
  if (x >= coveredPixels && x < width * 0.92) return view;
  return scrollTime(view, x - coveredPixels - width * 0.08, Infinity, coveredPixels);
}
