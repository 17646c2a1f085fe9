import { ENGINE_VERSION } from '@prandel/core';
import { and, desc, eq, isNull, ne, sql } from 'drizzle-orm';
import { sameRollers } from '../bays/bayHistory.ts';
import type { Database } from '../database/database.ts';
import {
  baselinePeaks,
  bayCalibrations,
  jobDays,
  jobs,
  modelCardVersions,
  pulls,
  vehicles,
} from '../database/schema.ts';
import type { StoredJob } from '../jobs/jobStore.ts';
import { modelOfJob, ofModel } from '../models/ofModel.ts';
import type { ProjectionWork } from '../projections/queue.ts';

/** The latest cars of a model say enough about it. */
const MOST_CARS = 20;

/** Peaks that are known, W, and what is still to be worked out. */
export interface SeenPeaks {
  readonly peaksW: readonly number[];
  readonly missing: readonly ProjectionWork[];
}

/**
 * Peak wheel power of the baselines of other cars of this job's model: those on its model card, and those of jobs on the same
 * bay, calibration and gear, read with this job's correction and averaging. One value a vehicle; nothing is judged here.
 */
export async function seenPeaks(
  database: Database,
  shopId: string,
  { rowId, job, links }: Pick<StoredJob, 'rowId' | 'job' | 'links'>,
): Promise<SeenPeaks> {
  const card = job.day?.modelCard;
  if (!card?.label) return { peaksW: [], missing: [] };
  const { correction, averagingWidthRpm } = job.method;
  const rows = await database.inShop(shopId, async (tx) => {
    const model = await modelOfJob(tx, rowId);
    return tx
      .select({
        id: jobs.id,
        vehicle: sql<string>`coalesce(${jobs.vehicleId}::text, ${jobs.vehicleLabel})`,
        peakW: baselinePeaks.peakW,
        known: sql<boolean>`${baselinePeaks.jobVersion} IS NOT DISTINCT FROM ${jobs.version} AND ${baselinePeaks.engineVersion} = ${ENGINE_VERSION}`,
      })
      .from(jobs)
      .innerJoin(jobDays, eq(jobDays.jobId, jobs.id))
      .innerJoin(modelCardVersions, eq(modelCardVersions.id, jobDays.cardVersionId))
      .innerJoin(bayCalibrations, eq(bayCalibrations.id, jobs.calibrationId))
      .leftJoin(vehicles, eq(vehicles.id, jobs.vehicleId))
      .leftJoin(
        baselinePeaks,
        and(
          eq(baselinePeaks.jobId, jobs.id),
          eq(baselinePeaks.correction, correction),
          eq(baselinePeaks.averagingWidthRpm, averagingWidthRpm),
        ),
      )
      .where(
        and(
          isNull(jobs.deletedAt),
          ofModel(model),
          sql`coalesce(${modelCardVersions.gear}, '') = ${card.gear ?? ''}`,
          sameRollers(links, job),
          sql`EXISTS (SELECT 1 FROM ${pulls} WHERE ${pulls.jobId} = ${jobs.id})`,
          ne(jobs.id, rowId),
        ),
      )
      .orderBy(desc(jobs.updatedAt))
      .limit(MOST_CARS);
  });
  const own = new Map<string, number>();
  for (const { vehicle, peakW } of rows) {
    // The same car on other days is one car, and this car is none of the others.
    if (vehicle === (links.vehicleId ?? job.vehicle.label) || own.has(vehicle) || peakW === null) continue;
    own.set(vehicle, peakW);
  }
  const missing = rows
    .filter((row) => !row.known)
    .map((row) => ({ shopId, jobId: row.id, peak: { correction, averagingWidthRpm } }));
  return { peaksW: [...(card.baselinesSeenW ?? []), ...own.values()], missing };
}
