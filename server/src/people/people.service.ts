import { createHash, randomBytes, randomUUID } from 'node:crypto';
import { BadRequestException, ConflictException, Injectable, UnauthorizedException } from '@nestjs/common';
import { isUnitName, quantityOf } from '@prandel/core';
import { hash, verify } from '@node-rs/argon2';
import { eq, lt } from 'drizzle-orm';
import { Database } from '../database/database.ts';
import { installation, people, sessions, shops } from '../database/schema.ts';
import type { FirstStart, SignedIn, SignIn } from './people.dto.ts';

/** Who is asking, and for which shop. */
export interface Caller extends SignedIn {
  readonly shopId: string;
  readonly personId: string;
}

export const SESSION_COOKIE = 'prandel_session';
const SESSION_DAYS = 30;
const digest = (token: string) => createHash('sha256').update(token).digest('hex');

@Injectable()
export class PeopleService {
  constructor(private readonly database: Database) {}

  async isFirstStart(): Promise<boolean> {
    return this.database.withToken('', async (tx) => (await tx.select().from(installation).limit(1)).length === 0);
  }

  /** Sets up the shop and its first person; only ever once. */
  async firstStart({ shop, name, email, password }: FirstStart): Promise<string> {
    const shopId = randomUUID();
    const passwordHash = await hash(password);
    await this.database.inShop(shopId, async (tx) => {
      if ((await tx.select().from(installation).limit(1)).length > 0)
        throw new ConflictException('This Prandel already has a shop. Sign in instead.');
      await tx.insert(installation).values({ shopId });
      await tx.insert(shops).values({ shopId, name: shop });
      await tx.insert(people).values({ shopId, name, email: email.toLowerCase(), passwordHash });
    });
    return shopId;
  }

  /** The shop of the person with this e-mail; null when there is none. */
  async shopOf(email: string): Promise<string | null> {
    const [person] = await this.database.signingIn(email, (tx) =>
      tx.select({ shopId: people.shopId }).from(people).where(eq(people.email, email)).limit(1),
    );
    return person?.shopId ?? null;
  }

  /** @returns the token of a new session */
  async signIn({ email, password }: SignIn): Promise<string> {
    const address = email.toLowerCase();
    const person = await this.database.signingIn(
      address,
      async (tx) => (await tx.select().from(people).where(eq(people.email, address)).limit(1))[0],
    );
    if (!person || !(await verify(person.passwordHash, password)))
      throw new UnauthorizedException('E-mail and password do not belong together.');
    const token = randomBytes(32).toString('base64url');
    await this.database.inShop(person.shopId, async (tx) => {
      await tx.delete(sessions).where(lt(sessions.expiresAt, new Date()));
      await tx.insert(sessions).values({
        tokenHash: digest(token),
        shopId: person.shopId,
        personId: person.id,
        expiresAt: new Date(Date.now() + SESSION_DAYS * 86_400_000),
      });
    });
    return token;
  }

  async callerOf(token: string | undefined): Promise<Caller | null> {
    if (!token) return null;
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
    if (!session || session.expiresAt < new Date()) return null;
    return this.database.inShop(session.shopId, async (tx) => {
      const [person] = await tx.select().from(people).where(eq(people.id, session.personId));
      const [shop] = await tx.select().from(shops);
      return person && shop
        ? {
            shopId: session.shopId,
            personId: person.id,
            shop: shop.name,
            name: person.name,
            email: person.email,
            units: person.units,
          }
        : null;
    });
  }

  async signOut(caller: Caller, token: string): Promise<void> {
    await this.database.inShop(caller.shopId, (tx) => tx.delete(sessions).where(eq(sessions.tokenHash, digest(token))));
  }

  async chooseUnits(caller: Caller, units: Record<string, string>): Promise<void> {
    for (const [quantity, name] of Object.entries(units)) {
      if (!isUnitName(name) || quantityOf(name) !== quantity)
        throw new BadRequestException(`${name} is no unit of ${quantity}.`);
    }
    await this.database.inShop(caller.shopId, (tx) =>
      tx.update(people).set({ units }).where(eq(people.id, caller.personId)),
    );
  }
}
