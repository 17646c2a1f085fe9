import { randomBytes } from 'node:crypto';
import { chmodSync, existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { OperatorError } from './operatorError.mjs';

/** Roles of the database: who owns the tables, who works with them, who reads them for a backup. */
export const ROLES = {
  owner: { name: 'prandel', rights: 'NOSUPERUSER NOBYPASSRLS' },
  app: { name: 'prandel_app', rights: 'NOSUPERUSER NOBYPASSRLS' },
  backup: { name: 'prandel_backup', rights: 'NOSUPERUSER BYPASSRLS' },
};

const secret = () => randomBytes(24).toString('base64url');

/** Passwords of the roles, made once; readable for nobody but the user who starts Prandel. */
export function secretsOf(folder) {
  const file = join(folder, 'secrets.json');
  if (!existsSync(file)) {
    writeFileSync(file, JSON.stringify({ owner: secret(), app: secret(), backup: secret() }), { mode: 0o600 });
  }
  chmodSync(file, 0o600);
  return JSON.parse(readFileSync(file, 'utf8'));
}

/** Runs work with a connection of the superuser, who is needed only to make roles and databases. */
export async function asSuperuser({ port, superSecret }, work, database = 'postgres') {
  const { default: pg } = await import('pg');
  const client = new pg.Client({ host: '127.0.0.1', port, user: 'postgres', password: superSecret, database });
  await client.connect();
  try {
    return await work(client);
  } finally {
    await client.end();
  }
}

/** Makes the roles and databases that are missing, and gives the roles their present passwords. */
export async function ensureRoles(cluster, folder, databases, secrets) {
  try {
    await asSuperuser(cluster, async (client) => {
      for (const [key, { name, rights }] of Object.entries(ROLES)) {
        const known = (await client.query('SELECT 1 FROM pg_roles WHERE rolname = $1', [name])).rowCount > 0;
        const verb = known ? 'ALTER' : 'CREATE';
        await client.query(`${verb} ROLE ${name} LOGIN ${rights} PASSWORD ${client.escapeLiteral(secrets[key])}`);
      }
      for (const name of databases) {
        const known = await client.query('SELECT 1 FROM pg_database WHERE datname = $1', [name]);
        if (known.rowCount === 0)
          await client.query(`CREATE DATABASE ${client.escapeIdentifier(name)} OWNER ${ROLES.owner.name}`);
      }
    });
  } catch (error) {
    throw new OperatorError(`The database in ${folder} could not be prepared: ${error.message}`);
  }
}
