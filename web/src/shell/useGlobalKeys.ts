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

const TEXT = 'input:not([type=checkbox], [type=radio], [role=combobox]), textarea, [contenteditable=true]';
/** They keep the keys to themselves while they are open. */
const OWN_KEYS = '.ant-select-open, .ant-modal, .ant-popover, [role=listbox], [role=menu]';

/** A control that was clicked gives the keys back: they act on the canvas unless a text field has the cursor. */
function giveKeysBack(): void {
  setTimeout(() => {
    const focused = document.activeElement as HTMLElement | null;
    if (!focusedByPointer || !focused || focused === document.body) return;
    if (focused.closest(OWN_KEYS) || focused.matches(TEXT)) return;
    focused.blur();
  }, 0);
}
window.addEventListener('click', giveKeysBack);
// Choosing from a list with Enter, or leaving it with Escape.
window.addEventListener('keyup', (event) => ['Enter', 'Escape'].includes(event.key) && giveKeysBack());

/** Whether a key press belongs to a field that is being typed in or a control that uses the key itself. */
export function isTyping(event: KeyboardEvent): boolean {
  const target = event.target as HTMLElement;
  if (target.closest(`${TEXT}, ${OWN_KEYS}`)) return true;
  // A closed list that was reached with Tab opens with Space, Enter and the arrows; everything else passes it.
  if (target.closest('.ant-select')) return [' ', 'Enter', 'ArrowUp', 'ArrowDown'].includes(event.key);
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
