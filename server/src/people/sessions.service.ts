import { Injectable, NotFoundException } from '@nestjs/common';
import { and, desc, eq, lt, ne, or } from 'drizzle-orm';
import { Database, type Transaction } from '../database/database.ts';
import { sessions, type Role } from '../database/schema.ts';
import { SecurityLog } from '../security/securityLog.ts';
import type { Person } from './caller.ts';
import { digestOf, newSecret } from './secrets.ts';

/** A session ends this long after it began, and this long after it was last used; caller_of_session in the database knows the latter. */
export const ABSOLUTE_DAYS = 30;
const IDLE_DAYS = 7;
const DAY_MS = 86_400_000;

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
    const token = newSecret();
    await this.database.inShop(shopId, async (tx) => {
      await tx
        .delete(sessions)
        .where(
          or(lt(sessions.expiresAt, new Date()), lt(sessions.lastSeenAt, new Date(Date.now() - IDLE_DAYS * DAY_MS))),
        );
      await tx.insert(sessions).values({
        tokenHash: digestOf(token),
        shopId,
        personId,
        expiresAt: new Date(Date.now() + ABSOLUTE_DAYS * DAY_MS),
        userAgent: userAgent.slice(0, 300),
        address: address.slice(0, 60),
      });
    });
    return token;
  }

  /** Who a token belongs to, asked with one query; null when its session has ended. */
  async callerOf(token: string | undefined): Promise<Person | null> {
    if (!token || token.length > 200) return null;
    const { rows } = await this.database.pool.query<{
      shop_id: string;
      shop: string;
      person_id: string;
      session_id: string;
      name: string;
      email: string;
      role: Role;
      units: Record<string, string>;
    }>('SELECT * FROM caller_of_session($1)', [digestOf(token)]);
    const [row] = rows;
    if (!row) return null;
    const { shop, name, email, role, units } = row;
    return {
      ...{ shopId: row.shop_id, shop, name, email, units, role },
      ...{ personId: row.person_id, sessionId: row.session_id },
      ...{ tokenId: null, scope: null, bayId: null },
    };
  }

  /** My sessions, the newest first. */
  async list(caller: Person): Promise<SessionListed[]> {
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
  async end(caller: Person, id: string): Promise<void> {
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
  async endOthers(caller: Person): Promise<number> {
    const count = await this.database.inShop(caller.shopId, (tx) => this.endOthersIn(tx, caller));
    this.log.event('sessions-ended', { person: caller.personId, count });
    return count;
  }

  async endOthersIn(tx: Transaction, caller: Person): Promise<number> {
    const ended = await tx
      .delete(sessions)
      .where(and(eq(sessions.personId, caller.personId), ne(sessions.id, caller.sessionId)))
      .returning({ id: sessions.id });
    return ended.length;
  }
}
