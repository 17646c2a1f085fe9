import { bayLearned, type BayLearned, type Job } from '@prandel/core';
import { and, desc, eq, isNotNull, isNull, ne, sql, type SQL } from 'drizzle-orm';
import type { Database } from '../database/database.ts';
import { bayCalibrations, jobProjections, jobs } from '../database/schema.ts';
import type { JobLinks } from '../jobs/jobStore.ts';

/** The latest days say most about a bay; older ones are left alone. */
const MOST_JOBS = 40;

/** What a bay has learned from the finished jobs of its present calibration, as far as they are worked out. */
export async function learnedBy(
  database: Database,
  shopId: string,
  { bayId, epoch, exceptJob }: { bayId: string; epoch: string | null; exceptJob: string | null },
): Promise<BayLearned> {
  const rows = await database.inShop(shopId, (tx) =>
    tx
      .select({ repeats: jobProjections.repeats })
      .from(jobs)
      .innerJoin(bayCalibrations, eq(bayCalibrations.id, jobs.calibrationId))
      .innerJoin(jobProjections, eq(jobProjections.jobId, jobs.id))
      .where(
        and(
          isNull(jobs.deletedAt),
          eq(bayCalibrations.bayId, bayId),
          sql`coalesce(${bayCalibrations.since}, '') = ${epoch ?? ''}`,
          isNotNull(jobProjections.repeats),
          exceptJob ? ne(jobs.id, exceptJob) : undefined,
        ),
      )
      .orderBy(desc(jobs.updatedAt))
      .limit(MOST_JOBS),
  );
  return bayLearned(rows.flatMap(({ repeats }) => repeats ?? []));
}

/** Calibrations of the same rollers in the same epoch: by the bay's id under this roof, by its name elsewhere. */
export function sameRollers({ bayId }: JobLinks, { bay }: Job): SQL {
  const epoch = sql`coalesce(${bayCalibrations.since}, '') = ${bay.calibrationEpoch ?? ''}`;
  return bayId === null
    ? sql`${bayCalibrations.bayId} IS NULL AND ${bayCalibrations.bayLabel} = ${bay.label} AND ${epoch}`
    : sql`${bayCalibrations.bayId} = ${bayId} AND ${epoch}`;
}
