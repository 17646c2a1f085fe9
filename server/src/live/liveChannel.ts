import type { IncomingMessage, Server } from 'node:http';
import type { Duplex } from 'node:stream';
import { Injectable, type OnModuleDestroy } from '@nestjs/common';
import { WebSocketServer, type WebSocket } from 'ws';
import type { Forwarder } from '../http/forward.ts';
import { sessionToken } from '../people/sessionCookie.ts';
import { SessionsService } from '../people/sessions.service.ts';
import { fromOwnPage } from '../security/requestGuards.ts';
import { LiveBays } from './liveBays.ts';
import { BayRelay } from './relay.ts';

/** A screen whose session was ended goes dark within this time too. */
const PING_MS = 5000;
/** A screen that has this much unread is dropped; it comes back and catches up. */
const MOST_UNREAD_BYTES = 4_000_000;
/** Screens whose session is being looked up at once; more than any shop has come again in a moment. */
const MOST_ADMITTING = 64;
const LIVE_PATH = '/api/live';
/** Stands in for a host where only the path matters. */
const LOCAL = 'http://localhost';

/**
 * The one WebSocket: `/api/live?bay=ID&since=N`. Messages are JSON with a version and a sequence number; with the last
 * number seen a screen gets what it missed.
 */
@Injectable()
export class LiveChannel implements OnModuleDestroy {
  readonly #sockets = new WebSocketServer({ noServer: true, maxPayload: 4096 });
  #admitting = 0;

  constructor(
    private readonly sessions: SessionsService,
    private readonly bays: LiveBays,
    private readonly relay: BayRelay,
  ) {}

  /** Takes the upgrade requests of the HTTP server. */
  attach(server: Server, forwarder: Forwarder | null = null): void {
    server.on('upgrade', (request: IncomingMessage, socket: Duplex, head: Buffer) => {
      // Before anything else: a line that is reset while nobody listens would end the process.
      socket.on('error', () => socket.destroy());
      if (pathOf(request) !== LIVE_PATH) return refuse(socket, '404 Not Found');
      if (forwarder) return forwarder.upgrade(request, socket, head);
      if (this.#admitting >= MOST_ADMITTING) return refuse(socket, '503 Service Unavailable');
      this.#admitting += 1;
      this.relay
        .leaderFor(request, bayOf(request))
        .then(async (leader) => {
          if (leader) return leader.upgrade(request, socket, head);
          const admitted = await this.#admit(request);
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

  /** While the database does not answer nobody knows: the screen stays. */
  #endWithItsSession(ws: WebSocket, token: string | undefined): void {
    this.sessions
      .callerOf(token)
      .then((caller) => {
        if (!caller) ws.close(4401, 'The session has ended.');
      })
      .catch(() => undefined);
  }

  async #admit(request: IncomingMessage): Promise<Admitted | null> {
    const url = new URL(request.url ?? '/', LOCAL);
    if (!fromOwnPage(request)) return null;
    const token = cookieOf(request);
    const caller = await this.sessions.callerOf(token);
    if (!caller) return null;
    const since = Number(url.searchParams.get('since') || NaN);
    const bay = this.bays.all(caller.shopId).find((b) => b.row.id === bayOf(request));
    return bay ? { bay, token, since: Number.isSafeInteger(since) ? since : null } : null;
  }

  #serve(ws: WebSocket, { bay, token, since }: Admitted): void {
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
      this.#endWithItsSession(ws, token);
    }, PING_MS);
    ws.on('close', () => {
      clearInterval(ping);
      stop();
    });
    ws.on('error', () => ws.terminate());
  }
}

interface Admitted {
  readonly bay: ReturnType<LiveBays['of']>;
  readonly token: string | undefined;
  readonly since: number | null;
}

function bayOf(request: IncomingMessage): string {
  return new URL(request.url ?? '/', LOCAL).searchParams.get('bay') ?? '';
}

function pathOf(request: IncomingMessage): string {
  return (request.url ?? '').split('?')[0]!;
}

function refuse(socket: Duplex, status: string): void {
  socket.end(`HTTP/1.1 ${status}\r\nConnection: close\r\nContent-Length: 0\r\n\r\n`);
}

function cookieOf(request: IncomingMessage): string | undefined {
  const pairs = (request.headers.cookie ?? '').split(';').map((pair) => pair.trim().split('='));
  return sessionToken(Object.fromEntries(pairs.map(([name, value]) => [name ?? '', value])));
}
