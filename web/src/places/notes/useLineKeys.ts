import { useEffect, useRef, type RefObject } from 'react';
import { snapTicks, type Part } from '@plundra/core/song';
import { isTyping } from '../../controls/keyFocus.ts';
import { useSong } from '../../song/SongContext.tsx';
import type { Tool } from './gesture.ts';
import type { LineCanvasHandle } from './LineCanvas.tsx';
import type { Doubtful } from './useDoubtful.ts';
import { clipSpan, followed, type LabelledEdit, type Clip, type NoteEditing } from './noteEditing.ts';

/** Notes that were copied; kept over places and parts of this window. */
let clipboard: { clip: Clip; partId: string } | undefined;

interface Options {
  part: Part;
  editing: NoteEditing | null;
  /** The same, with steps in pitch as the canvas shows them. */
  moving: NoteEditing | null;
  /** Ids of notes of `editing`. */
  selected: ReadonlySet<string>;
  setSelected(ids: ReadonlySet<string>): void;
  change(change: LabelledEdit | undefined): void;
  canvas: RefObject<LineCanvasHandle | null>;
  tool: Tool;
  setTool(tool: Tool): void;
  doubtful: Doubtful;
  hear(midi: number, velocity: number): void;
  tune(): void;
  pull(): void;
}

/** Keys of the Notes place. */
export function useLineKeys(options: Options): void {
  const { engine, time, apply } = useSong();
  const latest = useRef(options);
  useEffect(() => {
    latest.current = options;
  });
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (isTyping(event)) return;
      const { part, editing, moving, selected, setSelected, change, canvas, tool, setTool, doubtful, hear } =
        latest.current;
      const key = event.key.toLowerCase();
      const command = event.ctrlKey || event.metaKey;
      // Worked out only for the keys that need it: there may be thousands of notes.
      const chosen = () => editing?.notes.filter((note) => selected.has(note.id)) ?? [];
      const stepSeconds = () => {
        const ticks = canvas.current?.stepTicks() || 240;
        const start = editing?.notes.find((note) => selected.has(note.id))?.startSeconds ?? 0;
        return time.secondsAt(time.ticksAt(start) + ticks) - start;
      };
      const move = (seconds: number, semitones: number) => {
        const moved = moving?.move(selected, { seconds, semitones });
        change(moving?.unpitched ? moved : followed(moved, selected));
        const first = moving?.notes.find((note) => selected.has(note.id));
        if (semitones !== 0 && first) hear(first.midi + semitones, first.velocity);
      };
      if (command) {
        if (key === 'a' && editing) setSelected(new Set(editing.notes.map((note) => note.id)));
        else if (key === 'c' && editing) {
          const clip = editing.copy(selected);
          if (clip) clipboard = { clip, partId: part.id };
        } else if (key === 'v' && clipboard && editing) {
          // Into another part in the same bars; into its own where the playhead stands.
          const at = snapTicks(
            Math.round(time.ticksAt(engine.positionSeconds())),
            editing.snaps ? (canvas.current?.stepTicks() ?? 0) : 0,
            time,
          );
          const by = clipboard.partId === part.id ? at - clipSpan(clipboard.clip).startTicks : 0;
          change(editing.paste(clipboard.clip, by));
        } else if (key === 'd' && editing && selected.size > 0) {
          const clip = editing.copy(selected);
          if (clip) change(editing.paste(clip, clipSpan(clip).endTicks - clipSpan(clip).startTicks));
        } else return;
      } else if (key === 'arrowup' || key === 'arrowdown') {
        if (selected.size === 0) return;
        const direction = key === 'arrowup' ? 1 : -1;
        move(0, direction * (event.shiftKey ? 12 : event.altKey ? 0.05 : 1));
      } else if (key === 'arrowleft' || key === 'arrowright') {
        if (selected.size === 0) return;
        const direction = key === 'arrowright' ? 1 : -1;
        move(direction * (event.altKey ? 0.005 : stepSeconds()), 0);
      } else if (event.altKey) return;
      else if (key === 'n') doubtful.goTo(event.shiftKey ? -1 : 1);
      else if (key === 'k') doubtful.keep();
      else if (key === 'j') change(editing?.join(selected));
      else if (key === 'x') {
        const note = canvas.current?.noteUnderPointer();
        const at = canvas.current?.pointerSeconds();
        if (note && at !== undefined) change(editing?.cut(note.id, at));
      } else if (key === 't') latest.current.tune();
      else if (key === 'g') latest.current.pull();
      else if (key === 'd') setTool(tool === 'draw' ? 'select' : 'draw');
      else if (key === 'delete' || key === 'backspace') change(editing?.drop(selected));
      else if (key === 'escape') {
        setTool('select');
        setSelected(new Set());
      } else if (key === 'end' && event.shiftKey) {
        const from = chosen()[0]?.startSeconds ?? engine.positionSeconds();
        setSelected(
          new Set(editing?.notes.filter((note) => note.startSeconds >= from).map((note) => note.id)),
        );
      } else if (key === 'l' && selected.size > 0) {
        const notes = chosen();
        engine.setLoop({
          startSeconds: Math.min(...notes.map((note) => note.startSeconds)),
          endSeconds: Math.max(...notes.map((note) => note.endSeconds)),
        });
        if (!engine.getState().loopOn) engine.toggleLoop();
      } else if (key === 'm' && selected.size > 0 && !editing?.unpitched)
        change(
          editing?.mute(
            selected,
            chosen().some((note) => !note.muted),
          ),
        );
      else if (key === 'm')
        apply(`${part.mute ? 'Unmute' : 'Mute'} ${part.name}`, {
          type: 'part.set',
          partId: part.id,
          patch: { mute: !part.mute },
        });
      else if (key === 's')
        apply(`${part.solo ? 'Unsolo' : 'Solo'} ${part.name}`, {
          type: 'part.set',
          partId: part.id,
          patch: { solo: !part.solo },
        });
      else if (key === '+' || key === '=') canvas.current?.zoom(1.3);
      else if (key === '-') canvas.current?.zoom(1 / 1.3);
      else if (key === 'pageup') canvas.current?.page(-1);
      else if (key === 'pagedown') canvas.current?.page(1);
      else if (key === 'f') canvas.current?.fit();
      else return;
      event.preventDefault();
    };
    // Before the keys that work everywhere, so that L takes the selection here.
    window.addEventListener('keydown', onKey, { capture: true });
    return () => window.removeEventListener('keydown', onKey, { capture: true });
  }, [engine, time, apply]);
}
