import { UnprocessableEntityException } from '@nestjs/common';
import { bayLearned, type BayLearned, type BayRecord, type Job } from '@prandel/core';
import { and, desc, eq, isNull, ne, sql, type SQL } from 'drizzle-orm';
import type { Database } from '../database/database.ts';
import { bayCalibrations, jobs, pulls } from '../database/schema.ts';
import type { JobLinks, JobStore } from '../jobs/jobStore.ts';
import type { Judging } from '../work/judging.ts';

/** The latest days say most about a bay; older ones are left alone. */
const MOST_JOBS = 40;

/** What a bay has learned from the finished jobs of its present calibration. They are judged one by one, off the live loop. */
export async function learnedBy(
  { database, store, judging }: { database: Database; store: JobStore; judging: Judging },
  shopId: string,
  { bayId, epoch, exceptJob }: { bayId: string; epoch: string | null; exceptJob: string | null },
): Promise<BayLearned> {
  const rows = await database.inShop(shopId, (tx) =>
    tx
      .select({ id: jobs.id })
      .from(jobs)
      .innerJoin(bayCalibrations, eq(bayCalibrations.id, jobs.calibrationId))
      .where(
        and(
          isNull(jobs.deletedAt),
          eq(bayCalibrations.bayId, bayId),
          sql`coalesce(${bayCalibrations.since}, '') = ${epoch ?? ''}`,
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

/** Calibrations of the same rollers in the same epoch: by the bay's id under this roof, by its name elsewhere. */
export function sameRollers({ bayId }: JobLinks, { bay }: Job): SQL {
  const epoch = sql`coalesce(${bayCalibrations.since}, '') = ${bay.calibrationEpoch ?? ''}`;
  return bayId === null
    ? sql`${bayCalibrations.bayId} IS NULL AND ${bayCalibrations.bayLabel} = ${bay.label} AND ${epoch}`
    : sql`${bayCalibrations.bayId} = ${bayId} AND ${epoch}`;
}
