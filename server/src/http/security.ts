import { randomBytes } from 'node:crypto';
import type { RequestHandler } from 'express';
import { Problem } from '../store/index.ts';

/**
 * Only pages of this server may talk to it: the Host header must be one of ours (against DNS rebinding) and a
 * request that names an Origin must name us.
 */
export function checkOrigin(allowedHosts: () => ReadonlySet<string>): RequestHandler {
  return (request, _response, next) => {
    const hosts = allowedHosts();
    const { host, origin } = request.headers;
    if (!host || !hosts.has(host)) {
      return next(
        new Problem(
          403,
          'wrong_host',
          'This address is not one the server answers to. Open it by the address that it printed when it started.',
        ),
      );
    }
    if (origin !== undefined && ![...hosts].some((each) => origin === `http://${each}`)) {
      return next(
        new Problem(
          403,
          'wrong_origin',
          'Another website asked for this, which is not allowed. Open Plundra itself.',
        ),
      );
    }
    next();
  };
}

/** Security headers. Styles of the interface carry the nonce; WebAssembly decodes sampled sounds in the page. */
export const securityHeaders: RequestHandler = (_request, response, next) => {
  const nonce = randomBytes(16).toString('base64');
  response.locals.nonce = nonce;
  response.set({
    'Content-Security-Policy': [
      "default-src 'self'",
      "script-src 'self' 'wasm-unsafe-eval'",
      `style-src 'self' 'nonce-${nonce}'`,
      "img-src 'self' data: blob:",
      "font-src 'self' data:",
      "media-src 'self' blob:",
      "worker-src 'self' blob:",
      "connect-src 'self'",
      "object-src 'none'",
      "base-uri 'none'",
      "form-action 'self'",
      "frame-ancestors 'none'",
    ].join('; '),
    'Cross-Origin-Opener-Policy': 'same-origin',
    'Cross-Origin-Embedder-Policy': 'require-corp',
    'Cross-Origin-Resource-Policy': 'same-origin',
    'Referrer-Policy': 'no-referrer',
    'X-Content-Type-Options': 'nosniff',
  });
  next();
};
