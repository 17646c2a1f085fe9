import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { Injectable, Logger, type OnApplicationShutdown } from '@nestjs/common';
import { lt, sql } from 'drizzle-orm';
import { drizzle, type NodePgDatabase } from 'drizzle-orm/node-postgres';
import { migrate } from 'drizzle-orm/node-postgres/migrator';
import pg from 'pg';
import { actor } from '../people/actor.ts';
import { Leaderships } from './leadership.ts';
import { prepareQueue, QUEUE_SCHEMA } from '../projections/queue.ts';
import * as schema from './schema.ts';

export type Tables = NodePgDatabase<typeof schema>;
export type Transaction = Parameters<Parameters<Tables['transaction']>[0]>[0];

const MIGRATION_LOCK = 487_014_870;

const MIGRATIONS = fileURLToPath(new URL('../../migrations', import.meta.url));

/** The database was brought up to date by a newer version of Prandel, whose rows this one would not understand. */
export class NewerSchemaError extends Error {
  constructor() {
    super(
      'This database was used by a newer version of Prandel. Start that version again, or restore a backup made before the update; nothing was changed.',
    );
  }
}

/** When the newest applied migration was made, milliseconds since 1970; 0 for an empty database. */
async function appliedMigration(client: pg.PoolClient): Promise<number> {
  const { rows: tables } = await client.query<{ there: boolean }>(
    `SELECT to_regclass('drizzle.__drizzle_migrations') IS NOT NULL AS there`,
  );
  if (!tables[0]?.there) return 0;
  const { rows } = await client.query<{ at: string | null }>(
    'SELECT max(created_at) AS at FROM drizzle.__drizzle_migrations',
  );
  return Number(rows[0]?.at ?? 0);
}

/** The one door to PostgreSQL. Everything a shop owns is reached through `inShop`, under row-level security. */
@Injectable()
export class Database implements OnApplicationShutdown {
  readonly pool: pg.Pool;
  private readonly tables: Tables;
  /** What this process leads, such as listening to a bay. */
  readonly leads: Leaderships;

  constructor() {
    const url = process.env.DATABASE_URL;
    if (!url) throw new Error('DATABASE_URL is not set.');
    this.leads = new Leaderships(url);
    this.pool = new pg.Pool({ connectionString: url, max: 10 });
    const lost = (error: Error) => new Logger('Database').warn(`A connection was lost: ${error.message}`);
    this.pool.on('error', lost);
    // A client in the middle of a transaction tells nobody but its own listeners, and without any the process would end.
    this.pool.on('connect', (client) => client.on('error', () => undefined));
    this.tables = drizzle(this.pool, { schema });
  }

  /**
   * Applies the checked-in migrations; several servers starting at once wait for each other. A role that owns nothing only looks
   * whether they were applied. @throws NewerSchemaError when a newer version was here
   */
  async migrate(): Promise<void> {
    const client = await this.pool.connect();
    try {
      await client.query('SELECT pg_advisory_lock($1)', [MIGRATION_LOCK]);
      const applied = await appliedMigration(client);
      const { entries } = JSON.parse(readFileSync(join(MIGRATIONS, 'meta/_journal.json'), 'utf8')) as {
        entries: { when: number }[];
      };
      const newest = entries.reduce((most, { when }) => Math.max(most, when), 0);
      if (applied > newest) throw new NewerSchemaError();
      if (applied < newest) await migrate(drizzle(client), { migrationsFolder: MIGRATIONS });
      await this.#ensureQueue(client);
      const role = await client.query<{ bypass: boolean }>(
        'SELECT rolsuper OR rolbypassrls AS bypass FROM pg_roles WHERE rolname = current_user',
      );
      if (role.rows[0]?.bypass)
        new Logger('Database').warn(
          'This database role bypasses row-level security. Give Prandel a role of its own without superuser rights.',
        );
    } finally {
      await client.query('SELECT pg_advisory_unlock($1)', [MIGRATION_LOCK]);
      client.release();
    }
  }

  /** The queue's own tables, made by whoever may; an application role finds them there. */
  async #ensureQueue(client: pg.PoolClient): Promise<void> {
    const { rows } = await client.query<{ there: boolean; may: boolean }>(
      `SELECT to_regnamespace($1) IS NOT NULL AS there, has_database_privilege(current_database(), 'CREATE') AS may`,
      [QUEUE_SCHEMA],
    );
    if (!rows[0]?.there && rows[0]?.may) await prepareQueue(process.env.DATABASE_URL!);
  }

  /** Forgets tries to sign in that are over since the given time, milliseconds. */
  async clearTries(ms: number): Promise<void> {
    await this.tables.delete(schema.signInTries).where(lt(schema.signInTries.expire, Date.now() - ms));
  }

  /** Runs work that sees only one shop's rows, in one transaction: all of it is stored or nothing. */
  inShop<T>(shopId: string, work: (tx: Transaction) => Promise<T>): Promise<T> {
    return this.announced('prandel.shop', shopId, work);
  }

  /** Finds a person by the e-mail that was typed in, before any shop is known. */
  signingIn<T>(email: string, work: (tx: Transaction) => Promise<T>): Promise<T> {
    return this.announced('prandel.email', email, work);
  }

  /** Finds a one-time link by its secret's digest, before any shop is known. */
  withLink<T>(tokenHash: string, work: (tx: Transaction) => Promise<T>): Promise<T> {
    return this.announced('prandel.link', tokenHash, work);
  }

  /** Ids of all shops, for work that is done for each; of their rows nothing is seen. */
  everyShop(): Promise<string[]> {
    return this.announced('prandel.every_shop', 'on', async (tx) => {
      const rows = await tx.select({ shopId: schema.shops.shopId }).from(schema.shops).orderBy(schema.shops.shopId);
      return rows.map(({ shopId }) => shopId);
    });
  }

  private announced<T>(setting: string, value: string, work: (tx: Transaction) => Promise<T>): Promise<T> {
    return this.tables.transaction(async (tx) => {
      const { personId = null, tokenId = null } = actor() ?? {};
      await tx.execute(
        sql`SELECT set_config(${setting}, ${value}, true), set_config('prandel.person', ${personId ?? ''}, true), set_config('prandel.access_token', ${tokenId ?? ''}, true)`,
      );
      return work(tx);
    });
  }

  /** Last of all: what stops before may still have something to write. */
  async onApplicationShutdown(): Promise<void> {
    await this.leads.close();
    await this.pool.end();
  }
}
