import { randomBytes } from 'node:crypto';
import { GoneException, HttpException, Injectable, NotFoundException } from '@nestjs/common';
import { fingerprint } from '@prandel/formats';
import { and, eq, isNull, sql } from 'drizzle-orm';
import { RateLimiterPostgres, RateLimiterRes } from 'rate-limiter-flexible';
import { Database } from '../database/database.ts';
import { files, seals, shareLinks, shops } from '../database/schema.ts';
import { fileBytes } from '../files/fileStore.ts';
import type { SharedAnswer } from '../http/coreAnswers.ts';
import type { Caller } from '../people/caller.ts';
import { digestOf } from '../people/secrets.ts';
import { SecurityLog } from '../security/securityLog.ts';
import type { MadeShareLink, NewShareLink } from './seals.dto.ts';

const MINUTES = 15;
/** A customer who mistypes needs a few; whoever tries more than that guesses. */
const MISSES_AN_ADDRESS = 20;
const DAY_MS = 86_400_000;

type LinkRow = typeof shareLinks.$inferSelect;

/** Links that open a sealed report without signing in. Of a link's secret only its digest is kept. */
@Injectable()
export class SharesService {
  readonly #misses: RateLimiterPostgres;

  constructor(
    private readonly database: Database,
    private readonly log: SecurityLog,
  ) {
    this.#misses = new RateLimiterPostgres({
      ...{ storeClient: database.pool, storeType: 'pool', tableName: 'sign_in_tries', tableCreated: true },
      ...{ clearExpiredByTimeout: false, keyPrefix: 'share', points: MISSES_AN_ADDRESS, duration: MINUTES * 60 },
    });
  }

  /** @throws NotFoundException when the job was not sealed that time */
  async make(caller: Caller, jobId: string, sealId: string, { label, days }: NewShareLink): Promise<MadeShareLink> {
    // 128 bits: nobody finds one by trying.
    const token = randomBytes(16).toString('base64url');
    const { shopId } = caller;
    const id = await this.database.inShop(shopId, async (tx) => {
      const [seal] = await tx
        .select({ id: seals.id })
        .from(seals)
        .where(and(eq(seals.id, sealId), eq(seals.jobId, jobId)));
      if (!seal) throw new NotFoundException('This job has no such seal.');
      const [row] = await tx
        .insert(shareLinks)
        .values({
          ...{ shopId, sealId, label: label.trim(), madeBy: caller.name, tokenHash: digestOf(token) },
          expiresAt: days === null ? null : new Date(Date.now() + days * DAY_MS),
        })
        .returning({ id: shareLinks.id });
      return row!.id;
    });
    this.log.event('link-made', { purpose: 'share', by: caller.name });
    return { id, token };
  }

  /** @throws NotFoundException when the job has no such link that still opens */
  async withdraw(caller: Caller, jobId: string, linkId: string): Promise<void> {
    await this.database.inShop(caller.shopId, async (tx) => {
      const own = tx.select({ id: seals.id }).from(seals).where(eq(seals.jobId, jobId));
      const gone = await tx
        .update(shareLinks)
        .set({ withdrawnAt: new Date() })
        .where(and(eq(shareLinks.id, linkId), isNull(shareLinks.withdrawnAt), sql`${shareLinks.sealId} IN ${own}`))
        .returning({ id: shareLinks.id });
      if (gone.length === 0) throw new NotFoundException('This job has no such link, or it was withdrawn before.');
    });
  }

  /** What the page of a link shows; counts as looked at. */
  async show(token: string, address: string): Promise<SharedAnswer> {
    const link = await this.#find(token, address);
    return this.database.inShop(link.shopId, async (tx) => {
      await tx
        .update(shareLinks)
        .set({ views: sql`${shareLinks.views} + 1`, lastViewedAt: new Date() })
        .where(eq(shareLinks.id, link.id));
      const [row] = await tx.select().from(seals).where(eq(seals.id, link.sealId));
      const [shop] = await tx.select({ name: shops.name }).from(shops);
      const [newer] = await tx
        .select({ sealedAt: seals.sealedAt })
        .from(seals)
        .where(and(eq(seals.jobId, row!.jobId), sql`${seals.n} > ${row!.n}`))
        .limit(1);
      return {
        shop: shop!.name,
        page: row!.page,
        by: row!.by,
        sealedAt: row!.sealedAt.toISOString(),
        fingerprint: fingerprint(row!.publicKey),
        sealSha256: row!.sha256,
        reopened: row!.reopenedAt === null ? null : { at: row!.reopenedAt.toISOString(), reason: row!.reopenReason! },
        sealedAgain: newer !== undefined,
        expiresAt: link.expiresAt?.toISOString() ?? null,
      };
    });
  }

  /** The sealed file behind a link: its name and its bytes. */
  async file(token: string, address: string, which: 'package' | 'report'): Promise<{ name: string; content: Buffer }> {
    const link = await this.#find(token, address);
    return this.database.inShop(link.shopId, async (tx) => {
      const [row] = await tx.select().from(seals).where(eq(seals.id, link.sealId));
      const id = which === 'package' ? row!.packageFileId : row!.reportFileId;
      const [file] = await tx.select({ name: files.name }).from(files).where(eq(files.id, id));
      return { name: file!.name, content: await fileBytes(tx, id) };
    });
  }

  /**
   * One indexed look by the digest of what was given, whether such a link exists or not: how long it takes tells nothing of it.
   * @throws NotFoundException for a link that nobody made, GoneException for one that is over, 429 after too many misses
   */
  async #find(token: string, address: string): Promise<LinkRow> {
    const from = digestOf(address);
    const tries = await this.#misses.get(from);
    if (tries && tries.consumedPoints > MISSES_AN_ADDRESS) throw this.#tooMany(tries, address);
    const tokenHash = digestOf(token);
    const [link] = await this.database.withLink(tokenHash, (tx) =>
      tx.select().from(shareLinks).where(eq(shareLinks.tokenHash, tokenHash)),
    );
    if (!link) {
      try {
        await this.#misses.consume(from);
      } catch (error) {
        if (error instanceof RateLimiterRes) throw this.#tooMany(error, address);
        throw error;
      }
      throw new NotFoundException('Nobody made this link. Look whether all of it was copied.');
    }
    if (link.withdrawnAt) throw new GoneException('The shop has withdrawn this link. Ask it for another one.');
    if (link.expiresAt && link.expiresAt.getTime() < Date.now())
      throw new GoneException('This link is over. Ask the shop for another one.');
    return link;
  }

  #tooMany({ msBeforeNext }: RateLimiterRes, address: string): HttpException {
    const minutes = Math.max(1, Math.ceil(msBeforeNext / 60_000));
    this.log.event('link-limited', { address });
    return new HttpException(
      {
        title: 'Too many tries',
        message: `Too many links that nobody made. Try again in ${minutes} min.`,
        retryAfterS: Math.ceil(msBeforeNext / 1000),
      },
      429,
    );
  }
}
