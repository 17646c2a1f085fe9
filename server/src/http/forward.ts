import http, { type IncomingMessage } from 'node:http';
import net from 'node:net';
import type { Duplex } from 'node:stream';
import type { NextFunction, Request, Response } from 'express';

/** Requests that only the process of the bays can answer: it holds what goes on in them. */
const ABOUT_BAYS = /^\/api\/(bays(\/|$)|jobs\/[^/]+\/(weather$|pulls\/[^/]+\/readings$))/;
const TIMEOUT_MS = 30_000;
/** A request that was handed on once is answered where it arrives, or two processes could hand it to each other for ever. */
export const RELAYED = 'x-prandel-relayed';

/**
 * Hands requests on to another process of the same server, which asks for the session itself: from the pages to the bays, and from a
 * process that does not lead a bay to the one that does. While that is being restarted the answer says so.
 */
export class Forwarder {
  readonly #target: URL;
  readonly #agent = new http.Agent({ keepAlive: true, maxSockets: 64 });

  constructor(
    target: string,
    private readonly extra: Readonly<Record<string, string>> = {},
  ) {
    this.#target = new URL(target);
  }

  /** Hands on what is about bays. */
  readonly bays = (request: Request, response: Response, next: NextFunction): void => {
    if (!ABOUT_BAYS.test(request.path)) return next();
    this.request(request, response);
  };

  request(request: Request, response: Response): void {
    const onward = http.request(
      {
        host: this.#target.hostname,
        port: this.#target.port,
        method: request.method,
        path: request.originalUrl,
        headers: { ...forwarded(request), ...this.extra },
        agent: this.#agent,
        timeout: TIMEOUT_MS,
      },
      (answer) => {
        response.writeHead(answer.statusCode ?? 502, answer.headers);
        answer.pipe(response);
      },
    );
    onward.on('timeout', () => onward.destroy(new Error('no answer')));
    onward.on('error', () => unavailable(response));
    response.on('close', () => onward.destroy());
    request.pipe(onward);
  }

  /** Connects a screen with the live channel of the bays. */
  upgrade(request: IncomingMessage, socket: Duplex, head: Buffer): void {
    const onward = net.connect(Number(this.#target.port || 80), this.#target.hostname);
    const end = () => {
      socket.destroy();
      onward.destroy();
    };
    for (const side of [socket, onward]) {
      side.on('error', end);
      side.on('close', end);
    }
    onward.on('connect', () => {
      const lines = Object.entries({ ...forwarded(request), ...this.extra }).flatMap(([name, value]) =>
        (Array.isArray(value) ? value : [value ?? '']).map((one) => `${name}: ${String(one)}`),
      );
      onward.write(`GET ${request.url ?? '/'} HTTP/1.1\r\n${lines.join('\r\n')}\r\n\r\n`);
      if (head.length > 0) onward.write(head);
      socket.pipe(onward).pipe(socket);
    });
  }

  close(): void {
    this.#agent.destroy();
  }
}

/** The headers as they came, with who asked. */
function forwarded(request: IncomingMessage): http.OutgoingHttpHeaders {
  const { 'x-forwarded-for': before, ...headers } = request.headers;
  const address = request.socket.remoteAddress ?? '';
  return { ...headers, 'x-forwarded-for': before ? `${String(before)}, ${address}` : address };
}

function unavailable(response: Response): void {
  if (response.headersSent) return void response.destroy();
  response
    .status(503)
    .type('application/problem+json')
    .send(
      JSON.stringify({
        type: 'about:blank',
        status: 503,
        title: 'The bays do not answer',
        detail:
          'The process of the bays is being started again. Every sample that was shown is stored; look whether your last step is there before you repeat it.',
      }),
    );
}
