import { randomBytes } from 'node:crypto';
import type { NextFunction, Request, Response } from 'express';
import helmet from 'helmet';

/** Headers of every answer: nothing but this server's own scripts, styles and pictures, in no other page's frame. */
export function securityHeaders(behindTls: boolean) {
  const headers = helmet({
    contentSecurityPolicy: {
      useDefaults: false,
      directives: {
        defaultSrc: ["'none'"],
        scriptSrc: ["'self'"],
        workerSrc: ["'self'"],
        styleSrc: ["'self'", (_, response) => `'nonce-${String((response as Response).locals.nonce)}'`],
        fontSrc: ["'self'"],
        imgSrc: ["'self'", 'data:', 'blob:'],
        connectSrc: ["'self'"],
        frameSrc: ["'self'"],
        formAction: ["'self'"],
        baseUri: ["'none'"],
        frameAncestors: ["'none'"],
      },
    },
    strictTransportSecurity: behindTls ? { maxAge: 31_536_000, includeSubDomains: false } : false,
    referrerPolicy: { policy: 'no-referrer' },
    xFrameOptions: { action: 'deny' },
    crossOriginOpenerPolicy: { policy: 'same-origin' },
    // Browsers ignore it without TLS, and say so in the console of every page.
    originAgentCluster: behindTls,
    ...(behindTls ? {} : { crossOriginOpenerPolicy: false }),
  });
  return (request: Request, response: Response, next: NextFunction): void => {
    response.locals.nonce = randomBytes(16).toString('base64');
    headers(request, response, next);
  };
}

/** The report is one self-contained page: its styles and fonts are inside, and this server's own page shows it in a frame. */
export function reportHeaders(response: Response): void {
  response.setHeader(
    'Content-Security-Policy',
    "default-src 'none'; style-src 'unsafe-inline'; font-src data:; img-src data: 'self'; base-uri 'none'; form-action 'none'; frame-ancestors 'self'",
  );
  response.setHeader('X-Frame-Options', 'SAMEORIGIN');
}
