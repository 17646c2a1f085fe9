import { Injectable } from '@nestjs/common';
import { bayLearned, ENGINE_VERSION, type BayLearned, type BayPrior, type BayRecord, type Job } from '@prandel/core';
import { and, desc, eq, inArray, isNull, ne, sql, type SQL } from 'drizzle-orm';
import type { Transaction } from '../database/database.ts';
import { bayCalibrations, bayTables, jobProjections, jobs } from '../database/schema.ts';
import { bayOfLabel } from '../jobs/jobRows.ts';
import type { JobLinks } from '../jobs/jobStore.ts';
import { WorkPool } from '../work/workPool.ts';
import { tableOf } from './tables.ts';

/** The latest days say most about a bay; older ones are left alone. */
const MOST_JOBS = 200;
const LIMIT = { timeoutS: 60 };
/** So many tables take some 20 ms: less than waiting for a thread that an import may hold. */
const AT_ONCE = 200;
/** What was worked out is kept for so many bays; it is worked out anew when a job of the bay changed. */
const KEPT = 50;

/** A bay's present calibration, and a job that is not to teach it. */
export interface WhichBay {
  readonly bayId: string;
  readonly epoch: string | null;
  readonly exceptJob: string | null;
}

/** What bays have learned from the finished jobs of their present calibration, as far as these are worked out. */
@Injectable()
export class BayHistory {
  readonly #kept = new Map<string, Promise<BayLearned>>();

  constructor(private readonly pool: WorkPool) {}

  async learned(tx: Transaction, shopId: string, { bayId, epoch, exceptJob }: WhichBay): Promise<BayLearned> {
    const { jobId, jobVersion, engineVersion, returnChecks, minutesPerPull } = jobProjections;
    const rows = await tx
      .select({ jobId, jobVersion, engineVersion, returnChecks, minutesPerPull })
      .from(jobs)
      .innerJoin(bayCalibrations, eq(bayCalibrations.id, jobs.calibrationId))
      .innerJoin(jobProjections, eq(jobProjections.jobId, jobs.id))
      .where(
        and(
          isNull(jobs.deletedAt),
          eq(bayCalibrations.bayId, bayId),
          sql`coalesce(${bayCalibrations.since}, '') = ${epoch ?? ''}`,
          // Tables of an older engine have other nodes.
          eq(engineVersion, ENGINE_VERSION),
          exceptJob ? ne(jobs.id, exceptJob) : undefined,
        ),
      )
      .orderBy(desc(jobs.updatedAt))
      .limit(MOST_JOBS);
    const key = JSON.stringify([shopId, bayId, rows.map((r) => [r.jobId, r.jobVersion, r.engineVersion]).sort()]);
    const known = this.#kept.get(key);
    if (known) return known;
    const ids = rows.map((r) => r.jobId);
    const tables =
      ids.length === 0
        ? []
        : await tx
            .select({ jobId: bayTables.jobId, noiseClass: bayTables.noiseClass, numbers: bayTables.numbers })
            .from(bayTables)
            .where(inArray(bayTables.jobId, ids))
            .orderBy(bayTables.jobId, bayTables.place);
    const records = rows.map((row): BayRecord => ({
      returnChecks: row.returnChecks,
      minutesPerPull: row.minutesPerPull,
      tables: tables
        .filter((t) => t.jobId === row.jobId)
        .map((t) => ({ noiseClass: t.noiseClass, table: tableOf(t.numbers) })),
    }));
    const made =
      tables.length <= AT_ONCE
        ? Promise.resolve(bayLearned(records))
        : this.pool.run(shopId, 'bayLearned', () => ({ input: { records } }), LIMIT);
    this.#keep(key, made);
    return made;
  }

  /** What the job's bay has shown by now, where it is one under this roof and the job does not bear a prior of its own. */
  async priorFor(tx: Transaction, shopId: string, job: Job): Promise<BayPrior | null> {
    if (job.bay.prior) return job.bay.prior;
    const bayId = job.bay.label === '' ? null : await bayOfLabel(tx, shopId, job.bay.label);
    if (!bayId) return null;
    return (await this.learned(tx, shopId, { bayId, epoch: job.bay.calibrationEpoch, exceptJob: null })).prior;
  }

  #keep(key: string, made: Promise<BayLearned>): void {
    this.#kept.set(key, made);
    // What failed is asked again.
    made.catch(() => this.#kept.delete(key));
    const [oldest] = this.#kept.keys();
    if (this.#kept.size > KEPT && oldest !== undefined) this.#kept.delete(oldest);
  }
}

/** Calibrations of the same rollers in the same epoch: by the bay's id under this roof, by its name elsewhere. */
export function sameRollers({ bayId }: JobLinks, { bay }: Job): SQL {
  const epoch = sql`coalesce(${bayCalibrations.since}, '') = ${bay.calibrationEpoch ?? ''}`;
  return bayId === null
    ? sql`${bayCalibrations.bayId} IS NULL AND ${bayCalibrations.bayLabel} = ${bay.label} AND ${epoch}`
    : sql`${bayCalibrations.bayId} = ${bayId} AND ${epoch}`;
}
