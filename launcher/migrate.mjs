import { createHash } from 'node:crypto';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { ROOT, run } from './run.mjs';
import { OperatorError } from './operatorError.mjs';

/** Brings the schema up to date as its owner, in a process of its own: no server ever knows the owner's password. */
export async function migrate({ ownerUrl, withRoles }) {
  const { code, output } = await run(process.execPath, [join(ROOT, 'server/dist/migrate.js')], {
    quiet: true,
    env: { ...process.env, DATABASE_URL: ownerUrl, PRANDEL_ROLES: withRoles ? '1' : '0' },
  });
  if (code !== 0) throw new OperatorError(output.trim().split('\n').slice(-6).join('\n'));
}

/**
 * The same for a cluster of our own, with its roles' rights; nothing is started where the database itself says that it is up to date
 * and this program has given the rights before.
 */
export async function migrateIfNeeded({ ownerUrl, folder }) {
  const journal = readFileSync(join(ROOT, 'server/migrations/meta/_journal.json'));
  const rights = readFileSync(join(ROOT, 'server/dist/database/grants.js'));
  const stamp = createHash('sha256').update(journal).update(rights).digest('hex');
  const stampFile = join(folder, 'schema.ready');
  const given = existsSync(stampFile) && readFileSync(stampFile, 'utf8') === stamp;
  const newest = Math.max(...JSON.parse(journal.toString()).entries.map(({ when }) => when));
  if (given && (await appliedMigration(ownerUrl)) === newest) return;
  await migrate({ ownerUrl, withRoles: true });
  writeFileSync(stampFile, stamp);
}

/** When the newest applied migration was made, milliseconds since 1970; null where none is known. */
async function appliedMigration(ownerUrl) {
  const { default: pg } = await import('pg');
  const client = new pg.Client({ connectionString: ownerUrl });
  await client.connect();
  try {
    const { rows } = await client.query('SELECT max(created_at) AS at FROM drizzle.__drizzle_migrations');
    return Number(rows[0].at);
  } catch {
    return null;
  } finally {
    await client.end();
  }
}
