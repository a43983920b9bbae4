/** Faults of the page go into the server's record: where and what, nothing of songs. */
import { api } from './client.ts';

/** Enough to see what is wrong; a fault that repeats would fill the record. */
const MAX_REPORTS = 20;
let reports = 0;

export function reportFault(where: string, error: unknown): void {
  if (reports++ >= MAX_REPORTS) return;
  const known = error instanceof Error;
  api.reportFault({
    where: `page: ${where}`,
    message: known ? `${error.name}: ${error.message}`.slice(0, 2000) : 'unknown',
    ...(known && error.stack && { stack: error.stack.slice(0, 8000) }),
  });
}

/** What nobody caught. */
export function reportUncaught(): void {
  window.addEventListener('error', ({ error }) => reportFault('uncaught', error));
  window.addEventListener('unhandledrejection', ({ reason }) => reportFault('promise', reason));
}
