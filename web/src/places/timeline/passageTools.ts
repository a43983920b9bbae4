/** What a drag over the passages of the Timeline does: pure, without React and pixels of a particular screen. */
import type { Seconds, Ticks } from '@plundra/core/signal';
import {
  EditError,
  gridStepTicks,
  findPassages,
  isSpare,
  passageEndSeconds,
  passageEndTicks,
  planMove,
  planRepeat,
  planStretch,
  planTrim,
  snapTicks,
  withSpares,
  type Edit,
  type Part,
  type Passage,
  type PassagePlace,
  type Song,
  type TimeMap,
} from '@plundra/core/song';
import { xOf, type TimeView } from '../../canvas/view.ts';

export type Snap = 'auto' | 'bar' | 'beat' | 'off';
/** Longer recordings cannot be stretched. */
export const LONGEST_STRETCHED_SECONDS = 1200;
const TOO_LONG =
  'A recording of more than 20 minutes keeps its own time. Import the stretch you need as a file of its own.';
/** What dragging the edge of a passage does. */
export type Edges = 'trim' | 'stretch' | 'repeat';

export type PassageZone = 'body' | 'start' | 'end' | 'fadeIn' | 'fadeOut';

export interface PassageHit {
  passage: Passage;
  zone: PassageZone;
}

/** So near to an edge, in pixels, one means the edge. */
const EDGE_PIXELS = 7;
/** Handles of fades lie in the upper corners. */
const FADE_PIXELS = 14;
/** Below this width a passage is only body. */
const NARROW_PIXELS = 28;

/** The passage under a point of a part's row; of several the one that begins last, which is drawn on top. */
export function passageAt(
  part: Part,
  view: TimeView,
  time: TimeMap,
  x: number,
  y: number,
): PassageHit | undefined {
  const under = (part.passages as Passage[])
    .filter((passage) => {
      if (isSpare(passage)) return false;
      const { left, right } = spanOf(passage, view, time);
      return x >= left - 2 && x <= Math.max(right, left + 4) + 2;
    })
    .sort((a, b) => a.startTicks - b.startTicks)
    .at(-1);
  if (!under) return undefined;
  const { left, right } = spanOf(under, view, time);
  if (right - left < NARROW_PIXELS) return { passage: under, zone: 'body' };
  if (under.type === 'recording' && y < FADE_PIXELS) {
    const fadeIn = left + (under.fadeInSeconds ?? 0) * view.pixelsPerSecond;
    const fadeOut = right - (under.fadeOutSeconds ?? 0) * view.pixelsPerSecond;
    if (Math.abs(x - fadeIn - FADE_PIXELS / 2) <= FADE_PIXELS / 2) return { passage: under, zone: 'fadeIn' };
    if (Math.abs(x - fadeOut + FADE_PIXELS / 2) <= FADE_PIXELS / 2)
      return { passage: under, zone: 'fadeOut' };
  }
  if (x - left <= EDGE_PIXELS) return { passage: under, zone: 'start' };
  if (right - x <= EDGE_PIXELS) return { passage: under, zone: 'end' };
  return { passage: under, zone: 'body' };
}

export function spanOf(passage: Passage, view: TimeView, time: TimeMap): { left: number; right: number } {
  return {
    left: xOf(view, time.secondsAt(passage.startTicks)),
    right: xOf(view, passageEndSeconds(passage, time)),
  };
}

export function cursorOf(hit: PassageHit | undefined, edges: Edges): string {
  if (!hit) return 'default';
  if (hit.zone === 'body') return 'grab';
  return hit.zone === 'end' && edges === 'repeat' ? 'copy' : 'ew-resize';
}

/** The step to which things snap at a place and zoom; 0 is none. */
export function snapStep(snap: Snap, view: TimeView, time: TimeMap, nearTicks: Ticks): Ticks {
  const at = Math.max(0, nearTicks);
  if (snap === 'off') return 0;
  if (snap === 'beat') return time.beatTicksAt(at);
  if (snap === 'bar') {
    const { bar } = time.barAt(at);
    return time.barStartTicks(bar + 1) - time.barStartTicks(bar);
  }
  return gridStepTicks('adaptive', at, time, view.pixelsPerSecond);
}

/** The nearest place to snap to. */
export function snapped(snap: Snap, view: TimeView, time: TimeMap, ticks: Ticks): Ticks {
  return snapTicks(Math.max(0, Math.round(ticks)), snapStep(snap, view, time, ticks), time);
}

/** A drag that has begun on a passage. */
export interface PassageDrag {
  zone: PassageZone;
  /** The passage it began on, and all that move with it. */
  place: PassagePlace;
  places: readonly PassagePlace[];
  /** Where it began. */
  fromSeconds: Seconds;
}

export interface DragContext {
  song: Song;
  time: TimeMap;
  view: TimeView;
  snap: Snap;
  edges: Edges;
  /** Length of a recording by its hash; undefined while it is not known. */
  recordedSeconds(hash: string): Seconds | undefined;
  createId(): string;
}

export interface DraggedEdit {
  label: string;
  edit: Edit;
  /** Passages it makes, which are selected then. */
  made?: PassagePlace[];
}

const count = (places: readonly PassagePlace[]) =>
  places.length === 1 ? 'passage' : `${places.length} passages`;

/** The edit that a drag makes when it ends at a time of the song; undefined where it changes nothing. */
export function editOfDrag(
  drag: PassageDrag,
  toSeconds: Seconds,
  context: DragContext,
): DraggedEdit | undefined {
  const { song, time, view, snap, edges } = context;
  const [found] = findPassages(song, [drag.place]);
  if (!found) return undefined;
  const { passage, part } = found;
  const toTicks = time.ticksAt(Math.max(0, toSeconds));
  const snapTo = (ticks: Ticks) => snapped(snap, view, time, ticks);
  const made = (label: string, edit: Edit | undefined): DraggedEdit | undefined => edit && { label, edit };
  switch (drag.zone) {
    case 'body': {
      const moved = passage.startTicks + toTicks - time.ticksAt(drag.fromSeconds);
      return made(
        `Move ${count(drag.places)}`,
        planMove(withSpares(findPassages(song, drag.places), time), snapTo(moved) - passage.startTicks),
      );
    }
    case 'start':
    case 'end': {
      const edge = drag.zone === 'end' ? passageEndTicks(passage, time) : passage.startTicks;
      const wanted = snapTo(edge + toTicks - time.ticksAt(drag.fromSeconds));
      const recorded = recordedSecondsOf(part, passage, context);
      if (drag.zone === 'end' && edges === 'repeat' && wanted > edge) {
        const copies = planRepeat([found], wanted, time, context.createId);
        return copies && { label: 'Repeat passage', edit: copies.edit, made: [drag.place, ...copies.places] };
      }
      if (edges === 'stretch') {
        // Recordings over 20 minutes are played in pieces, which keep their own time.
        if (passage.type === 'recording' && recorded > LONGEST_STRETCHED_SECONDS && Number.isFinite(recorded))
          throw new EditError(TOO_LONG);
        return made('Stretch passage', planStretch(found, drag.zone, wanted, time));
      }
      return made('Trim passage', planTrim(found, drag.zone, wanted, time, recorded));
    }
    default: {
      if (passage.type !== 'recording') return undefined;
      const start = time.secondsAt(passage.startTicks);
      const field = drag.zone === 'fadeIn' ? 'fadeInSeconds' : 'fadeOutSeconds';
      const by = (drag.zone === 'fadeIn' ? 1 : -1) * (toSeconds - drag.fromSeconds);
      const other = passage[drag.zone === 'fadeIn' ? 'fadeOutSeconds' : 'fadeInSeconds'] ?? 0;
      const longest = Math.min(60, passage.durationSeconds - other);
      const length = Math.round(1000 * Math.max(0, Math.min(longest, (passage[field] ?? 0) + by))) / 1000;
      if (length === (passage[field] ?? 0) || start + length < 0) return undefined;
      return {
        label: drag.zone === 'fadeIn' ? 'Fade in' : 'Fade out',
        edit: { type: 'passage.set', ...drag.place, patch: { [field]: length > 0 ? length : null } },
      };
    }
  }
}

export function recordedSecondsOf(
  part: Part,
  passage: Passage,
  { recordedSeconds }: Pick<DragContext, 'recordedSeconds'>,
): Seconds {
  if (part.kind !== 'recording' || passage.type !== 'recording') return Infinity;
  const hash = part.takes.find(({ id }) => id === passage.takeId)?.recordingHash;
  // As long as it is not known nothing can be brought back.
  const known = hash === undefined ? undefined : recordedSeconds(hash);
  return known ?? passage.offsetSeconds + passage.durationSeconds;
}

/** The passages that a rectangle over rows and time touches. */
export function passagesWithin(
  parts: readonly Part[],
  fromSeconds: Seconds,
  toSeconds: Seconds,
  time: TimeMap,
): PassagePlace[] {
  const [from, to] = [Math.min(fromSeconds, toSeconds), Math.max(fromSeconds, toSeconds)];
  return placesIn(
    parts,
    (passage) => time.secondsAt(passage.startTicks) < to && passageEndSeconds(passage, time) > from,
  );
}

/** All passages that stand in the rows of parts. */
export function placesIn(
  parts: readonly Part[],
  has: (passage: Passage) => boolean = () => true,
): PassagePlace[] {
  return parts.flatMap((part) =>
    (part.passages as Passage[])
      .filter((passage) => !isSpare(passage) && has(passage))
      .map(({ id }) => ({ partId: part.id, passageId: id })),
  );
}

/** All passages that begin at a tick or later. */
export function passagesFrom(song: Song, ticks: Ticks): PassagePlace[] {
  return placesIn(song.parts, ({ startTicks }) => startTicks >= ticks);
}

export const keyOf = ({ partId, passageId }: PassagePlace): string => `${partId}/${passageId}`;
