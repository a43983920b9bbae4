import { useEffect, useRef, type RefObject } from 'react';
import type { ChordSpanOfSong, TimeMap } from '@plundra/core/song';
import { isTyping } from '../../shell/useGlobalKeys.ts';
import type { SheetBar } from './sheetLayout.ts';
import type { ChordEditing } from './useChordEditing.ts';

interface Options extends Pick<
  ChordEditing,
  'spans' | 'place' | 'goTo' | 'copy' | 'paste' | 'drop' | 'shift' | 'nextDoubtful' | 'forget'
> {
  bars: readonly SheetBar[];
  field: RefObject<HTMLInputElement | null>;
  time: TimeMap;
}

/**
 * Keys of the Changes place: arrows go from beat to beat and chord to chord, a letter starts typing a chord, Alt and arrows move one.
 * @param on not while the keys play
 */
export function useChangesKeys(on: boolean, options: Options): void {
  const latest = useRef(options);
  useEffect(() => {
    latest.current = options;
  });
  useEffect(() => {
    if (!on) return;
    const onKey = (event: KeyboardEvent) => {
      if (isTyping(event)) return;
      const { spans, bars, place, goTo, field, copy, paste, drop, shift, time, nextDoubtful, forget } =
        latest.current;
      const key = event.key.toLowerCase();
      if (event.ctrlKey || event.metaKey) {
        if (key === 'c') copy();
        else if (key === 'v') paste();
        else return;
      } else if (event.altKey) {
        if (key !== 'arrowleft' && key !== 'arrowright') return;
        const beat = time.beatTicksAt(place ?? 0) / (event.shiftKey ? 2 : 1);
        shift(key === 'arrowright' ? beat : -beat);
      } else if (key === 'arrowright' || key === 'arrowleft') {
        const step = key === 'arrowright' ? 1 : -1;
        const starts = event.shiftKey ? bars.map(({ startTicks }) => startTicks) : beatStarts(bars, spans);
        const next =
          step === 1
            ? starts.find((ticks) => ticks > (place ?? -1))
            : starts.findLast((ticks) => ticks < (place ?? Infinity));
        if (next !== undefined) goTo(next);
      } else if (key === 'delete' || key === 'backspace') drop();
      else if (key === 'escape') forget();
      else if (key === 'enter') field.current?.focus();
      else if (/^[a-g]$/.test(key) && place !== null && !event.shiftKey) {
        // The letter itself arrives in the field.
        field.current?.focus();
        field.current?.select();
        return;
      } else if (key === 'n') nextDoubtful(event.shiftKey ? -1 : 1);
      else return;
      event.preventDefault();
    };
    window.addEventListener('keydown', onKey, { capture: true });
    return () => window.removeEventListener('keydown', onKey, { capture: true });
  }, [on]);
}

/** Every beat, and every chord wherever it starts, in order. */
function beatStarts(bars: readonly SheetBar[], spans: readonly ChordSpanOfSong[]): number[] {
  const starts = new Set(spans.map(({ startTicks }) => startTicks));
  for (const { startTicks, endTicks, beats } of bars)
    for (let beat = 0; beat < beats; beat++)
      starts.add(Math.round(startTicks + (beat * (endTicks - startTicks)) / beats));
  return [...starts].sort((a, b) => a - b);
}
