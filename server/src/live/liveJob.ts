import { Logger } from '@nestjs/common';
import {
  frameFrom,
  judgingProblem,
  judgePrepared,
  modelRange,
  PreparedPulls,
  type Job,
  type Judgement,
  type ModelRange,
} from '@prandel/core';
import { eq } from 'drizzle-orm';
import { seenPeaks } from '../baseline/seenPeaks.ts';
import type { Database } from '../database/database.ts';
import { databaseAway, loggable } from '../database/faults.ts';
import { jobs } from '../database/schema.ts';
import { madeFrames } from '../frames/madeFrames.ts';
import { framesOf } from '../frames/pullFrames.ts';
import type { JobStore, StoredJob } from '../jobs/jobStore.ts';
import type { ProjectionsService } from '../projections/projections.service.ts';

/** So many counted pulls are judged between two pulls of a bay, in a quarter of a second; a job with more is judged at the desk. */
const MOST_COUNTED = 60;

/**
 * The job whose car is on the rollers, as the database has it, judged. Samples of a pull never change once it is stored, so
 * what stands for them is made once and kept: a long day costs no more after its fiftieth pull than after its first.
 */
export class LiveJob {
  #row: { readonly id: string; readonly version: number } | null = null;
  #job: Job | null = null;
  #judgement: Judgement | null = null;
  readonly #prepared = new PreparedPulls();
  /** What cars of this model have shown in this bay. */
  #range: { readonly jobId: string; readonly range: ModelRange | null; readonly whole: boolean } | null = null;

  constructor(
    private readonly database: Database,
    private readonly store: JobStore,
    private readonly projections: Pick<ProjectionsService, 'ask'>,
    private readonly shopId: string,
  ) {}

  get row(): { readonly id: string; readonly version: number } | null {
    return this.#row;
  }
  get job(): Job | null {
    return this.#job;
  }
  get judgement(): Judgement | null {
    return this.#judgement;
  }
  get range(): ModelRange | null {
    return this.#range?.range ?? null;
  }

  /** Another job, or none; it is read by the next `reload`. */
  take(id: string | null): void {
    if (this.#row?.id === id) return;
    this.#row = id === null ? null : { id, version: -1 };
    this.#prepared.clear();
  }

  /** Reads and judges the job again when somebody changed it. */
  async reload(): Promise<void> {
    const at = this.#row;
    if (!at) {
      this.#job = null;
      this.#judgement = null;
      return;
    }
    const read = await this.database.inShop(this.shopId, async (tx) => {
      const [row] = await tx.select({ version: jobs.version }).from(jobs).where(eq(jobs.id, at.id));
      return row && row.version !== at.version ? this.store.read(tx, at.id, false) : null;
    });
    if (!read) return;
    this.#row = { id: read.rowId, version: read.version };
    this.#job = read.job;
    this.#lookAround(read);
    // A job that cannot be judged is still recorded; the desk says why.
    if (judgingProblem(read.job, MOST_COUNTED)) {
      this.#judgement = null;
      return;
    }
    if (this.#prepared.missing(read.job).length > 0) {
      const { frames } = await framesOf(this.database, this.shopId, read, (work) => Promise.resolve(madeFrames(work)));
      this.#prepared.take(frames.map(([id, bytes]) => [id, frameFrom(bytes)!] as const));
    }
    // The bay shows no bands: they wait for the desk.
    this.#judgement = judgePrepared(read.job, this.#prepared.of(read.job), 'verdict');
  }

  /** Other cars do not change while this one is on the rollers: they are looked at once, and nobody waits for it. */
  #lookAround({ rowId: jobId, job, links }: StoredJob): void {
    if (this.#range?.jobId === jobId && this.#range.whole) return;
    this.#range = { jobId, range: this.#range?.jobId === jobId ? this.#range.range : null, whole: true };
    seenPeaks(this.database, this.shopId, { rowId: jobId, job, links })
      .then(({ peaksW, missing }) => {
        this.projections.ask(missing);
        if (this.#range?.jobId === jobId)
          this.#range = { jobId, range: modelRange(peaksW), whole: missing.length === 0 };
      })
      .catch((error: unknown) => {
        this.#range = null;
        if (!databaseAway(error)) new Logger('Bay').error(loggable(error));
      });
  }
}
