import { existsSync, readFileSync } from 'node:fs';
import type { ServerResponse } from 'node:http';
import { join, sep } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { NextFunction, Request, Response } from 'express';

export const WEB_FOLDER = fileURLToPath(new URL('../../../web/dist/app', import.meta.url));
const NONCE_PLACE = '<meta name="csp-nonce" content="" />';

/** Assets bear the digest of their content in their names: who has one never asks again. */
export function cacheForGood(response: ServerResponse, path: string): void {
  if (path.includes(`${sep}assets${sep}`)) response.setHeader('Cache-Control', 'public, max-age=31536000, immutable');
}

/**
 * Serves the application's one page with the nonce of its answer in it: components that put a style element into the page take it
 * from there, and no other inline style is accepted.
 */
export function pages() {
  const path = join(WEB_FOLDER, 'index.html');
  const page = existsSync(path) ? readFileSync(path, 'utf8') : null;
  return (request: Request, response: Response, next: NextFunction): void => {
    const { method, path: asked } = request;
    const wanted = method === 'GET' && !asked.startsWith('/api/') && (asked === '/' || !/\.[a-z0-9]+$/i.test(asked));
    if (!wanted || page === null || !request.accepts('html')) return next();
    response
      .set('Cache-Control', 'no-store')
      .type('html')
      .send(page.replace(NONCE_PLACE, `<meta name="csp-nonce" content="${String(response.locals.nonce)}" />`));
  };
}
