/** A drag from the press of a button until it is let go, or Escape takes it back; wherever the pointer goes meanwhile. */

interface Drag {
  moved(event: PointerEvent): void;
  /** Let go: what was meant is done. */
  dropped(): void;
  /** However it ends. */
  ended?(): void;
}

export function followPointer({ moved, dropped, ended }: Drag): void {
  const end = () => {
    window.removeEventListener('pointermove', moved);
    window.removeEventListener('pointerup', onUp);
    window.removeEventListener('pointercancel', end);
    window.removeEventListener('keydown', onKey, true);
    ended?.();
  };
  const onUp = () => {
    end();
    dropped();
  };
  const onKey = (event: KeyboardEvent) => {
    if (event.key !== 'Escape') return;
    event.stopPropagation();
    end();
  };
  window.addEventListener('pointermove', moved);
  window.addEventListener('pointerup', onUp);
  window.addEventListener('pointercancel', end);
  window.addEventListener('keydown', onKey, true);
}
