/** H hears the chosen item wherever the keyboard is, as long as nothing is typed. */
import { useEffect } from 'react';
import type { ShelfItem } from '@plundra/core/shelf';
import { isTyping } from '../../controls/keyFocus.ts';

export function useHearKey(item: ShelfItem | undefined, hear: (item: ShelfItem) => void): void {
  useEffect(() => {
    if (!item) return;
    const onKey = (event: KeyboardEvent) => {
      if (event.key !== 'h' || event.ctrlKey || event.metaKey || event.altKey || isTyping(event)) return;
      event.preventDefault();
      hear(item);
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [item, hear]);
}
