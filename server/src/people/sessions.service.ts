import { createHash, randomBytes } from 'node:crypto';
import { Injectable, NotFoundException } from '@nestjs/common';
import { and, desc, eq, lt, ne, or } from 'drizzle-orm';
import { Database, type Transaction } from '../database/database.ts';
import { people, sessions, shops } from '../database/schema.ts';
import { SecurityLog } from '../security/securityLog.ts';
import type { Caller } from './people.service.ts';

/** A session ends this long after it began, and this long after it was last used. */
export const ABSOLUTE_DAYS = 30;
const IDLE_DAYS = 7;
const DAY_MS = 86_400_000;
/** That somebody is there is written down no more often than this. */
const SEEN_EVERY_MS = 5 * 60_000;

const digest = (token: string) => createHash('sha256').update(token).digest('hex');

/** Where somebody signed in from. */
export interface SessionPlace {
  readonly userAgent: string;
  readonly address: string;
}

export interface SessionListed extends SessionPlace {
  readonly id: string;
  readonly createdAt: string;
  readonly lastSeenAt: string;
  /** The session that asks. */
  readonly own: boolean;
}

/** Sessions of people: begun by signing in, ended by idleness, age, or a person. */
@Injectable()
export class SessionsService {
  constructor(
    private readonly database: Database,
    private readonly log: SecurityLog,
  ) {}

  /** @returns the token of a new session */
  async begin(shopId: string, personId: string, { userAgent, address }: SessionPlace): Promise<string> {
    const token = randomBytes(32).toString('base64url');
    await this.database.inShop(shopId, async (tx) => {
      await tx
        .delete(sessions)
        .where(
          or(lt(sessions.expiresAt, new Date()), lt(sessions.lastSeenAt, new Date(Date.now() - IDLE_DAYS * DAY_MS))),
        );
      await tx.insert(sessions).values({
        tokenHash: digest(token),
        shopId,
        personId,
        expiresAt: new Date(Date.now() + ABSOLUTE_DAYS * DAY_MS),
        userAgent: userAgent.slice(0, 300),
        address: address.slice(0, 60),
      });
    });
    return token;
  }

  /** Who a token belongs to; null when its session has ended. */
  async callerOf(token: string | undefined): Promise<Caller | null> {
    if (!token || token.length > 200) return null;
    const session = await this.database.withToken(
      digest(token),
      async (tx) =>
        (
          await tx
            .select()
            .from(sessions)
            .where(eq(sessions.tokenHash, digest(token)))
            .limit(1)
        )[0],
    );
    const now = Date.now();
    if (!session || session.expiresAt.getTime() < now) return null;
    const idleMs = now - session.lastSeenAt.getTime();
    if (idleMs > IDLE_DAYS * DAY_MS) return null;
    return this.database.inShop(session.shopId, async (tx) => {
      if (idleMs > SEEN_EVERY_MS)
        await tx.update(sessions).set({ lastSeenAt: new Date() }).where(eq(sessions.tokenHash, session.tokenHash));
      const [person] = await tx.select().from(people).where(eq(people.id, session.personId));
      const [shop] = await tx.select().from(shops);
      return person && shop
        ? {
            shopId: session.shopId,
            personId: person.id,
            sessionId: session.id,
            shop: shop.name,
            name: person.name,
            email: person.email,
            units: person.units,
          }
        : null;
    });
  }

  /** My sessions, the newest first. */
  async list(caller: Caller): Promise<SessionListed[]> {
    const rows = await this.database.inShop(caller.shopId, (tx) =>
      tx
        .select()
        .from(sessions)
        .where(eq(sessions.personId, caller.personId))
        .orderBy(desc(sessions.lastSeenAt))
        .limit(100),
    );
    return rows.map(({ id, createdAt, lastSeenAt, userAgent, address }) => ({
      ...{ id, userAgent, address },
      createdAt: createdAt.toISOString(),
      lastSeenAt: lastSeenAt.toISOString(),
      own: id === caller.sessionId,
    }));
  }

  /** Ends one of my sessions. @throws NotFoundException when it is none of mine */
  async end(caller: Caller, id: string): Promise<void> {
    const ended = await this.database.inShop(caller.shopId, (tx) =>
      tx
        .delete(sessions)
        .where(and(eq(sessions.id, id), eq(sessions.personId, caller.personId)))
        .returning({ id: sessions.id }),
    );
    if (ended.length === 0) throw new NotFoundException('There is no such session; it may have ended meanwhile.');
    this.log.event(id === caller.sessionId ? 'signed-out' : 'sessions-ended', { person: caller.personId, count: 1 });
  }

  /** Ends all of my sessions but the one that asks. */
  async endOthers(caller: Caller): Promise<number> {
    const count = await this.database.inShop(caller.shopId, (tx) => this.endOthersIn(tx, caller));
    this.log.event('sessions-ended', { person: caller.personId, count });
    return count;
  }

  async endOthersIn(tx: Transaction, caller: Caller): Promise<number> {
    const ended = await tx
      .delete(sessions)
      .where(and(eq(sessions.personId, caller.personId), ne(sessions.id, caller.sessionId)))
      .returning({ id: sessions.id });
    return ended.length;
  }
}
