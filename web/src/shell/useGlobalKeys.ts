/** Keys that do the same in every place. */
import { useEffect } from 'react';
import { isTyping } from '../controls/keyFocus.ts';
import type { Engine } from '../audio/engine.ts';
import type { ListenChoice, ListenMode } from '../audio/playlist.ts';

const MODES: ListenMode[] = ['recording', 'notes', 'both', 'split'];

interface Actions {
  engine: Engine;
  undo(): void;
  redo(): void;
  setListen(change: Partial<ListenChoice>): void;
  openShortcuts(): void;
  findAction(): void;
}

/** Keys that work in every place of a song. */
export function useGlobalKeys({ engine, undo, redo, setListen, openShortcuts, findAction }: Actions): void {
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const command = event.ctrlKey || event.metaKey;
      if (event.defaultPrevented) return;
      const key = event.key.toLowerCase();
      // Also while a field has the keyboard: nothing is typed with it.
      if (command && key === 'k' && !event.shiftKey && !event.altKey) {
        findAction();
        return event.preventDefault();
      }
      if (isTyping(event)) return;
      if (command && key === 'z') {
        if (event.shiftKey) redo();
        else undo();
      } else if (command || event.altKey) return;
      else if (key === ' ') engine.toggle();
      else if (key === 'home') engine.seek(0);
      else if (key === 'l') engine.toggleLoop();
      else if (key === '?') openShortcuts();
      else if (key === 'b') setListen({ before: true });
      else if (MODES[Number(key) - 1]) setListen({ mode: MODES[Number(key) - 1] });
      else return;
      event.preventDefault();
    };
    // Held to hear before, let go to hear after; also when the window loses the keyboard meanwhile.
    const onKeyUp = (event: KeyboardEvent) => event.key.toLowerCase() === 'b' && setListen({ before: false });
    const onBlur = () => setListen({ before: false });
    window.addEventListener('keydown', onKey);
    window.addEventListener('keyup', onKeyUp);
    window.addEventListener('blur', onBlur);
    return () => {
      window.removeEventListener('keydown', onKey);
      window.removeEventListener('keyup', onKeyUp);
      window.removeEventListener('blur', onBlur);
    };
  }, [engine, undo, redo, setListen, openShortcuts, findAction]);
}
