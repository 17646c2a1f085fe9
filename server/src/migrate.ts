import 'reflect-metadata';
import { Database, NewerSchemaError } from './database/database.ts';
import { grantRoles } from './database/grants.ts';
import { databaseAway } from './database/faults.ts';

/** Brings the schema up to date as its owner, once, before any server starts. Run by the launcher. */
const database = new Database();
try {
  await database.migrate();
  if (process.env.PRANDEL_ROLES === '1') await grantRoles(process.env.DATABASE_URL!);
} catch (error) {
  const message = error instanceof Error ? error.message : String(error);
  if (error instanceof NewerSchemaError) console.error(message);
  else if (databaseAway(error)) console.error(`The database does not answer: ${message}`);
  else console.error(`The schema could not be brought up to date: ${message}`);
  process.exitCode = 1;
} finally {
  await database.onApplicationShutdown();
}
