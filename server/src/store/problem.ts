/** An error with an answer for the user: HTTP status, code, and a sentence that says what, why and what to do. */
export class Problem extends Error {
  override name = 'Problem';
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly details?: unknown,
  ) {
    super(message);
  }
}

/** What the system says about a file that could not be written, as a {@link Problem}; others pass through. */
export function asStorageProblem(error: unknown): unknown {
  const code = (error as { code?: string }).code;
  const text = error instanceof Error ? error.message : '';
  if (code === 'ENOSPC' || code === 'SQLITE_FULL' || /SQLITE_FULL|disk is full/.test(text)) {
    return new Problem(
      507,
      'disk_full',
      'The disk is full, so this could not be saved. What was there before is unharmed. Free some space and try again.',
    );
  }
  if (code === 'EACCES' || code === 'EROFS' || code === 'EPERM' || code === 'SQLITE_READONLY') {
    return new Problem(
      507,
      'not_writable',
      'The data folder cannot be written to, so this could not be saved. What was there before is unharmed. Check the rights of the folder and try again.',
    );
  }
  return error;
}
