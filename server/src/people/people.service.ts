import { randomUUID, timingSafeEqual, createHash, randomBytes } from 'node:crypto';
import {
  BadRequestException,
  ConflictException,
  ForbiddenException,
  Injectable,
  Logger,
  UnauthorizedException,
} from '@nestjs/common';
import { isUnitName, quantityOf } from '@prandel/core';
import { hash, verify } from '@node-rs/argon2';
import { eq } from 'drizzle-orm';
import { Database } from '../database/database.ts';
import { sqlState, UNIQUE_VIOLATION } from '../database/faults.ts';
import { installation, people, shops } from '../database/schema.ts';
import { weakPassword } from '../security/passwords.ts';
import { SecurityLog } from '../security/securityLog.ts';
import { SignInLimits } from '../security/signInLimits.ts';
import type { Person } from './caller.ts';
import type { FirstStart, PasswordChange, SignIn } from './people.dto.ts';
import { SessionsService, type SessionPlace } from './sessions.service.ts';

const NOT_TOGETHER = 'E-mail and password do not belong together.';

type NewPerson = Pick<typeof people.$inferInsert, 'name' | 'email' | 'role'> & { readonly password: string };

@Injectable()
export class PeopleService {
  /** Claims a fresh server; printed where it was started, and read by nobody else. */
  readonly #setupToken = process.env.PRANDEL_SETUP_TOKEN ?? randomBytes(12).toString('base64url');
  /** An e-mail that nobody has takes as long as a wrong password. */
  readonly #nobody = hash(randomUUID());

  constructor(
    private readonly database: Database,
    private readonly sessions: SessionsService,
    private readonly limits: SignInLimits,
    private readonly log: SecurityLog,
  ) {
    if (!process.env.PRANDEL_SETUP_TOKEN)
      void this.isFirstStart().then(
        (first) => first && new Logger('Server').warn(`First start: the set-up code is ${this.#setupToken}`),
        () => undefined,
      );
  }

  async isFirstStart(): Promise<boolean> {
    return (await this.database.everyShop()).length === 0;
  }

  /** Sets up the shop by whoever can read the terminal of a fresh server; only ever once. */
  async claim(body: FirstStart): Promise<void> {
    if (!(await this.isFirstStart())) throw new ConflictException('This Prandel already has a shop. Sign in instead.');
    if (!sameSecret(body.setupCode, this.#setupToken)) {
      this.log.event('first-start-refused');
      throw new ForbiddenException(
        'The set-up code is not the one that was printed when Prandel started. Look at the terminal where it runs.',
      );
    }
    const weak = weakPassword(body.password, [body.email, body.name, body.shop]);
    if (weak) throw new BadRequestException({ message: weak, errors: [{ path: 'password', message: weak }] });
    await this.firstStart(body);
  }

  /** Makes the shop and its first person. @throws ConflictException when there is a shop */
  async firstStart({ shop, name, email, password }: Omit<FirstStart, 'setupCode'>): Promise<string> {
    const shopId = randomUUID();
    const passwordHash = await hash(password);
    try {
      await this.database.inShop(shopId, async (tx) => {
        await tx.insert(installation).values({ shopId });
        await tx.insert(shops).values({ shopId, name: shop });
        await tx.insert(people).values({ shopId, name, email: email.toLowerCase(), passwordHash, role: 'owner' });
      });
    } catch (error) {
      if (sqlState(error) === UNIQUE_VIOLATION)
        throw new ConflictException('This Prandel already has a shop. Sign in instead.');
      throw error;
    }
    this.log.event('first-start', { shop: shopId });
    return shopId;
  }

  /** Adds somebody without an invitation, for the demo. */
  async add(shopId: string, { name, email, role, password }: NewPerson): Promise<void> {
    const passwordHash = await hash(password);
    await this.database.inShop(shopId, (tx) => tx.insert(people).values({ shopId, name, email, role, passwordHash }));
  }

  /** The shop of the person with this e-mail; null when there is none. */
  async shopOf(email: string): Promise<string | null> {
    const [person] = await this.database.signingIn(email, (tx) =>
      tx.select({ shopId: people.shopId }).from(people).where(eq(people.email, email)).limit(1),
    );
    return person?.shopId ?? null;
  }

  /** @returns the token of a new session */
  async signIn({ email, password }: SignIn, place: SessionPlace): Promise<string> {
    const address = email.toLowerCase();
    await this.limits.count(address, place.address);
    const person = await this.database.signingIn(
      address,
      async (tx) => (await tx.select().from(people).where(eq(people.email, address)).limit(1))[0],
    );
    const right = await verify(person?.passwordHash ?? (await this.#nobody), password);
    if (!person || !right) {
      this.log.event('sign-in-refused', { address: place.address, person: person?.id ?? 'unknown' });
      throw new UnauthorizedException(NOT_TOGETHER);
    }
    await this.limits.forget(address);
    this.log.event('signed-in', { address: place.address, person: person.id });
    return this.sessions.begin(person.shopId, person.id, place);
  }

  /** Changes my password and ends my other sessions. */
  async changePassword(caller: Person, { current, next }: PasswordChange, place: SessionPlace): Promise<void> {
    await this.limits.count(caller.email, place.address);
    const [person] = await this.database.inShop(caller.shopId, (tx) =>
      tx.select().from(people).where(eq(people.id, caller.personId)),
    );
    if (!person || !(await verify(person.passwordHash, current))) {
      this.log.event('password-change-refused', { person: caller.personId, address: place.address });
      throw new BadRequestException({
        message: 'This is not your present password.',
        errors: [{ path: 'current', message: 'This is not your present password.' }],
      });
    }
    const weak = weakPassword(next, [caller.email, caller.name, caller.shop]);
    if (weak) throw new BadRequestException({ message: weak, errors: [{ path: 'next', message: weak }] });
    const passwordHash = await hash(next);
    await this.database.inShop(caller.shopId, async (tx) => {
      await tx.update(people).set({ passwordHash }).where(eq(people.id, caller.personId));
      await this.sessions.endOthersIn(tx, caller);
    });
    await this.limits.forget(caller.email);
    this.log.event('password-changed', { person: caller.personId });
  }

  async chooseUnits(caller: Person, units: Record<string, string>): Promise<void> {
    const entries = Object.entries(units);
    if (entries.length > 20) throw new BadRequestException('These are more units than there are quantities.');
    for (const [quantity, name] of entries) {
      if (typeof name !== 'string' || !isUnitName(name) || quantityOf(name) !== quantity)
        throw new BadRequestException(`${String(name)} is no unit of ${quantity}.`);
    }
    await this.database.inShop(caller.shopId, (tx) =>
      tx.update(people).set({ units }).where(eq(people.id, caller.personId)),
    );
  }
}

/** Compares without telling by its time how much was right. */
function sameSecret(given: string, wanted: string): boolean {
  const digest = (text: string) => createHash('sha256').update(text).digest();
  return timingSafeEqual(digest(given), digest(wanted));
}
