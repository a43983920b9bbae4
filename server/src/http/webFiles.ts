import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import express, { Router } from 'express';
import { Problem } from '../store/index.ts';

/** The built interface; every path that is no file is the page itself, with the nonce of this answer. */
export function webFiles(folder: string): Router {
  const router = Router();
  const page = join(folder, 'index.html');
  router.use(
    '/assets',
    express.static(join(folder, 'assets'), { immutable: true, maxAge: '1y', fallthrough: false }),
  );
  router.use(express.static(folder, { index: false }));
  router.get('/{*path}', (request, response, next) => {
    if (request.path.startsWith('/api/')) return next();
    if (!existsSync(page)) {
      throw new Problem(503, 'not_built', 'The interface is not built yet. Run npm run build, then reload.');
    }
    response.type('html').set('Cache-Control', 'no-store');
    response.send(readFileSync(page, 'utf8').replaceAll('__NONCE__', String(response.locals.nonce)));
  });
  return router;
}
