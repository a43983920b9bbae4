import type { Request, Response } from 'express';
import type { ServerEvent } from '@plundra/contract';

/** Events at this distance keep the stream from being taken for dead. */
const HEARTBEAT_MS = 20_000;

/** One stream of server-sent events for each open page. */
export interface EventHub {
  attach(request: Request, response: Response): void;
  send(event: ServerEvent): void;
  close(): void;
}

export function createEventHub(): EventHub {
  const open = new Set<Response>();
  const heartbeat = setInterval(
    () => open.forEach((response) => response.write('data: {"type":"alive"}\n\n')),
    HEARTBEAT_MS,
  );
  heartbeat.unref();
  return {
    attach(request, response) {
      response.writeHead(200, {
        'Content-Type': 'text/event-stream',
        'Cache-Control': 'no-cache',
        Connection: 'keep-alive',
      });
      response.write('retry: 1000\n\n');
      open.add(response);
      request.on('close', () => open.delete(response));
    },
    send(event) {
      const text = `data: ${JSON.stringify(event)}\n\n`;
      for (const response of open) response.write(text);
    },
    close() {
      clearInterval(heartbeat);
      for (const response of open) response.end();
      open.clear();
    },
  };
}
