import pg from 'pg';
import { QUEUE_SCHEMA } from '../projections/queue.ts';

/** Roles that the launcher makes besides the owner. */
const APP = 'prandel_app';
const BACKUP = 'prandel_backup';

/**
 * What the roles may do: the application works with the rows but owns no table, and of the evidence it can only add; the backup
 * reads everything. Carried out by the owner after every migration.
 */
export async function grantRoles(ownerUrl: string): Promise<void> {
  const client = new pg.Client({ connectionString: ownerUrl });
  await client.connect();
  try {
    await client.query(`
      REVOKE ALL ON ALL TABLES IN SCHEMA public FROM ${APP};
      GRANT USAGE ON SCHEMA public, drizzle TO ${APP}, ${BACKUP};
      GRANT SELECT ON ALL TABLES IN SCHEMA public, drizzle TO ${APP}, ${BACKUP};
      GRANT SELECT ON ALL SEQUENCES IN SCHEMA public, drizzle TO ${BACKUP};
      GRANT INSERT, UPDATE, DELETE ON ALL TABLES IN SCHEMA public TO ${APP};
      REVOKE UPDATE, DELETE, TRUNCATE ON evidence FROM ${APP};
      GRANT USAGE ON SCHEMA ${QUEUE_SCHEMA} TO ${APP}, ${BACKUP};
      GRANT SELECT, INSERT, UPDATE, DELETE ON ALL TABLES IN SCHEMA ${QUEUE_SCHEMA} TO ${APP};
      GRANT SELECT ON ALL TABLES IN SCHEMA ${QUEUE_SCHEMA} TO ${BACKUP}`);
  } finally {
    await client.end();
  }
}
