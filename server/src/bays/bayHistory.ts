import { UnprocessableEntityException } from '@nestjs/common';
import { bayLearned, type BayLearned, type BayRecord } from '@prandel/core';
import { and, desc, isNull, ne, sql } from 'drizzle-orm';
import type { Database } from '../database/database.ts';
import { jobs, pulls } from '../database/schema.ts';
import type { JobStore } from '../jobs/jobStore.ts';
import type { Judging } from '../work/judging.ts';

/** The latest days say most about a bay; older ones are left alone. */
const MOST_JOBS = 40;

/** What a bay has learned from the finished jobs of its present calibration. They are judged one by one, off the live loop. */
export async function learnedBy(
  { database, store, judging }: { database: Database; store: JobStore; judging: Judging },
  shopId: string,
  { label, epoch, exceptJob }: { label: string; epoch: string | null; exceptJob: string | null },
): Promise<BayLearned> {
  const rows = await database.inShop(shopId, (tx) =>
    tx
      .select({ id: jobs.id })
      .from(jobs)
      .where(
        and(
          isNull(jobs.deletedAt),
          sql`${jobs.bay}->>'label' = ${label}`,
          sql`coalesce(${jobs.bay}->>'calibrationEpoch', '') = ${epoch ?? ''}`,
          sql`EXISTS (SELECT 1 FROM ${pulls} WHERE ${pulls.jobId} = ${jobs.id})`,
          exceptJob ? ne(jobs.id, exceptJob) : undefined,
        ),
      )
      .orderBy(desc(jobs.updatedAt))
      .limit(MOST_JOBS),
  );
  const records: BayRecord[] = [];
  for (const { id } of rows) {
    const read = async () => (await database.inShop(shopId, (tx) => store.read(tx, id, true))).job;
    try {
      records.push(await judging.bayRecord(shopId, read));
    } catch (error) {
      // A job that cannot be judged says nothing about its bay.
      if (!(error instanceof UnprocessableEntityException)) throw error;
    }
  }
  return bayLearned(records);
}
