import { describe, expect, it } from 'vitest';
import { xOf, yOf, type View } from '../../canvas/view.ts';
import type { CanvasNote } from './canvasNote.ts';
import type { Gesture, Tool } from './gesture.ts';
import { BANDS, noteBand, reachOf } from './lineScene.ts';
import type { LabelledEdit, NoteEditing } from './noteEditing.ts';
import { createPointerState, pointerTools, type PointerContext } from './pointerTools.ts';
import { note, scene, time, view } from './testScene.ts';

const HEIGHT = 500;
const band = noteBand(HEIGHT, false);
/** Sixteenths at 120 bpm. */
const STEP_SECONDS = 0.125;
type Keys = Partial<Record<'shiftKey' | 'ctrlKey' | 'altKey', boolean>> & { button?: number };

/** A canvas and a hand: what is done with it, as calls of what it edits, hears, selects and seeks. */
function canvas(
  notes: CanvasNote[],
  { tool = 'select', snaps = true }: { tool?: Tool; snaps?: boolean } = {},
) {
  const calls: unknown[][] = [];
  const heard: number[] = [];
  const edit =
    (name: string) =>
    (...args: unknown[]): LabelledEdit | undefined => {
      calls.push([name, ...args.map((each) => (each instanceof Set ? [...(each as Set<string>)] : each))]);
      return undefined;
    };
  const editing = {
    snaps,
    notes,
    move: edit('move'),
    trim: edit('trim'),
    draw: edit('draw'),
    cut: edit('cut'),
    setVelocity: (ids: ReadonlySet<string>, change: (velocity: number) => number) =>
      edit('velocity')(ids, change(50) - 50),
  } as unknown as NoteEditing;
  let gesture: Gesture | null = null;
  let selected: ReadonlySet<string> = new Set();
  let shown: View = view;
  const state = createPointerState();
  const tools = () => {
    const context: PointerContext = {
      frame: {
        current: {
          focus: () => undefined,
          setPointerCapture: () => undefined,
          getBoundingClientRect: () => ({ left: 0, top: 0 }),
        } as unknown as HTMLDivElement,
      },
      full: { ...scene(notes), view: shown, selected },
      notes,
      reach: reachOf(notes),
      height: HEIGHT,
      band,
      snap: { time, stepTicks: 240 },
      tool,
      editing,
      engine: {
        seek: (seconds) => void calls.push(['seek', seconds]),
        setLoop: (loop) => void calls.push(['loop', loop && [loop.startSeconds, loop.endSeconds]]),
      },
      endSeconds: 60,
      gesture,
      setGesture: (next) => (gesture = next),
      setPointer: () => undefined,
      setView: (next) => (shown = next(shown)),
      onSelect: (ids) => (selected = ids),
      onChange: () => undefined,
      onHear: (midi) => void heard.push(midi),
    };
    return pointerTools(state, context);
  };
  const event = (x: number, y: number, { button = 0, ...keys }: Keys = {}, pointerId = 1) => ({
    button,
    pointerId,
    pointerType: pointerId === 1 ? ('mouse' as const) : ('touch' as const),
    clientX: x,
    clientY: y,
    shiftKey: false,
    ctrlKey: false,
    metaKey: false,
    altKey: false,
    ...keys,
  });
  return {
    calls,
    heard,
    selected: () => [...selected],
    view: () => shown,
    press: (x: number, y: number, keys?: Keys, id?: number) => tools().onPointerDown(event(x, y, keys, id)),
    moveTo: (x: number, y: number, keys?: Keys, id?: number) => tools().onPointerMove(event(x, y, keys, id)),
    release: (x: number, y: number, keys?: Keys, id?: number) => tools().onPointerUp(event(x, y, keys, id)),
    cancel: (x: number, y: number) => tools().onPointerCancel(event(x, y)),
    drag(from: readonly [number, number], to: readonly [number, number], keys?: Keys) {
      this.press(...from, keys);
      this.moveTo((from[0] + to[0]) / 2, (from[1] + to[1]) / 2, keys);
      this.moveTo(...to, keys);
      this.release(...to, keys);
    },
    click(x: number, y: number, keys?: Keys) {
      this.press(x, y, keys);
      this.release(x, y, keys);
    },
  };
}

const at = (seconds: number, midi: number): [number, number] => [
  xOf(view, seconds),
  band.top + yOf(view, midi),
];
const two = () => [note('a', 4, 67), note('b', 6, 64)];

describe('choosing', () => {
  it('a note, with shift another, with shift once more not', () => {
    const hand = canvas(two());
    hand.click(...at(4.5, 67));
    expect(hand.selected()).toEqual(['a']);
    hand.click(...at(6.5, 64), { shiftKey: true });
    expect(hand.selected()).toEqual(['a', 'b']);
    hand.click(...at(4.5, 67), { ctrlKey: true });
    expect(hand.selected()).toEqual(['b']);
    expect(hand.calls).toEqual([]);
  });

  it('one of many that are chosen leaves it alone', () => {
    const hand = canvas(two());
    hand.drag(at(3.5, 68), at(7.5, 63));
    expect(hand.selected()).toEqual(['a', 'b']);
    hand.click(...at(4.5, 67));
    expect(hand.selected()).toEqual(['a']);
  });

  it('by a frame, added to what was chosen with shift; a click beside all lets go', () => {
    const hand = canvas(two());
    hand.drag(at(3.5, 68), at(5.5, 66));
    expect(hand.selected()).toEqual(['a']);
    hand.drag(at(5.5, 65), at(7.5, 63), { shiftKey: true });
    expect(hand.selected()).toEqual(['a', 'b']);
    hand.click(...at(8.5, 60));
    expect(hand.selected()).toEqual([]);
  });

  it('all notes of a pitch at its name, which is heard', () => {
    const hand = canvas([...two(), note('c', 8, 67)]);
    hand.click(20, band.top + yOf(view, 67));
    expect(hand.selected()).toEqual(['a', 'c']);
    expect(hand.heard).toEqual([67]);
  });
});

describe('dragging a note', () => {
  it('moves all that are chosen, to the grid and by semitones, and sounds each pitch once', () => {
    const hand = canvas(two());
    hand.drag(at(3.5, 68), at(7.5, 63));
    hand.drag(at(4.5, 67), at(4.5 + 1.03, 69));
    expect(hand.calls).toEqual([['move', ['a', 'b'], { seconds: 1, semitones: 2 }]]);
    expect(hand.heard).toEqual([67, 68, 69]);
  });

  it('with Ctrl lies between the grid lines, with Alt moves by cents', () => {
    const hand = canvas(two());
    hand.press(...at(4.5, 67));
    hand.moveTo(...at(4.83, 67.3), { ctrlKey: true, altKey: true });
    hand.release(...at(4.83, 67.3));
    const [[, ids, move]] = hand.calls as [string, string[], { seconds: number; semitones: number }][];
    expect(ids).toEqual(['a']);
    expect(move.seconds).toBeCloseTo(0.33);
    expect(move.semitones).toBeCloseTo(0.3);
  });

  it('by less than three pixels, or broken off, changes nothing', () => {
    const hand = canvas(two());
    const [x, y] = at(4.5, 67);
    hand.drag([x, y], [x + 2, y + 2]);
    hand.press(x, y);
    hand.moveTo(x + 90, y);
    hand.cancel(x + 90, y);
    hand.release(x + 90, y);
    expect(hand.calls).toEqual([]);
  });

  it('by an edge trims it, on the grid where notes are written, and never to nothing', () => {
    const written = canvas(two());
    written.drag(at(4.98, 67), at(5.6, 67));
    expect(written.calls).toEqual([['trim', 'a', 4, 5.625]]);
    const played = canvas(two(), { snaps: false });
    played.drag(at(4.02, 67), at(4.31, 67));
    expect(played.calls[0][2]).toBeCloseTo(4.31);
    played.drag(at(4.98, 67), at(3, 67));
    expect(played.calls[1].slice(0, 3)).toEqual(['trim', 'a', 4]);
    expect(played.calls[1][3]).toBeCloseTo(4.03);
  });

  it('by its stem sets its velocity: up is louder', () => {
    const hand = canvas(two());
    const [x, y] = [xOf(view, 4), band.top + yOf(view, 67) - 18];
    hand.drag([x, y], [x, y - 20]);
    expect(hand.calls).toEqual([['velocity', ['a'], 30]]);
  });
});

describe('drawing and cutting', () => {
  it('draws from grid line to grid line at the pitch that was pressed, also over stems', () => {
    const hand = canvas(two(), { tool: 'draw' });
    hand.drag(at(7.04, 66), at(7.55, 61));
    expect(hand.calls).toEqual([['draw', 7, 7.5, 66]]);
    expect(hand.heard).toEqual([66]);
    const [x, y] = [xOf(view, 4), band.top + yOf(view, 67) - 18];
    hand.click(x, y);
    expect(hand.calls[1][0]).toBe('draw');
    hand.drag(at(8, 70), at(7, 70));
    expect(hand.calls[2]).toEqual(['draw', 8, 8, 70]);
  });

  it('with Ctrl draws between the grid lines', () => {
    const hand = canvas([], { tool: 'draw' });
    hand.drag(at(7.04, 66), at(7.55, 66), { ctrlKey: true });
    const [[, start, end]] = hand.calls as [string, number, number][];
    expect(start).toBeCloseTo(7.04);
    expect(end).toBeCloseTo(7.55);
  });

  it('cuts a note where it is pressed, and nothing beside it', () => {
    const hand = canvas(two(), { tool: 'cut' });
    hand.click(...at(4.4, 67));
    hand.click(...at(8, 67));
    expect(hand.calls).toEqual([['cut', 'a', 4.4]]);
  });
});

describe('on the ruler', () => {
  it('the playhead goes to the grid, with Ctrl anywhere', () => {
    const hand = canvas(two());
    hand.press(xOf(view, 4.04), 10);
    hand.moveTo(xOf(view, 4.3), 10);
    hand.moveTo(xOf(view, 4.3), 10, { ctrlKey: true });
    hand.release(xOf(view, 4.3), 10);
    const seconds = hand.calls.map(([, value]) => value as number);
    expect(seconds[0]).toBeCloseTo(4);
    expect(seconds[1]).toBeCloseTo(4 + 2 * STEP_SECONDS);
    expect(seconds[2]).toBeCloseTo(4.3);
  });

  it('shift and a drag set a loop in either direction; a shift-click removes it', () => {
    const hand = canvas(two());
    hand.drag([xOf(view, 7), 10], [xOf(view, 5), 10], { shiftKey: true });
    hand.click(xOf(view, 5), 10, { shiftKey: true });
    expect(hand.calls).toEqual([
      ['loop', [5, 7]],
      ['loop', null],
    ]);
  });
});

describe('moving the picture', () => {
  it('goes with the middle button', () => {
    const hand = canvas(two());
    hand.drag([500, 200], [400, 260], { button: 1 });
    expect(hand.view().startSeconds).toBeCloseTo(view.startSeconds + 1);
    expect(hand.view().topMidi).toBeGreaterThan(view.topMidi);
    expect(hand.calls).toEqual([]);
  });

  it('goes with two fingers, and the second takes back what the first began', () => {
    const hand = canvas(two());
    const [x, y] = at(4.5, 67);
    hand.press(x, y, {}, 2);
    hand.moveTo(x + 30, y, {}, 2);
    hand.press(x + 200, y, {}, 3);
    hand.moveTo(x + 400, y, {}, 3);
    hand.release(x + 400, y, {}, 3);
    hand.release(x + 30, y, {}, 2);
    expect(hand.view().pixelsPerSecond).toBeGreaterThan(view.pixelsPerSecond);
    expect(hand.calls).toEqual([]);
    // One finger draws, moves and chooses again.
    hand.press(BANDS.labels + 300, 10, {}, 2);
    hand.release(BANDS.labels + 300, 10, {}, 2);
    expect(hand.calls.map(([what]) => what)).toEqual(['seek']);
  });
});
