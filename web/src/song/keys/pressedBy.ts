import type { KeyboardEvent, PointerEvent } from 'react';
import type { NotePlaying } from './useNotePlaying.ts';

/** What makes a button a key: it sounds from the press of the pointer, or of Enter, until it is let go. */
export function pressedBy(playing: Pick<NotePlaying, 'down' | 'up'>, midi: number) {
  const id = `pointer ${midi}`;
  const up = () => playing.up(id);
  return {
    onPointerDown(event: PointerEvent<HTMLElement>) {
      if (event.button !== 0) return;
      event.currentTarget.setPointerCapture(event.pointerId);
      playing.down(midi, id);
    },
    onPointerUp: up,
    onPointerCancel: up,
    onKeyDown(event: KeyboardEvent) {
      if (event.key === 'Enter' && !event.repeat) playing.down(midi, id);
    },
    onKeyUp: up,
    onBlur: up,
  };
}
