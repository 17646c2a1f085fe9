import { randomUUID } from 'node:crypto';
import type { Database } from '../database/database.ts';
import { shops } from '../database/schema.ts';
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
