/**
 * What the server tells its pages. A browser keeps few connections to one server, so the windows of a browser share one
 * stream: the one that holds a lock listens and passes on what it hears; when it closes, another gets the lock. Where that
 * cannot be, or nothing is heard for a while, a window listens for itself. Hearing an event twice does no harm.
 */
import { paths, serverEventSchema, type ServerEvent } from '@plundra/contract';

type Listener = (event: ServerEvent) => void;

/** Between windows: what was heard, or that the stream was opened anew and something may have been missed. */
type Passed = { event: ServerEvent } | { opened: true };

const NAME = 'plundra-events';
/** The server says that it lives every 20 s; who hears nothing for this long listens for itself. */
const SILENCE_MS = 55_000;
const RETRY_MS = 1000;

const listeners = new Set<Listener>();
const openListeners = new Set<() => void>();
let started = false;
let source: EventSource | undefined;
let channel: BroadcastChannel | undefined;
let heardAt = Date.now();

function start(): void {
  if (started) return;
  started = true;
  if (!('locks' in navigator) || !('BroadcastChannel' in window)) return listen();
  channel = new BroadcastChannel(NAME);
  channel.onmessage = ({ data }: MessageEvent<Passed>) => receive(data);
  navigator.locks
    .request(NAME, () => {
      listen();
      // Held for as long as this window lives.
      return new Promise(() => undefined);
    })
    .catch(listen);
  setInterval(() => {
    if (Date.now() - heardAt > SILENCE_MS) listen();
  }, SILENCE_MS / 4);
}

function receive(passed: Passed): void {
  heardAt = Date.now();
  if ('opened' in passed) openListeners.forEach((listener) => listener());
  else listeners.forEach((listener) => listener(passed.event));
}

/** Hears it here and in all other windows. */
function pass(passed: Passed): void {
  receive(passed);
  channel?.postMessage(passed);
}

function listen(): void {
  if (source) return;
  source = new EventSource(paths.events);
  source.onmessage = (message) => {
    const event = serverEventSchema.safeParse(JSON.parse(message.data));
    if (event.success) pass({ event: event.data });
  };
  source.onopen = () => pass({ opened: true });
  source.onerror = () => {
    // A server that answers with an error closes the stream for good; ask again in a while.
    if (source?.readyState !== EventSource.CLOSED) return;
    source = undefined;
    setTimeout(listen, RETRY_MS);
  };
}

/**
 * Listens to the server's events. `onOpen`: the stream was opened, at first or again; what happened before it was not
 * heard. Returns the end of listening.
 */
export function listenToServer(listener: Listener, onOpen?: () => void): () => void {
  start();
  listeners.add(listener);
  if (onOpen) openListeners.add(onOpen);
  return () => {
    listeners.delete(listener);
    if (onOpen) openListeners.delete(onOpen);
  };
}
