import { createPrivateKey, createPublicKey, generateKeyPairSync, sign, type KeyObject } from 'node:crypto';
import { mkdir, open, readFile, rename, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ConflictException, Injectable, Logger } from '@nestjs/common';
import { canonicalJson, fingerprint, type KeyChange } from '@prandel/formats';
import { desc, isNull } from 'drizzle-orm';
import { Database, type Transaction } from '../database/database.ts';
import { loggable } from '../database/faults.ts';
import { shopKeys } from '../database/schema.ts';

export type KeyRow = typeof shopKeys.$inferSelect;

/** How the key file stands to what the shop has sealed with: there, gone, or that of another key. */
export type KeyState = 'there' | 'missing' | 'other';

/** A key that seals: the private half stays in this process, and in the file that it was read from. */
export interface SealingKey {
  readonly publicKey: string;
  readonly privateKeyPem: string;
}

/** Where keys lie: outside the database, so that no backup of it holds them. */
export function keyFolder(): string {
  return process.env.PRANDEL_KEYS ?? join(process.env.PRANDEL_DATA ?? join(tmpdir(), `prandel-${process.pid}`), 'keys');
}

/** A shop's keys: made at the first start, a file that only the server reads, known by their public halves in the database. */
@Injectable()
export class ShopKeys {
  readonly #log = new Logger('Keys');

  constructor(private readonly database: Database) {}

  /** Makes a key for every shop that has none. */
  async ensureAll(): Promise<void> {
    for (const shopId of await this.database.everyShop())
      await this.standing(shopId).catch((error: unknown) => this.#log.error(loggable(error)));
  }

  /** The key in force and how its file stands. The first look makes a key where there never was one. */
  async standing(shopId: string): Promise<{ key: KeyRow; state: KeyState; history: KeyRow[] }> {
    const known = await this.#rows(shopId);
    const inForce = known.find((row) => row.retiredAt === null);
    if (inForce) return { key: inForce, state: await this.#stateOf(shopId, inForce), history: known };
    // A file without a row is that of a database that was restored from before the first seal: it goes on.
    const file = (await readKey(pathOf(shopId))) ?? (await this.#make(pathOf(shopId)));
    await this.database.inShop(shopId, (tx) =>
      tx
        .insert(shopKeys)
        .values({ shopId, publicKey: publicOf(file), madeBy: 'the first start' })
        .onConflictDoNothing(),
    );
    return this.standing(shopId);
  }

  /** The key to seal with. @throws ConflictException when its file is lost or another one's */
  async forSealing(shopId: string): Promise<SealingKey> {
    const { key, state } = await this.standing(shopId);
    if (state !== 'there') throw new ConflictException(lostWords(state, shopId));
    const file = (await readKey(pathOf(shopId)))!;
    return { publicKey: key.publicKey, privateKeyPem: file.export({ type: 'pkcs8', format: 'pem' }).toString() };
  }

  /**
   * Puts a new key in place of the old one, which signs it. With `lost` the old one cannot: the new key then stands for itself.
   * @throws ConflictException when the old key is lost and nobody said so, or is there and somebody said it were lost
   */
  async change(shopId: string, shop: string, by: string, lost: boolean): Promise<void> {
    const { key, state } = await this.standing(shopId);
    if (state !== 'there' && !lost)
      throw new ConflictException(`${lostWords(state, shopId)} Or make a new key that the old one does not sign.`);
    if (state === 'there' && lost)
      throw new ConflictException(
        'The key file is there, so the old key can sign the new one. Change the key instead.',
      );
    const old = state === 'there' ? (await readKey(pathOf(shopId)))! : null;
    await rm(nextPath(shopId), { force: true });
    const made = await this.#make(nextPath(shopId));
    const text = canonicalJson({
      ...{ keyChange: 1, shop, at: new Date().toISOString() },
      ...{ oldKey: key.publicKey, newKey: publicOf(made) },
    } satisfies KeyChange);
    await this.database.inShop(shopId, async (tx) => {
      await tx.update(shopKeys).set({ retiredAt: new Date() }).where(isNull(shopKeys.retiredAt));
      await tx.insert(shopKeys).values({
        ...{ shopId, publicKey: publicOf(made), madeBy: by },
        changeText: old && text,
        changeSignature: old && sign(null, Buffer.from(text, 'utf8'), old).toString('base64'),
      });
    });
    await rename(nextPath(shopId), pathOf(shopId));
  }

  async #stateOf(shopId: string, { publicKey }: KeyRow): Promise<KeyState> {
    const file = await readKey(pathOf(shopId));
    if (file && publicOf(file) === publicKey) return 'there';
    // A change that was cut off between the database and the file is finished now.
    const next = await readKey(nextPath(shopId));
    if (next && publicOf(next) === publicKey) {
      await rename(nextPath(shopId), pathOf(shopId));
      return 'there';
    }
    return file ? 'other' : 'missing';
  }

  /** Writes a new key where none is. Of two processes at once one makes it, the other reads it. */
  async #make(path: string): Promise<KeyObject> {
    await mkdir(keyFolder(), { recursive: true, mode: 0o700 });
    const { privateKey } = generateKeyPairSync('ed25519');
    const own = `${path}.${process.pid}`;
    const file = await open(own, 'wx', 0o600);
    await file.writeFile(privateKey.export({ type: 'pkcs8', format: 'pem' }));
    await file.sync();
    await file.close();
    const there = await readKey(path);
    if (there) {
      await rm(own, { force: true });
      return there;
    }
    await rename(own, path);
    this.#log.log(
      `Made a key for sealing. Keep a copy of ${path} where this disk is not: docs/operations.md says how.`,
    );
    return (await readKey(path))!;
  }

  #rows(shopId: string): Promise<KeyRow[]> {
    return this.database.inShop(shopId, (tx: Transaction) =>
      tx.select().from(shopKeys).orderBy(desc(shopKeys.madeAt), desc(shopKeys.id)),
    );
  }
}

const pathOf = (shopId: string) => join(keyFolder(), `${shopId}.pem`);
const nextPath = (shopId: string) => join(keyFolder(), `${shopId}.next.pem`);

function lostWords(state: Exclude<KeyState, 'there'>, shopId: string): string {
  const file = `keys/${shopId}.pem`;
  return state === 'missing'
    ? `The key file ${file} is gone, so nothing can be sealed. Put its copy back.`
    : `The key file ${file} holds another key than the one this shop seals with. Put the right one back.`;
}

/** The key of a file; null where there is none, or the file holds none. */
async function readKey(path: string): Promise<KeyObject | null> {
  const pem = await readFile(path, 'utf8').catch(() => null);
  if (pem === null) return null;
  try {
    const key = createPrivateKey(pem);
    return key.asymmetricKeyType === 'ed25519' ? key : null;
  } catch {
    return null;
  }
}

/** The 32 bytes of the public half, base64. */
function publicOf(key: KeyObject): string {
  return Buffer.from(createPublicKey(key).export({ format: 'jwk' }).x!, 'base64url').toString('base64');
}

/** A key's row as people compare it. */
export const fingerprintOf = (row: Pick<KeyRow, 'publicKey'>): string => fingerprint(row.publicKey);
