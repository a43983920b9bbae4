import type { Response } from 'express';

/** Sends a file, or the range of it that was asked for. Rejects where that cannot be; not when the page goes meanwhile. */
export function sendFile(response: Response, path: string): Promise<void> {
  return new Promise((resolve, reject) =>
    response.sendFile(path, { dotfiles: 'allow', cacheControl: false }, (error) => {
      if (!error || response.headersSent || response.destroyed) resolve();
      else reject(error);
    }),
  );
}
