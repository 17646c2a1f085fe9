import type { IncomingMessage } from 'node:http';
import { Injectable, type OnModuleDestroy } from '@nestjs/common';
import type { NextFunction, Request, Response } from 'express';
import { Forwarder, RELAYED } from '../http/forward.ts';
import { LiveBays } from './liveBays.ts';

/** A list is not held up longer than this by a process that does not answer. */
const LIST_MS = 2000;
const ONE_BAY = /^\/api\/bays\/([0-9a-f-]{36})(\/|$)/;

/**
 * Several server processes may share a database, and one leads each bay. A person who opens a bay on another one is served all the
 * same: the request, or the line of the live channel, is handed on to the process that leads.
 */
@Injectable()
export class BayRelay implements OnModuleDestroy {
  readonly #forwarders = new Map<string, Forwarder>();

  constructor(private readonly bays: LiveBays) {}

  readonly middleware = (request: Request, response: Response, next: NextFunction): void => {
    const bayId = ONE_BAY.exec(request.path)?.[1];
    if (!bayId) return next();
    this.leaderFor(request, bayId).then((leader) => (leader ? leader.request(request, response) : next()), next);
  };

  /** Who answers for a bay; null: this process does, or nobody can. */
  async leaderFor(request: IncomingMessage, bayId: string): Promise<Forwarder | null> {
    if (request.headers[RELAYED] !== undefined) return null;
    const address = await this.bays.leaderOf(bayId);
    if (address === null) return null;
    const known = this.#forwarders.get(address);
    if (known) return known;
    const made = new Forwarder(address, { [RELAYED]: '1' });
    this.#forwarders.set(address, made);
    return made;
  }

  /** What the processes that lead these bays list of them, by id; one that does not answer in time is left out. */
  async listed<Bay extends { readonly id: string; readonly ledElsewhere: boolean }>(
    request: IncomingMessage,
    bayIds: readonly string[],
  ): Promise<Map<string, Bay>> {
    if (request.headers[RELAYED] !== undefined) return new Map();
    const leaders = new Set(await Promise.all(bayIds.map((id) => this.bays.leaderOf(id))));
    const { cookie = '', authorization = '' } = request.headers;
    const lists = await Promise.all(
      [...leaders]
        .filter((address) => address !== null)
        .map(async (address) => {
          const answer = await fetch(`${address}/api/bays`, {
            headers: { cookie, ...(authorization ? { authorization } : {}), [RELAYED]: '1' },
            signal: AbortSignal.timeout(LIST_MS),
          });
          return answer.ok ? ((await answer.json()) as Bay[]) : [];
        })
        .map((list) => list.catch((): Bay[] => [])),
    );
    const led = lists.flat().filter((bay) => bayIds.includes(bay.id) && !bay.ledElsewhere);
    return new Map(led.map((bay) => [bay.id, bay]));
  }

  onModuleDestroy(): void {
    for (const forwarder of this.#forwarders.values()) forwarder.close();
  }
}
