import { randomUUID } from 'node:crypto';
import type { Database } from '../database/database.ts';
import { eq } from 'drizzle-orm';
import { people, shops } from '../database/schema.ts';
import { SecurityLog } from '../security/securityLog.ts';
import { OneTimeLinksService } from './oneTimeLinks.service.ts';

/** Makes a shop without people. @returns the secret of the link by which its owner comes in */
export async function newShop(database: Database, name: string, ownerEmail: string): Promise<string> {
  const links = new OneTimeLinksService(database, new SecurityLog());
  const shopId = randomUUID();
  const { secret } = await database.inShop(shopId, async (tx) => {
    await tx.insert(shops).values({ shopId, name });
    return links.make(tx, {
      ...{ shopId, purpose: 'invitation', email: ownerEmail.toLowerCase(), role: 'owner' },
      ...{ personId: null, madeBy: null },
    });
  });
  return secret;
}

/** For who lost a password and has no owner to ask. @returns the secret of the link; null when nobody has this e-mail address */
export async function passwordLink(database: Database, email: string): Promise<string | null> {
  const links = new OneTimeLinksService(database, new SecurityLog());
  const address = email.toLowerCase();
  const [person] = await database.signingIn(address, (tx) => tx.select().from(people).where(eq(people.email, address)));
  if (!person) return null;
  const { shopId, role, id } = person;
  const link = { shopId, purpose: 'password-reset', email: address, role, personId: id, madeBy: null } as const;
  const { secret } = await database.inShop(shopId, (tx) => links.make(tx, link));
  return secret;
}
