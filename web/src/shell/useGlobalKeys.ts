import { useEffect } from 'react';
import type { Engine } from '../audio/engine.ts';
import type { ListenChoice, ListenMode } from '../audio/playlist.ts';

const MODES: ListenMode[] = ['recording', 'notes', 'both', 'split'];

/** Whether the focus was last moved by the pointer: a button that was clicked does not keep Space for itself. */
let focusedByPointer = false;
window.addEventListener('pointerdown', () => (focusedByPointer = true), { capture: true });
window.addEventListener('keydown', (event) => event.key === 'Tab' && (focusedByPointer = false), {
  capture: true,
});

/** Whether a key press belongs to a field that is being typed in or a control that uses the key itself. */
export function isTyping(event: KeyboardEvent): boolean {
  const target = event.target as HTMLElement;
  if (
    target.closest(
      'input:not([type=checkbox], [type=radio]), textarea, [contenteditable=true], .ant-select-open, .ant-modal, [role=listbox], [role=menu]',
    )
  )
    return true;
  // Sliders and tabs move with arrows, buttons are pressed with Space.
  if (target.closest('[role=slider], [role=radiogroup]'))
    return event.key.startsWith('Arrow') || event.key === 'Home' || event.key === 'End';
  const button = target.closest<HTMLElement>('button, [role=button], [role=switch], [type=checkbox]');
  if (event.key !== ' ' || !button) return false;
  if (focusedByPointer) button.blur();
  return !focusedByPointer;
}

interface Actions {
  engine: Engine;
  undo(): void;
  redo(): void;
  setListen(change: Partial<ListenChoice>): void;
  openShortcuts(): void;
}

/** Keys that work in every place of a song. */
export function useGlobalKeys({ engine, undo, redo, setListen, openShortcuts }: Actions): void {
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const command = event.ctrlKey || event.metaKey;
      if (isTyping(event) || event.defaultPrevented) return;
      const key = event.key.toLowerCase();
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
  }, [engine, undo, redo, setListen, openShortcuts]);
}
