import { isIP } from 'node:net';
import { hostname } from 'node:os';
import type { IncomingMessage } from 'node:http';
import type { NextFunction, Request, Response } from 'express';
import { implausibleText } from '@prandel/core';

/** Problem documents of what is refused before any route is looked at. */
function refuse(response: Response, status: number, title: string, detail: string): void {
  response
    .status(status)
    .type('application/problem+json')
    .send(JSON.stringify({ type: 'about:blank', status, title, detail }));
}

/** Names under which this server may be asked: addresses, this machine's own names, and those that the operator allows. */
export function allowedHosts(
  configured = process.env.PRANDEL_ALLOW_HOSTS ?? '',
): (host: string | undefined) => boolean {
  const own = hostname().toLowerCase();
  const names = new Set([
    'localhost',
    own,
    `${own}.local`,
    ...configured.split(',').map((name) => name.trim().toLowerCase()),
  ]);
  return (host) => {
    const name = nameOfHost(host);
    // A page of another site can make a browser ask under its own name, but never under an address.
    return name !== null && (isIP(name) !== 0 || names.has(name));
  };
}

function nameOfHost(host: string | undefined): string | null {
  try {
    return new URL(`http://${host ?? ''}`).hostname.replace(/^\[|\]$/g, '').toLowerCase() || null;
  } catch {
    return null;
  }
}

/** Whether a request comes from a page of this server, or from no page at all. */
export function fromOwnPage({ headers }: Pick<IncomingMessage, 'headers'>): boolean {
  const site = headers['sec-fetch-site'];
  if (site !== undefined && site !== 'same-origin' && site !== 'none') return false;
  const { origin, host } = headers;
  if (origin === undefined) return true;
  try {
    return new URL(origin).host === host;
  } catch {
    return false;
  }
}

const READS = new Set(['GET', 'HEAD']);

/** Refuses what no page of this server sends: other names, other sites, other kinds of bodies. */
export function requestGuards() {
  const allowed = allowedHosts();
  return (request: Request, response: Response, next: NextFunction): void => {
    if (!allowed(request.headers.host))
      return refuse(
        response,
        421,
        'This server is not known under that name',
        'Open it by its address, or start it with --allow-host and the name.',
      );
    if (READS.has(request.method)) return next();
    if (request.method === 'TRACE' || request.method === 'CONNECT')
      return refuse(response, 405, 'Not allowed', 'This method is not answered.');
    if (!fromOwnPage(request))
      return refuse(response, 403, 'From another site', 'Changes are taken from this server’s own pages only.');
    const type = request.headers['content-type']?.split(';')[0]?.trim().toLowerCase();
    const empty = request.headers['content-length'] === '0' || !('content-length' in request.headers);
    const hasBody = !empty || request.headers['transfer-encoding'] !== undefined;
    if (hasBody && type !== 'application/json' && type !== 'multipart/form-data')
      return refuse(response, 415, 'Not JSON', 'Bodies are sent as application/json, files as multipart/form-data.');
    next();
  };
}

const DEEPEST = 24;
const MOST_MEMBERS = 50_000;

/** Refuses bodies and addresses that hold what cannot be stored: NUL, half characters, infinite numbers, endless nesting. */
export function bodyGuard(request: Request, response: Response, next: NextFunction): void {
  const wrong =
    problemOf(request.body, 'body') ?? problemOf(decoded(request.path), 'address') ?? problemOf(request.query, 'query');
  if (wrong === null) return next();
  response
    .status(400)
    .type('application/problem+json')
    .send(
      JSON.stringify({
        type: 'about:blank',
        status: 400,
        title: 'Some fields are wrong',
        detail: `${wrong.path}: ${wrong.message}`,
        errors: [wrong],
      }),
    );
}

function decoded(path: string): string {
  try {
    return decodeURIComponent(path);
  } catch {
    return '\0';
  }
}

/** Walks a value without recursion, so that its depth cannot end the process. */
function problemOf(root: unknown, name: string): { path: string; message: string } | null {
  const stack: { value: unknown; path: string; depth: number }[] = [{ value: root, path: name, depth: 0 }];
  for (let seen = 0; stack.length > 0; seen += 1) {
    const { value, path, depth } = stack.pop()!;
    if (seen > MOST_MEMBERS) return { path: name, message: `holds more than ${MOST_MEMBERS} values` };
    if (typeof value === 'string') {
      const wrong = implausibleText(value);
      if (wrong) return { path, message: wrong };
    } else if (typeof value === 'number') {
      if (!Number.isFinite(value)) return { path, message: 'is no finite number' };
    } else if (typeof value === 'object' && value !== null) {
      if (depth >= DEEPEST) return { path: name, message: `is nested deeper than ${DEEPEST}` };
      for (const [key, entry] of Object.entries(value)) {
        const wrong = implausibleText(key, 200);
        if (wrong || key === '__proto__') return { path, message: wrong ?? 'has a member of that name' };
        const at = Array.isArray(value) ? `${path}[${key}]` : depth === 0 ? key : `${path}.${key}`;
        stack.push({ value: entry, path: at, depth: depth + 1 });
      }
    }
  }
  return null;
}
