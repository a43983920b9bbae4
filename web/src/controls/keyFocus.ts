/** Whom the keyboard belongs to: a field with a cursor, a list that is open, or the canvas. */

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
  const clicked = document.activeElement;
  // A list takes the focus once more after it has closed.
  for (const delayMs of [0, 150]) setTimeout(() => leaveControl(clicked), delayMs);
}

function leaveControl(clicked: Element | null): void {
  const focused = document.activeElement as HTMLElement | null;
  if (!focusedByPointer || !focused || focused === document.body) return;
  // Whatever else has the focus by now was given it since, and keeps it.
  if (focused !== clicked && !focused.closest('.ant-select')) return;
  if (focused.closest(OWN_KEYS) || focused.matches(TEXT)) return;
  focused.blur();
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
