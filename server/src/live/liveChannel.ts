import type { IncomingMessage, Server } from 'node:http';
import type { Duplex } from 'node:stream';
import { Injectable, type OnModuleDestroy } from '@nestjs/common';
import { WebSocketServer, type WebSocket } from 'ws';
import { PeopleService, SESSION_COOKIE } from '../people/people.service.ts';
import { LiveBays } from './liveBays.ts';

const PING_MS = 15_000;
/** A screen that has this much unread is dropped; it comes back and catches up. */
const MOST_UNREAD_BYTES = 4_000_000;
/** Screens whose session is being looked up at once; more than any shop has come again in a moment. */
const MOST_ADMITTING = 64;
const LIVE_PATH = '/api/live';

/**
 * The one WebSocket: `/api/live?bay=ID&since=N`. Messages are JSON with a version and a sequence number; with the last
 * number seen a screen gets what it missed.
 */
@Injectable()
export class LiveChannel implements OnModuleDestroy {
  readonly #sockets = new WebSocketServer({ noServer: true, maxPayload: 4096 });
  #admitting = 0;

  constructor(
    private readonly people: PeopleService,
    private readonly bays: LiveBays,
  ) {}

  /** Takes the upgrade requests of the HTTP server. */
  attach(server: Server): void {
    server.on('upgrade', (request: IncomingMessage, socket: Duplex, head: Buffer) => {
      // Before anything else: a line that is reset while nobody listens would end the process.
      socket.on('error', () => socket.destroy());
      if (pathOf(request) !== LIVE_PATH) return refuse(socket, '404 Not Found');
      if (this.#admitting >= MOST_ADMITTING) return refuse(socket, '503 Service Unavailable');
      this.#admitting += 1;
      this.#admit(request)
        .then((admitted) => {
          if (!admitted) return refuse(socket, '401 Unauthorized');
          if (!socket.destroyed) this.#sockets.handleUpgrade(request, socket, head, (ws) => this.#serve(ws, admitted));
        })
        .catch(() => socket.destroy())
        .finally(() => {
          this.#admitting -= 1;
        });
    });
  }

  /** An open socket would keep the HTTP server from closing. */
  onModuleDestroy(): void {
    for (const ws of this.#sockets.clients) ws.terminate();
  }

  async #admit(request: IncomingMessage) {
    const url = new URL(request.url ?? '/', 'http://localhost');
    if (!sameOrigin(request)) return null;
    const caller = await this.people.callerOf(cookieOf(request));
    if (!caller) return null;
    const since = Number(url.searchParams.get('since') || NaN);
    const bay = this.bays.all(caller.shopId).find((b) => b.row.id === url.searchParams.get('bay'));
    return bay ? { bay, since: Number.isSafeInteger(since) ? since : null } : null;
  }

  #serve(ws: WebSocket, { bay, since }: { bay: ReturnType<LiveBays['of']>; since: number | null }): void {
    const stop = bay.feed.listen((message) => {
      if (ws.bufferedAmount > MOST_UNREAD_BYTES) ws.terminate();
      else if (ws.readyState === ws.OPEN) ws.send(JSON.stringify(message));
    }, since);
    let alive = true;
    ws.on('pong', () => {
      alive = true;
    });
    const ping = setInterval(() => {
      if (!alive) return ws.terminate();
      alive = false;
      ws.ping();
    }, PING_MS);
    ws.on('close', () => {
      clearInterval(ping);
      stop();
    });
    ws.on('error', () => ws.terminate());
  }
}

function pathOf(request: IncomingMessage): string {
  return (request.url ?? '').split('?')[0]!;
}

function refuse(socket: Duplex, status: string): void {
  socket.end(`HTTP/1.1 ${status}\r\nConnection: close\r\nContent-Length: 0\r\n\r\n`);
}

/** Another site's page must not listen with this person's session. */
function sameOrigin(request: IncomingMessage): boolean {
  const { origin, host } = request.headers;
  return origin === undefined || new URL(origin).host === host;
}

function cookieOf(request: IncomingMessage): string | undefined {
  const pairs = (request.headers.cookie ?? '').split(';').map((pair) => pair.trim().split('='));
  return pairs.find(([name]) => name === SESSION_COOKIE)?.[1];
}
