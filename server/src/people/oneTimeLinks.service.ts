import { BadRequestException, ConflictException, GoneException, Injectable } from '@nestjs/common';
import { hash } from '@node-rs/argon2';
import { and, eq, gt, isNull } from 'drizzle-orm';
import { Database, type Transaction } from '../database/database.ts';
import { sqlState, UNIQUE_VIOLATION } from '../database/faults.ts';
import { oneTimeLinks, people, sessions, shops } from '../database/schema.ts';
import { weakPassword } from '../security/passwords.ts';
import { SecurityLog } from '../security/securityLog.ts';
import { digestOf, newSecret } from './secrets.ts';
import type { LinkShown, LinkUse, MadeLink } from './team.dto.ts';

/** An invitation may lie in somebody's pocket over a weekend; who lost a password stands there. */
const HOURS = { invitation: 7 * 24, 'password-reset': 4 } as const;

type LinkRow = typeof oneTimeLinks.$inferSelect;
export type NewLink = Pick<LinkRow, 'shopId' | 'purpose' | 'email' | 'role' | 'personId' | 'madeBy'>;

/** Links that let one person in once, without a mail server: whoever made one hands it over. */
@Injectable()
export class OneTimeLinksService {
  constructor(
    private readonly database: Database,
    private readonly log: SecurityLog,
  ) {}

  /** Makes a link; earlier ones for the same person and purpose are void. */
  async make(tx: Transaction, link: NewLink): Promise<MadeLink> {
    const secret = newSecret();
    const expiresAt = new Date(Date.now() + HOURS[link.purpose] * 3_600_000);
    await tx
      .delete(oneTimeLinks)
      .where(
        and(eq(oneTimeLinks.email, link.email), eq(oneTimeLinks.purpose, link.purpose), isNull(oneTimeLinks.usedAt)),
      );
    await tx.insert(oneTimeLinks).values({ ...link, tokenHash: digestOf(secret), expiresAt });
    this.log.event('link-made', { purpose: link.purpose, by: link.madeBy ?? 'operator' });
    return { secret, expiresAt: expiresAt.toISOString() };
  }

  /** What a link is for. @throws GoneException when it was used, is void or over */
  async show(secret: string): Promise<LinkShown> {
    const link = await this.#find(secret);
    return this.database.inShop(link.shopId, async (tx) => {
      const [shop] = await tx.select().from(shops);
      const person = link.personId ? await personIn(tx, link.personId) : null;
      return {
        ...{ purpose: link.purpose, email: link.email, role: link.role },
        ...{ shop: shop!.name, name: person?.name ?? null },
      };
    });
  }

  /** Uses a link up: somebody joins, or has a new password and no session any more. @returns the e-mail to sign in with */
  async use({ secret, name, password }: LinkUse): Promise<string> {
    const link = await this.#find(secret);
    const weak = weakPassword(password, [link.email, name]);
    if (weak) throw new BadRequestException({ message: weak, errors: [{ path: 'password', message: weak }] });
    const passwordHash = await hash(password);
    try {
      await this.database.inShop(link.shopId, async (tx) => {
        const used = await tx
          .update(oneTimeLinks)
          .set({ usedAt: new Date() })
          .where(and(eq(oneTimeLinks.id, link.id), isNull(oneTimeLinks.usedAt)))
          .returning({ id: oneTimeLinks.id });
        if (used.length === 0) throw over();
        const { shopId, email, role, personId } = link;
        if (personId) {
          await tx.update(people).set({ passwordHash }).where(eq(people.id, personId));
          await tx.delete(sessions).where(eq(sessions.personId, personId));
        } else await tx.insert(people).values({ shopId, email, role, name, passwordHash });
      });
    } catch (error) {
      if (sqlState(error) === UNIQUE_VIOLATION)
        throw new ConflictException(
          `${link.email} has an account already. Sign in with it, or ask for a link with another e-mail address.`,
        );
      throw error;
    }
    this.log.event('link-used', { purpose: link.purpose, shop: link.shopId });
    return link.email;
  }

  async #find(secret: string): Promise<LinkRow> {
    const tokenHash = digestOf(secret);
    const [link] = await this.database.withLink(tokenHash, (tx) =>
      tx
        .select()
        .from(oneTimeLinks)
        .where(
          and(
            eq(oneTimeLinks.tokenHash, tokenHash),
            isNull(oneTimeLinks.usedAt),
            gt(oneTimeLinks.expiresAt, new Date()),
          ),
        ),
    );
    if (!link) throw over();
    return link;
  }
}

function over(): GoneException {
  return new GoneException('This link was used already, is over, or a newer one was made. Ask for a new one.');
}

async function personIn(tx: Transaction, id: string): Promise<typeof people.$inferSelect | null> {
  const [row] = await tx.select().from(people).where(eq(people.id, id));
  return row ?? null;
}
