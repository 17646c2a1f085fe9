import { ConflictException, Injectable, NotFoundException } from '@nestjs/common';
import { and, asc, eq, gt, isNull, max, ne, sql } from 'drizzle-orm';
import { Database, type Transaction } from '../database/database.ts';
import { oneTimeLinks, people, sessions, shops } from '../database/schema.ts';
import { SecurityLog } from '../security/securityLog.ts';
import type { Person } from './caller.ts';
import { OneTimeLinksService } from './oneTimeLinks.service.ts';
import type { MadeLink, NewInvitation, RoleChange, Team } from './team.dto.ts';

/** The people of a shop, as its owner sees and changes them. */
@Injectable()
export class TeamService {
  constructor(
    private readonly database: Database,
    private readonly links: OneTimeLinksService,
    private readonly log: SecurityLog,
  ) {}

  read(owner: Person): Promise<Team> {
    return this.database.inShop(owner.shopId, async (tx) => {
      const seen = tx
        .select({ personId: sessions.personId, at: max(sessions.lastSeenAt).as('at') })
        .from(sessions)
        .groupBy(sessions.personId)
        .as('seen');
      const rows = await tx
        .select({ person: people, at: seen.at })
        .from(people)
        .leftJoin(seen, eq(seen.personId, people.id))
        .where(isNull(people.removedAt))
        .orderBy(asc(people.name), asc(people.id))
        .limit(500);
      const open = await tx
        .select()
        .from(oneTimeLinks)
        .where(
          and(
            eq(oneTimeLinks.purpose, 'invitation'),
            isNull(oneTimeLinks.usedAt),
            gt(oneTimeLinks.expiresAt, new Date()),
          ),
        )
        .orderBy(asc(oneTimeLinks.createdAt))
        .limit(500);
      return {
        people: rows.map(({ person: { id, name, email, role, version }, at }) => ({
          ...{ id, name, email, role, version },
          lastSeenAt: at ? new Date(at).toISOString() : null,
        })),
        invitations: open.map(({ id, email, role, createdAt, expiresAt }) => ({
          ...{ id, email, role },
          createdAt: createdAt.toISOString(),
          expiresAt: expiresAt.toISOString(),
        })),
      };
    });
  }

  /** @throws ConflictException when somebody of the shop has this e-mail address */
  invite(owner: Person, { email, role }: NewInvitation): Promise<MadeLink> {
    const address = email.toLowerCase();
    return this.database.inShop(owner.shopId, async (tx) => {
      const [known] = await tx
        .select({ name: people.name })
        .from(people)
        .where(and(eq(people.email, address), isNull(people.removedAt)));
      if (known) throw new ConflictException(`${known.name} has this e-mail address and is in the shop already.`);
      return this.links.make(tx, {
        ...{ shopId: owner.shopId, purpose: 'invitation', email: address, role },
        ...{ personId: null, madeBy: owner.personId },
      });
    });
  }

  /** @throws NotFoundException when the invitation was used or withdrawn */
  async withdraw(owner: Person, id: string): Promise<void> {
    const gone = await this.database.inShop(owner.shopId, (tx) =>
      tx
        .delete(oneTimeLinks)
        .where(and(eq(oneTimeLinks.id, id), eq(oneTimeLinks.purpose, 'invitation'), isNull(oneTimeLinks.usedAt)))
        .returning({ id: oneTimeLinks.id }),
    );
    if (gone.length === 0) throw new NotFoundException('There is no such invitation; it may have been used meanwhile.');
  }

  /** Gives somebody another role; their sessions end. @throws ConflictException when it is stale, or would leave no owner */
  async changeRole(owner: Person, id: string, { role, version }: RoleChange): Promise<void> {
    await this.database.inShop(owner.shopId, async (tx) => {
      const person = await this.#locked(tx, id);
      if (person.version !== version)
        throw new ConflictException(`${person.name} is ${person.role} since somebody changed it. Look again.`);
      if (person.role === role) return;
      await this.#refuseLastOwner(tx, person.id, person.role);
      await tx
        .update(people)
        .set({ role, version: sql`${people.version} + 1` })
        .where(eq(people.id, id));
      await tx.delete(sessions).where(eq(sessions.personId, id));
    });
    this.log.event('role-changed', { person: id, by: owner.personId, role });
  }

  /** Takes somebody out of the shop; their sessions end, the log still names them. */
  async remove(owner: Person, id: string): Promise<void> {
    await this.database.inShop(owner.shopId, async (tx) => {
      const person = await this.#locked(tx, id);
      await this.#refuseLastOwner(tx, person.id, person.role);
      await tx
        .update(people)
        .set({ removedAt: new Date(), passwordHash: '', version: sql`${people.version} + 1` })
        .where(eq(people.id, id));
      await tx.delete(sessions).where(eq(sessions.personId, id));
      await tx.delete(oneTimeLinks).where(and(eq(oneTimeLinks.personId, id), isNull(oneTimeLinks.usedAt)));
    });
    this.log.event('person-removed', { person: id, by: owner.personId });
  }

  /** A link by which somebody sets a new password, without the old one. */
  resetLink(owner: Person, id: string): Promise<MadeLink> {
    return this.database.inShop(owner.shopId, async (tx) => {
      const { email, role } = await this.#locked(tx, id);
      return this.links.make(tx, {
        ...{ shopId: owner.shopId, purpose: 'password-reset', email, role },
        ...{ personId: id, madeBy: owner.personId },
      });
    });
  }

  /** The shop's own row is locked first, so that two owners cannot remove each other in the same moment. */
  async #locked(tx: Transaction, id: string): Promise<typeof people.$inferSelect> {
    await tx.select().from(shops).for('update');
    const [person] = await tx
      .select()
      .from(people)
      .where(and(eq(people.id, id), isNull(people.removedAt)));
    if (!person) throw new NotFoundException('There is nobody like that in this shop; they may have been removed.');
    return person;
  }

  async #refuseLastOwner(tx: Transaction, id: string, role: string): Promise<void> {
    if (role !== 'owner') return;
    const others = await tx
      .select({ id: people.id })
      .from(people)
      .where(and(eq(people.role, 'owner'), isNull(people.removedAt), ne(people.id, id)))
      .limit(1);
    if (others.length === 0)
      throw new ConflictException('A shop has at least one owner. Make somebody else an owner first.');
  }
}
