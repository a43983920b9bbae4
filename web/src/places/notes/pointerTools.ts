/** Pointer and touch on the notes canvas: what a press, a drag and a release do with each tool. */
import type { PointerEvent as ReactPointerEvent, RefObject } from 'react';
import { hzToMidi } from '@plundra/core/theory';
import { midiOf, pinchView, scrollPitch, scrollTime, secondsOf, type View } from '../../canvas/view.ts';
import type { Engine } from '../../audio/engine.ts';
import type { CanvasNote } from './canvasNote.ts';
import { dragMove, snapSeconds, type Gesture, type SnapSettings, type Tool } from './gesture.ts';
import { hitTest, notesInBox, type Hit } from './hitTest.ts';
import { BANDS, recordingAt, type LineScene } from './lineScene.ts';
import type { LabelledEdit, NoteEditing } from './noteEditing.ts';

interface Point {
  x: number;
  y: number;
}

type CanvasPointer = Pick<
  ReactPointerEvent,
  | 'button'
  | 'pointerType'
  | 'pointerId'
  | 'clientX'
  | 'clientY'
  | 'shiftKey'
  | 'ctrlKey'
  | 'metaKey'
  | 'altKey'
>;

/** What lasts from a press to its release; changed in place. */
export interface PointerState {
  dragFrom: (Point & { hit: Hit }) | null;
  /** MIDI key that was heard last, so that a drag sounds each once. */
  lastHeard: number;
  /** Fingers on the canvas by pointer. */
  touches: Map<number, Point>;
}

export const createPointerState = (): PointerState => ({
  dragFrom: null,
  lastHeard: -1,
  touches: new Map(),
});

export interface PointerContext {
  frame: RefObject<HTMLDivElement | null>;
  /** The scene with its view; null before the first. */
  full: LineScene | null;
  /** Notes without a drag in progress. */
  notes: readonly CanvasNote[];
  /** See `reachOf`. */
  reach: number;
  height: number;
  band: { top: number; bottom: number };
  snap: SnapSettings;
  tool: Tool;
  editing: NoteEditing | null;
  engine: Pick<Engine, 'seek' | 'setLoop'>;
  endSeconds: number;
  gesture: Gesture | null;
  setGesture(gesture: Gesture | null): void;
  setPointer(point: Point | null): void;
  setView(next: (old: View) => View): void;
  onSelect(ids: ReadonlySet<string>): void;
  onChange(change: LabelledEdit | undefined): void;
  onHear(midi: number, velocity: number): void;
}

export function pointerTools(state: PointerState, context: PointerContext) {
  const {
    frame,
    full,
    notes,
    reach,
    height,
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
  } = context;
  const { touches } = state;

  const hear = (midi: number, velocity: number) => {
    if (Math.round(midi) === state.lastHeard) return;
    state.lastHeard = Math.round(midi);
    onHear(midi, velocity);
  };

  const onPointerDown = (event: CanvasPointer) => {
    if (!full || event.button === 2) return;
    const { view } = full;
    const point = localPoint(event, frame.current!);
    if (event.pointerType === 'touch') {
      touches.set(event.pointerId, point);
      frame.current!.setPointerCapture(event.pointerId);
      // The second finger turns the first one's gesture into a pinch.
      if (touches.size > 1) {
        state.dragFrom = null;
        return setGesture(null);
      }
    }
    const hit = hitTest(full, reach, height, point.x, point.y, tool !== 'draw');
    frame.current!.focus({ preventScroll: true });
    frame.current!.setPointerCapture(event.pointerId);
    state.dragFrom = { ...point, hit };
    state.lastHeard = -1;
    const additive = event.shiftKey || event.ctrlKey || event.metaKey;
    const selected = full.selected;
    if (event.button === 1) return setGesture({ kind: 'scroll', ...point });
    if (hit.zone === 'ruler') {
      if (event.shiftKey)
        return setGesture({
          kind: 'loop',
          fromSeconds: snapSeconds(secondsOf(view, point.x), snap),
          toSeconds: snapSeconds(secondsOf(view, point.x), snap),
        });
      const at = secondsOf(view, point.x);
      engine.seek(event.ctrlKey || event.metaKey ? Math.max(0, at) : snapSeconds(at, snap));
      return setGesture({ kind: 'seek' });
    }
    if (hit.zone === 'labels') {
      const same = notes.filter((note) => Math.round(note.midi) === hit.midi).map((note) => note.id);
      onSelect(new Set(additive ? [...selected, ...same] : same));
      onHear(hit.midi, 90);
      return;
    }
    if (!editing) return;
    if (tool === 'cut' && 'note' in hit && hit.zone !== 'onset')
      return onChange(editing.cut(hit.note.id, secondsOf(view, point.x)));
    if (tool === 'draw' && (hit.zone === 'empty' || hit.zone === 'waveform')) {
      const free = !editing.snaps || event.ctrlKey || event.metaKey;
      const start = free
        ? Math.max(0, secondsOf(view, point.x))
        : snapSeconds(secondsOf(view, point.x), snap);
      const midi =
        hit.zone === 'waveform'
          ? (heardPitch(full, start) ?? 67)
          : Math.round(midiOf(view, point.y - band.top));
      if (editing.unpitched) return onChange(editing.draw(start, start, midi));
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
      if (hit.zone !== 'onset') hear(note.midi, note.velocity);
      return setGesture({
        kind: 'move',
        note,
        ids,
        move: { seconds: 0, semitones: 0 },
        moved: false,
        added: additive,
        timeOnly: hit.zone === 'onset',
      });
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

  const onPointerMove = (event: CanvasPointer) => {
    const point = localPoint(event, frame.current!);
    setPointer(point);
    const before = touches.get(event.pointerId);
    if (before && touches.size === 2) {
      const [other] = [...touches].flatMap(([id, at]) => (id === event.pointerId ? [] : [at]));
      touches.set(event.pointerId, point);
      setView((old) =>
        pinchView(old, { from: before, to: point, other, bandTop: band.top }, endSeconds, BANDS.labels),
      );
      return;
    }
    const from = state.dragFrom;
    if (!gesture || !from || !full) return;
    const { view } = full;
    const seconds = secondsOf(view, point.x);
    const free = event.ctrlKey || event.metaKey;
    switch (gesture.kind) {
      case 'marquee': {
        const box = { ...gesture, x1: point.x, y1: point.y };
        setGesture(box);
        onSelect(new Set([...gesture.before, ...notesInBox({ ...full, notes }, height, box)]));
        break;
      }
      case 'move': {
        const drag = {
          seconds: (point.x - from.x) / view.pixelsPerSecond,
          semitones: gesture.timeOnly ? 0 : (from.y - point.y) / view.pixelsPerSemitone,
          pixelsX: point.x - from.x,
        };
        const far = Math.abs(point.x - from.x) > 3 || Math.abs(point.y - from.y) > 3;
        if (!far && !gesture.moved) break;
        const move = dragMove(gesture.note, drag, {
          free: free || gesture.timeOnly,
          fine: event.altKey,
          snap,
        });
        if (move.semitones !== 0 || gesture.move.semitones !== 0)
          hear(gesture.note.midi + move.semitones, gesture.note.velocity);
        setGesture({ ...gesture, move, moved: true });
        break;
      }
      case 'trim': {
        const at = free || !editing?.snaps ? seconds : snapSeconds(seconds, snap);
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
            free || !editing?.snaps ? seconds : snapSeconds(seconds, snap),
          ),
        });
        break;
      case 'seek':
        engine.seek(free ? Math.max(0, seconds) : snapSeconds(seconds, snap));
        break;
      case 'loop':
        setGesture({ ...gesture, toSeconds: snapSeconds(seconds, snap) });
        break;
      case 'scroll':
        setView((old) =>
          scrollPitch(
            scrollTime(old, gesture.x - point.x, endSeconds, BANDS.labels),
            gesture.y - point.y,
            band.bottom - band.top,
          ),
        );
        setGesture({ ...gesture, ...point });
        break;
    }
  };

  const onPointerUp = (event: CanvasPointer) => {
    touches.delete(event.pointerId);
    const done = gesture;
    const from = state.dragFrom;
    setGesture(null);
    state.dragFrom = null;
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
        else if (done.ids.size > 1 && !done.moved && !done.added) onSelect(new Set([done.note.id]));
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

  return {
    onPointerDown,
    onPointerMove,
    onPointerUp,
    onPointerCancel: (event: CanvasPointer) => {
      touches.delete(event.pointerId);
      state.dragFrom = null;
      setGesture(null);
    },
    onPointerLeave: () => setPointer(null),
  };
}

export function localPoint(event: { clientX: number; clientY: number }, element: HTMLElement): Point {
  const box = element.getBoundingClientRect();
  return { x: event.clientX - box.left, y: event.clientY - box.top };
}

/** The pitch that the contour has at a time, for drawing over the waveform. */
function heardPitch(scene: LineScene, songSeconds: number): number | undefined {
  const recording = recordingAt(scene, songSeconds);
  const contour = recording?.contour;
  if (!contour) return undefined;
  const at = Math.round(recording.toRecorded(songSeconds) / contour.hopSeconds);
  const ahead = Array.from(contour.f0Hz.subarray(Math.max(0, at), Math.max(0, at + 12)));
  const f0Hz = ahead.find((hz) => hz > 0) ?? ahead.find((hz) => hz < 0);
  return f0Hz === undefined ? undefined : hzToMidi(Math.abs(f0Hz));
}

export function cursorOf(hit: Hit | null, tool: Tool): string {
  if (!hit) return 'default';
  if (tool === 'cut') return 'note' in hit ? 'text' : 'default';
  if (tool === 'draw' && (hit.zone === 'empty' || hit.zone === 'waveform')) return 'crosshair';
  switch (hit.zone) {
    case 'start':
    case 'end':
    case 'onset':
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
