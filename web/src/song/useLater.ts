/** A value that may be shown a moment later, but never to someone who already acts on it. */
import { useDeferredValue, useLayoutEffect, useState } from 'react';
import { flushSync } from 'react-dom';

/** What shows each value that waits to be shown. */
const waiting = new Set<() => void>();

function showWaiting(): void {
  if (waiting.size === 0) return;
  flushSync(() => {
    for (const show of [...waiting]) show();
  });
}

// Before any handler of the page sees them.
for (const type of ['pointerdown', 'keydown', 'click', 'drop'])
  window.addEventListener(type, showWaiting, { capture: true });

/**
 * The value of a moment ago until there is time to show the newest, as {@link useDeferredValue}; but whoever clicks or presses a
 * key meanwhile gets the newest first. So a second click acts on what the first one made, however slow the machine is.
 */
export function useLater<T>(value: T): T {
  const later = useDeferredValue(value);
  const [atOnce, showAtOnce] = useState(() => value);
  const isLate = later !== value;
  useLayoutEffect(() => {
    if (!isLate) return undefined;
    const show = () => showAtOnce(() => value);
    waiting.add(show);
    return () => void waiting.delete(show);
  }, [isLate, value]);
  return atOnce === value ? value : later;
}
