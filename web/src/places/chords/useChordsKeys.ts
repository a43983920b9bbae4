import { useEffect, useRef, type RefObject } from 'react';
import type { TimeMap } from '@plundra/core/song';
import { isTyping } from '../../controls/keyFocus.ts';
import { enterFrom, stepFrom } from './sheetLayout.ts';
import type { ChordEditing } from './useChordEditing.ts';

interface Options extends Pick<
  ChordEditing,
  'spans' | 'place' | 'goTo' | 'copy' | 'paste' | 'drop' | 'shift' | 'nextDoubtful' | 'forget' | 'selectAll'
> {
  /** The last bar of the sheet. */
  lastBar: number;
  field: RefObject<HTMLInputElement | null>;
  time: TimeMap;
}

/**
 * Keys of the Chords place: arrows go from beat to beat and chord to chord, a letter starts typing a chord,
 * Enter goes on, Alt and arrows move a chord.
 * @param on not while the keys play
 */
export function useChordsKeys(on: boolean, options: Options): void {
  const latest = useRef(options);
  useEffect(() => {
    latest.current = options;
  });
  useEffect(() => {
    if (!on) return;
    const onKey = (event: KeyboardEvent) => {
      if (isTyping(event)) return;
      const { spans, lastBar, place, goTo, field, copy, paste, drop, shift, time } = latest.current;
      const { nextDoubtful, forget, selectAll } = latest.current;
      const key = event.key.toLowerCase();
      if (event.ctrlKey || event.metaKey) {
        if (key === 'c') copy();
        else if (key === 'v') paste();
        else if (key === 'a') selectAll();
        else return;
      } else if (event.altKey) {
        if (key !== 'arrowleft' && key !== 'arrowright') return;
        const beat = time.beatTicksAt(place ?? 0) / (event.shiftKey ? 2 : 1);
        shift(key === 'arrowright' ? beat : -beat);
      } else if (key === 'arrowright' || key === 'arrowleft') {
        const step = key === 'arrowright' ? 1 : -1;
        const next = stepFrom(time, spans, place, step, event.shiftKey, lastBar);
        if (next !== undefined) goTo(next);
      } else if (key === 'delete' || key === 'backspace') drop();
      else if (key === 'escape') forget();
      else if (key === 'enter') {
        const next = enterFrom(time, place ?? 0);
        if (next !== undefined) goTo(next);
      } else if (/^[a-g]$/.test(key) && place !== null) {
        // The letter goes into the field and does nothing else: B is a chord here.
        field.current?.focus();
        field.current?.select();
        event.stopPropagation();
        return;
      } else if (key === 'n') nextDoubtful(event.shiftKey ? -1 : 1);
      else return;
      event.preventDefault();
    };
    window.addEventListener('keydown', onKey, { capture: true });
    return () => window.removeEventListener('keydown', onKey, { capture: true });
  }, [on]);
}
