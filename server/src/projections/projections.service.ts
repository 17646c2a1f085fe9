import { Injectable, Logger, UnprocessableEntityException, type OnModuleDestroy } from '@nestjs/common';
import { ENGINE_VERSION, type Job, type HeatCoefficient } from '@prandel/core';
import { and, desc, eq, gt, inArray, isNull, ne, or } from 'drizzle-orm';
import { Database, type Transaction } from '../database/database.ts';
import { databaseAway, loggable } from '../database/faults.ts';
import { tableBytes } from '../bays/tables.ts';
import { baselinePeaks, bayTables, jobProjections, jobs, partResults, verdictProjections } from '../database/schema.ts';
import { JobStore, type StoredJob } from '../jobs/jobStore.ts';
import { partsTouched, rebuildShelves } from '../shelf/studies.ts';
import { Judging } from '../work/judging.ts';
import { ProjectionQueue, type ProjectionWork } from './queue.ts';
import { verdictOrderOf, type KnownVerdicts } from './verdicts.ts';

const SWEEP_MS = 60_000;
/** Stale jobs that one look asks for. */
const AT_ONCE = 500;
const FAILED = 'This job cannot be judged: the computation failed. The server’s log says where.';

/**
 * What lists, Today, the run sheet, model range and bay history know of a job without judging it. Worked out by a queue, keyed by
 * the job's version and the engine's; what is not up to date is "being worked out". Disposable: `./prandel rebuild` empties it.
 */
@Injectable()
export class ProjectionsService implements OnModuleDestroy {
  readonly #log = new Logger('Projections');
  #timer: NodeJS.Timeout | null = null;

  constructor(
    private readonly database: Database,
    private readonly store: JobStore,
    private readonly judging: Judging,
    private readonly queue: ProjectionQueue,
  ) {}

  /** Works the queue in this process, and looks every minute for what nobody asked for. */
  async start(): Promise<void> {
    await this.queue.work((work) => this.#do(work));
    const sweep = () => void this.#sweep().catch((error: unknown) => this.#log.warn(loggable(error).split('\n')[0]!));
    this.#timer = setInterval(sweep, SWEEP_MS);
    sweep();
  }

  /** Verdicts of jobs as they are known now; work that is missing is asked for. */
  async verdictsOf(
    tx: Transaction,
    shopId: string,
    rows: readonly { readonly id: string; readonly version: number }[],
  ): Promise<Map<string, KnownVerdicts>> {
    const ids = rows.map((row) => row.id);
    if (ids.length === 0) return new Map();
    const { jobId, jobVersion, engineVersion, problem } = jobProjections;
    const heads = await tx
      .select({ jobId, jobVersion, engineVersion, problem })
      .from(jobProjections)
      .where(inArray(jobId, ids));
    const verdicts = await tx
      .select()
      .from(verdictProjections)
      .where(inArray(verdictProjections.jobId, ids))
      .orderBy(verdictProjections.place);
    const known = new Map(
      rows.map(({ id, version }): [string, KnownVerdicts] => {
        const head = heads.find((h) => h.jobId === id);
        if (!head || head.jobVersion !== version || head.engineVersion !== ENGINE_VERSION)
          return [id, { state: 'pending' }];
        if (head.problem !== null) return [id, { state: 'not-judged', problem: head.problem }];
        const own = verdicts.filter((v) => v.jobId === id);
        return [
          id,
          {
            state: 'judged',
            verdicts: own.map(({ candidate, measure, verdict, unit, estimate, low, high }) => ({
              ...{ candidate, measure, verdict },
              gain:
                unit === null || estimate === null || low === null || high === null
                  ? null
                  : { unit, value: estimate, lowValue: low, highValue: high },
            })),
          },
        ];
      }),
    );
    const missing = ids.filter((id) => known.get(id)!.state === 'pending');
    void this.queue.ask(missing.map((id) => ({ shopId, jobId: id })));
    return known;
  }

  ask(work: readonly ProjectionWork[]): void {
    void this.queue.ask(work);
  }

  /** Asks for what is not up to date, the newest first. */
  async #sweep(): Promise<void> {
    for (const shopId of await this.database.everyShop()) {
      const stale = await this.database.inShop(shopId, (tx) =>
        tx
          .select({ jobId: jobs.id })
          .from(jobs)
          .leftJoin(jobProjections, eq(jobProjections.jobId, jobs.id))
          .where(
            and(
              isNull(jobs.deletedAt),
              gt(jobs.pullCount, 0),
              or(
                isNull(jobProjections.jobId),
                ne(jobProjections.jobVersion, jobs.version),
                ne(jobProjections.engineVersion, ENGINE_VERSION),
              ),
            ),
          )
          .orderBy(desc(jobs.updatedAt))
          .limit(AT_ONCE),
      );
      await this.queue.ask(stale.map(({ jobId }) => ({ shopId, jobId })));
    }
  }

  async #do({ shopId, jobId, peak }: ProjectionWork): Promise<void> {
    const stored = await this.database
      .inShop(shopId, (tx) => this.store.read(tx, jobId, false))
      .catch((error: unknown) => {
        if (databaseAway(error)) throw error;
        return null;
      });
    // Deleted meanwhile.
    if (!stored) return;
    if (peak) await this.#projectPeak(shopId, stored, peak);
    else await this.#project(shopId, stored);
  }

  async #project(shopId: string, { rowId, version, job }: StoredJob): Promise<void> {
    const head = { shopId, jobId: rowId, jobVersion: version, engineVersion: ENGINE_VERSION };
    const made = await this.#judged(() => this.judging.projection(shopId, { rowId, job }));
    const values =
      typeof made === 'string'
        ? {
            ...head,
            problem: made,
            windowFromRpm: null,
            windowToRpm: null,
            returnChecks: 0,
            minutesPerPull: null,
            ...heatColumns(null),
            ...{ level: null, squares: 0, degrees: 0, returned: null, settled: null, baselinePeakW: null },
            madeAt: new Date(),
          }
        : {
            ...head,
            problem: null,
            windowFromRpm: made.window?.[0] ?? null,
            windowToRpm: made.window?.[1] ?? null,
            returnChecks: made.bay.returnChecks,
            minutesPerPull: made.bay.minutesPerPull,
            ...heatColumns(made.heat),
            ...made.point,
            baselinePeakW: made.baselinePeakW,
            madeAt: new Date(),
          };
    await this.database.inShop(shopId, async (tx) => {
      // The job's row first: whoever edits the job holds it too, and each would wait for the other.
      const verdictOrder = verdictOrderOf(typeof made === 'string' ? [] : made.verdicts.map((v) => v.verdict));
      await tx.update(jobs).set({ verdictOrder }).where(eq(jobs.id, rowId));
      await tx.insert(jobProjections).values(values).onConflictDoUpdate({ target: jobProjections.jobId, set: values });
      await tx.delete(verdictProjections).where(eq(verdictProjections.jobId, rowId));
      await tx.delete(bayTables).where(eq(bayTables.jobId, rowId));
      if (typeof made !== 'string' && made.bay.tables.length > 0)
        await tx.insert(bayTables).values(
          made.bay.tables.map(({ noiseClass, table }, place) => ({
            ...{ shopId, jobId: rowId, place, noiseClass },
            numbers: tableBytes(table),
          })),
        );
      await tx.delete(partResults).where(eq(partResults.jobId, rowId));
      if (typeof made !== 'string' && made.parts.length > 0)
        await tx.insert(partResults).values(
          made.parts.map(({ setup, against, alone, changes, measure, verdict, estimate, standardError }, place) => ({
            ...{ shopId, jobId: rowId, place, setupKey: setup, againstKey: against, alone, changes },
            ...{ measure, verdict, estimate, standardError },
          })),
        );
      await rebuildShelves(tx, shopId, await partsTouched(tx, rowId));
      if (typeof made === 'string' || made.verdicts.length === 0) return;
      await tx.insert(verdictProjections).values(
        made.verdicts.map(({ gain, ...v }, place) => ({
          ...{ shopId, jobId: rowId, place, ...v },
          unit: gain?.unit ?? null,
          estimate: gain?.value ?? null,
          low: gain?.lowValue ?? null,
          high: gain?.highValue ?? null,
        })),
      );
    });
  }

  async #projectPeak(
    shopId: string,
    { rowId, version, job }: StoredJob,
    { correction, averagingWidthRpm }: NonNullable<ProjectionWork['peak']>,
  ): Promise<void> {
    const method = { ...job.method, averagingWidthRpm, correction: correction as Job['method']['correction'] };
    const peak = await this.#judged(() => this.judging.baselinePeak(shopId, { rowId, job: { ...job, method } }));
    const values = {
      ...{ shopId, jobId: rowId, correction, averagingWidthRpm, jobVersion: version, engineVersion: ENGINE_VERSION },
      peakW: typeof peak === 'string' ? null : peak,
    };
    await this.database.inShop(shopId, (tx) =>
      tx
        .insert(baselinePeaks)
        .values(values)
        .onConflictDoUpdate({
          target: [baselinePeaks.jobId, baselinePeaks.correction, baselinePeaks.averagingWidthRpm],
          set: values,
        }),
    );
  }

  /** What came of judging, or why the job cannot be judged. @throws when the database is away, so that it is tried again */
  async #judged<T>(work: () => Promise<T>): Promise<T | string> {
    try {
      return await work();
    } catch (error) {
      if (databaseAway(error)) throw error;
      if (error instanceof UnprocessableEntityException) return error.message;
      this.#log.error(loggable(error));
      return FAILED;
    }
  }

  onModuleDestroy(): void {
    if (this.#timer) clearInterval(this.#timer);
  }
}

function heatColumns(heat: HeatCoefficient | null) {
  return {
    heatPercentPerC: heat?.percentPerC ?? null,
    heatLow: heat?.low ?? null,
    heatHigh: heat?.high ?? null,
    heatPulls: heat?.pulls ?? null,
    heatRounds: heat?.rounds ?? null,
  };
}
