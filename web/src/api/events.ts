import { paths, serverEventSchema, type ServerEvent } from '@plundra/contract';

type Listener = (event: ServerEvent) => void;

const listeners = new Set<Listener>();
const reconnectListeners = new Set<() => void>();
let source: EventSource | undefined;
let wasOpen = false;

function open(): void {
  if (source) return;
  source = new EventSource(paths.events);
  source.onmessage = (message) => {
    const event = serverEventSchema.safeParse(JSON.parse(message.data));
    if (event.success) listeners.forEach((listener) => listener(event.data));
  };
  source.onopen = () => {
    // After a break something may have been missed: everyone looks again.
    if (wasOpen) reconnectListeners.forEach((listener) => listener());
    wasOpen = true;
  };
  source.onerror = () => {
    // A server that answers with an error closes the stream for good; ask again in a while.
    if (source?.readyState !== EventSource.CLOSED) return;
    source = undefined;
    setTimeout(open, 1000);
  };
}

/** Listens to the server's events; one stream serves the whole page. Returns the end of listening. */
export function listenToServer(listener: Listener, onReconnect?: () => void): () => void {
  open();
  listeners.add(listener);
  if (onReconnect) reconnectListeners.add(onReconnect);
  return () => {
    listeners.delete(listener);
    if (onReconnect) reconnectListeners.delete(onReconnect);
  };
}
