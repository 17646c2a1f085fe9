import { BadRequestException, ForbiddenException, Injectable, NotFoundException } from '@nestjs/common';
import { and, desc, eq, isNull } from 'drizzle-orm';
import { Database, type Transaction } from '../database/database.ts';
import { accessTokens, bayRuns, bays, people, type TokenScope } from '../database/schema.ts';
import { SecurityLog } from '../security/securityLog.ts';
import type { AccessTokenRow, NewAccessToken } from './accessTokens.dto.ts';
import type { Caller, Person } from './caller.ts';
import { digestOf, newSecret } from './secrets.ts';

/** Begins every token, so that one that lies about can be told for what it is. */
const PREFIX = 'prandel_';

/** Tokens by which a program works for the shop: each for one thing, shown once, withdrawable. */
@Injectable()
export class AccessTokensService {
  constructor(
    private readonly database: Database,
    private readonly log: SecurityLog,
  ) {}

  /** The program that uses a token; null when it was withdrawn or never made. */
  async callerOf(token: string | undefined): Promise<Caller | null> {
    if (!token?.startsWith(PREFIX) || token.length > 200) return null;
    const { rows } = await this.database.pool.query<{
      shop_id: string;
      shop: string;
      token_id: string;
      name: string;
      scope: TokenScope;
      bay_id: string | null;
    }>('SELECT * FROM caller_of_access_token($1)', [digestOf(token)]);
    const [row] = rows;
    if (!row) return null;
    return {
      ...{ shopId: row.shop_id, shop: row.shop, name: `access token “${row.name}”`, email: '', units: {} },
      ...{ personId: null, sessionId: null, role: null },
      ...{ tokenId: row.token_id, scope: row.scope, bayId: row.bay_id },
    };
  }

  /** @returns the row and the token itself, which nobody can be shown again */
  async make(owner: Person, { name, scope, bayId: bay }: NewAccessToken): Promise<AccessTokenRow & { token: string }> {
    const bayId = bay ?? null;
    if ((scope === 'upload-to-bay') !== (bayId !== null))
      throw new BadRequestException({
        message: 'A token that brings files names its bay, another one names none.',
        errors: [{ path: 'bayId', message: 'Choose the bay for this scope.' }],
      });
    const token = `${PREFIX}${newSecret()}`;
    const row = await this.database.inShop(owner.shopId, async (tx) => {
      if (bayId !== null) {
        const [known] = await tx
          .select({ id: bays.id })
          .from(bays)
          .where(and(eq(bays.id, bayId), isNull(bays.deletedAt)));
        if (!known) throw new NotFoundException('This shop has no such bay.');
      }
      const [made] = await tx
        .insert(accessTokens)
        .values({
          ...{ shopId: owner.shopId, name, scope, bayId },
          ...{ tokenHash: digestOf(token), madeBy: owner.personId },
        })
        .returning({ id: accessTokens.id });
      return (await rowsIn(tx)).find((r) => r.id === made!.id)!;
    });
    this.log.event('token-made', { person: owner.personId, token: row.id, scope });
    return { ...row, token };
  }

  list(shopId: string): Promise<AccessTokenRow[]> {
    return this.database.inShop(shopId, rowsIn);
  }

  /** @throws NotFoundException when there is no such token, or it was withdrawn */
  async withdraw(owner: Person, id: string): Promise<void> {
    const gone = await this.database.inShop(owner.shopId, (tx) =>
      tx
        .update(accessTokens)
        .set({ withdrawnAt: new Date() })
        .where(and(eq(accessTokens.id, id), isNull(accessTokens.withdrawnAt)))
        .returning({ id: accessTokens.id }),
    );
    if (gone.length === 0) throw new NotFoundException('There is no such token; it may have been withdrawn already.');
    this.log.event('token-withdrawn', { person: owner.personId, token: id });
  }

  /** @throws ForbiddenException when a program brings something for a job that is not on its bay */
  async refuseOtherBays(caller: Caller, jobId: string): Promise<void> {
    if (caller.scope !== 'upload-to-bay') return;
    const on = await this.database.inShop(caller.shopId, (tx) =>
      tx.select({ bayId: bayRuns.bayId }).from(bayRuns).where(eq(bayRuns.jobId, jobId)),
    );
    if (on[0]?.bayId !== caller.bayId)
      throw new ForbiddenException(
        'The job is not in the bay of this access token. Put its car on the rollers there first.',
      );
  }
}

/** Tokens that are in force, the newest first. */
async function rowsIn(tx: Transaction): Promise<AccessTokenRow[]> {
  const rows = await tx
    .select({ token: accessTokens, bay: bays.label, madeBy: people.name })
    .from(accessTokens)
    .leftJoin(bays, eq(bays.id, accessTokens.bayId))
    .innerJoin(people, eq(people.id, accessTokens.madeBy))
    .where(isNull(accessTokens.withdrawnAt))
    .orderBy(desc(accessTokens.createdAt))
    .limit(200);
  return rows.map(({ token: t, bay, madeBy }) => ({
    ...{ id: t.id, name: t.name, scope: t.scope, bay, madeBy },
    createdAt: t.createdAt.toISOString(),
    lastUsedAt: t.lastUsedAt?.toISOString() ?? null,
  }));
}
