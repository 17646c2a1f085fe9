import type { CookieOptions, Request } from 'express';

/** Name of the cookie without TLS; behind TLS it is bound to the host. */
const PLAIN = 'prandel_session';
const BOUND = '__Host-prandel_session';

/** The session's token of a request's cookies. */
export function sessionToken(cookies: Readonly<Record<string, string | undefined>>): string | undefined {
  return cookies[BOUND] ?? cookies[PLAIN];
}

/** Name and options of the cookie to set. */
export function sessionCookie({ secure }: Pick<Request, 'secure'>): { name: string; options: CookieOptions } {
  const options = { httpOnly: true, sameSite: 'strict', path: '/', secure } as const;
  return { name: secure ? BOUND : PLAIN, options };
}
