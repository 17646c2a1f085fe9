import { eq, sql } from 'drizzle-orm';
import type { Transaction } from '../database/database.ts';
import { jobs, pulls, recordings } from '../database/schema.ts';

/**
 * Keys for pulls of a setup that nothing else in the job bears, neither a pull nor a recording that is still open. The job's row is
 * locked until the transaction ends, so that an import and a bay never take the same one.
 *
 * @returns `A-4`, `A-5`, … in order
 */
export async function allotPullKeys(tx: Transaction, jobId: string, setupId: string, count: number): Promise<string[]> {
  const { taken, made } = await keysTaken(tx, jobId, setupId);
  const keys: string[] = [];
  for (let n = made + 1; keys.length < count; n += 1) {
    const key = `${setupId}-${n}`;
    if (!taken.has(key)) keys.push(key);
  }
  return keys;
}

/** The wanted key, or the next free one where a pull bears it already. */
export async function freePullKey(tx: Transaction, jobId: string, setupId: string, wanted: string): Promise<string> {
  const { taken } = await keysTaken(tx, jobId, setupId);
  return taken.has(wanted) ? (await allotPullKeys(tx, jobId, setupId, 1))[0]! : wanted;
}

async function keysTaken(
  tx: Transaction,
  jobId: string,
  setupId: string,
): Promise<{ taken: ReadonlySet<string>; made: number }> {
  await tx.execute(sql`SELECT id FROM ${jobs} WHERE id = ${jobId} FOR UPDATE`);
  const stored = await tx
    .select({ key: pulls.pullKey, setup: pulls.setupKey })
    .from(pulls)
    .where(eq(pulls.jobId, jobId));
  const open = await tx
    .select({ key: recordings.pullKey, setup: sql<string>`${recordings.draft}->'pull'->>'setupId'` })
    .from(recordings)
    .where(eq(recordings.jobId, jobId));
  const all = [...stored, ...open.filter((r) => r.key !== null)];
  return { taken: new Set(all.map((r) => r.key!)), made: all.filter((r) => r.setup === setupId).length };
}
