import { baselinePeakW, judgeJob, type Job } from '@prandel/core';
import { and, desc, ne, sql } from 'drizzle-orm';
import type { Transaction } from '../database/database.ts';
import { jobs } from '../database/schema.ts';
import type { JobStore } from '../jobs/jobStore.ts';

/** The latest cars of a model say enough about it. */
const MOST_CARS = 20;

/**
 * Peak wheel power of the baselines of other cars of this job's model: those on its model card, and those of jobs on the same
 * bay, calibration and gear, read with this job's correction and averaging. W; one value a vehicle.
 */
export async function seenPeaks(tx: Transaction, store: JobStore, job: Job, jobId: string): Promise<number[]> {
  const card = job.day?.modelCard;
  if (!card?.label) return [];
  const typed = [...(card.baselinesSeenW ?? [])];
  const rows = await tx
    .select({ id: jobs.id })
    .from(jobs)
    .where(
      and(
        sql`${jobs.day}->'modelCard'->>'label' = ${card.label}`,
        sql`coalesce(${jobs.day}->'modelCard'->>'gear', '') = ${card.gear ?? ''}`,
        sql`${jobs.bay}->>'label' = ${job.bay.label}`,
        sql`coalesce(${jobs.bay}->>'calibrationEpoch', '') = ${job.bay.calibrationEpoch ?? ''}`,
        ne(jobs.id, jobId),
      ),
    )
    .orderBy(desc(jobs.updatedAt))
    .limit(MOST_CARS);
  const own = new Map<string, number>();
  for (const { id } of rows) {
    const { job: other } = await store.read(tx, id, true);
    // The same car on other days is one car, and this car is none of the others.
    if (other.pulls.length === 0 || other.vehicle.label === job.vehicle.label || own.has(other.vehicle.label)) continue;
    const peak = baselinePeakW(other, judgeJob({ ...other, method: job.method }, 'verdict'));
    if (peak !== null) own.set(other.vehicle.label, peak);
  }
  return [...typed, ...own.values()];
}
