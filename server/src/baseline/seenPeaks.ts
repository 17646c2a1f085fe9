import { UnprocessableEntityException } from '@nestjs/common';
import type { Job } from '@prandel/core';
import { and, desc, eq, isNull, ne, sql } from 'drizzle-orm';
import type { Database } from '../database/database.ts';
import { bayCalibrations, jobDays, jobs, modelCardVersions, pulls } from '../database/schema.ts';
import { sameRollers } from '../bays/bayHistory.ts';
import type { JobLinks, JobStore } from '../jobs/jobStore.ts';
import type { Judging } from '../work/judging.ts';

/** The latest cars of a model say enough about it. */
const MOST_CARS = 20;

/**
 * Peak wheel power of the baselines of other cars of this job's model: those on its model card, and those of jobs on the same
 * bay, calibration and gear, read with this job's correction and averaging. W; one value a vehicle.
 */
export async function seenPeaks(
  { database, store, judging }: { database: Database; store: JobStore; judging: Judging },
  shopId: string,
  job: Job,
  jobId: string,
  links: JobLinks,
): Promise<number[]> {
  const card = job.day?.modelCard;
  if (!card?.label) return [];
  const rows = await database.inShop(shopId, (tx) =>
    tx
      .select({ id: jobs.id, vehicle: sql<string>`coalesce(${jobs.vehicleId}::text, ${jobs.vehicleLabel})` })
      .from(jobs)
      .innerJoin(jobDays, eq(jobDays.jobId, jobs.id))
      .innerJoin(modelCardVersions, eq(modelCardVersions.id, jobDays.cardVersionId))
      .innerJoin(bayCalibrations, eq(bayCalibrations.id, jobs.calibrationId))
      .where(
        and(
          isNull(jobs.deletedAt),
          eq(modelCardVersions.label, card.label),
          sql`coalesce(${modelCardVersions.gear}, '') = ${card.gear ?? ''}`,
          sameRollers(links, job),
          sql`EXISTS (SELECT 1 FROM ${pulls} WHERE ${pulls.jobId} = ${jobs.id})`,
          ne(jobs.id, jobId),
        ),
      )
      .orderBy(desc(jobs.updatedAt))
      .limit(MOST_CARS),
  );
  const own = new Map<string, number>();
  for (const { id, vehicle } of rows) {
    // The same car on other days is one car, and this car is none of the others.
    if (vehicle === (links.vehicleId ?? job.vehicle.label) || own.has(vehicle)) continue;
    const read = async () => ({
      ...(await database.inShop(shopId, (tx) => store.read(tx, id, true))).job,
      method: job.method,
    });
    try {
      const peak = await judging.baselinePeak(shopId, read);
      if (peak !== null) own.set(vehicle, peak);
    } catch (error) {
      // A job that cannot be judged says nothing about its model.
      if (!(error instanceof UnprocessableEntityException)) throw error;
    }
  }
  return [...(card.baselinesSeenW ?? []), ...own.values()];
}
