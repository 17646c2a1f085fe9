import { bayLearned, bayRecord, judgeJob, type BayLearned, type BayRecord } from '@prandel/core';
import { and, desc, ne, sql } from 'drizzle-orm';
import type { Transaction } from '../database/database.ts';
import { jobs } from '../database/schema.ts';
import type { JobStore } from '../jobs/jobStore.ts';

/** The latest days say most about a bay; older ones are left alone. */
const MOST_JOBS = 40;

/** What a bay has learned from the finished jobs of its present calibration. */
export async function learnedBy(
  tx: Transaction,
  store: JobStore,
  label: string,
  epoch: string | null,
  exceptJob: string | null,
): Promise<BayLearned> {
  const rows = await tx
    .select({ id: jobs.id })
    .from(jobs)
    .where(
      and(
        sql`${jobs.bay}->>'label' = ${label}`,
        sql`coalesce(${jobs.bay}->>'calibrationEpoch', '') = ${epoch ?? ''}`,
        exceptJob ? ne(jobs.id, exceptJob) : undefined,
      ),
    )
    .orderBy(desc(jobs.updatedAt))
    .limit(MOST_JOBS);
  const records: BayRecord[] = [];
  for (const { id } of rows) {
    const { job } = await store.read(tx, id, true);
    if (job.pulls.length > 0) records.push(bayRecord(job, judgeJob(job, 'verdict')));
  }
  return bayLearned(records);
}
