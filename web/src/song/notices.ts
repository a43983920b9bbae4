/** Sentences for the user from code that is no screen; the application shows them wherever one is. */
type Listener = (message: string) => void;

const listeners = new Set<Listener>();
/** Said before any screen was there to show it. */
let early: string[] = [];

export function notice(message: string): void {
  if (listeners.size === 0) early.push(message);
  listeners.forEach((listener) => listener(message));
}

export function onNotice(listener: Listener): () => void {
  listeners.add(listener);
  early.forEach(listener);
  early = [];
  return () => listeners.delete(listener);
}
