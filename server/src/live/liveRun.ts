import { ConflictException } from '@nestjs/common';
import { eq } from 'drizzle-orm';
import type { Database, Transaction } from '../database/database.ts';
import type { BayRun } from '../database/shapes.ts';
import { bayRuns } from '../database/schema.ts';
import { record, type EventDetail, type EvidenceEvent } from '../evidence/evidence.ts';
import type { LiveJob } from './liveJob.ts';

/** The next run of a bay: as it is given, or made of the run as it is when its turn comes; null: the car left. */
export type RunChange = BayRun | null | ((now: BayRun) => BayRun);

/** What goes on in a bay, as the database has it: it survives a restart of the server. */
export class LiveRun {
  #now: BayRun | null = null;

  constructor(
    private readonly database: Database,
    private readonly bay: { readonly id: string; readonly shopId: string },
    private readonly job: LiveJob,
  ) {}

  get now(): BayRun | null {
    return this.#now;
  }

  /** Shows a run that is about to be stored: a STOP does not wait for the disk. */
  show(run: BayRun): void {
    this.#now = run;
  }

  async read(tx: Transaction): Promise<void> {
    const [row] = await tx.select().from(bayRuns).where(eq(bayRuns.bayId, this.bay.id));
    this.#now = row?.run ?? null;
    this.job.take(row?.jobId ?? null);
  }

  /** Keeps the run that follows a pull in the transaction that stores the pull. */
  async keep(tx: Transaction, run: BayRun): Promise<void> {
    await tx.update(bayRuns).set({ run }).where(eq(bayRuns.bayId, this.bay.id));
  }

  /** Stores a change with what it means for the job's log, all of it or nothing. @throws ConflictException when the car has left */
  async store(
    next: RunChange,
    jobId: string,
    event: EvidenceEvent | null,
    more: (tx: Transaction) => Promise<EventDetail | void> = () => Promise.resolve(),
  ): Promise<void> {
    if (typeof next === 'function' && !this.#now) throw new ConflictException('No job is in this bay.');
    const run = typeof next === 'function' ? next(this.#now!) : next;
    await this.database.inShop(this.bay.shopId, async (tx) => {
      const detail = await more(tx);
      if (run)
        await tx
          .insert(bayRuns)
          .values({ bayId: this.bay.id, shopId: this.bay.shopId, jobId, run })
          .onConflictDoUpdate({ target: bayRuns.bayId, set: { jobId, run } });
      else await tx.delete(bayRuns).where(eq(bayRuns.bayId, this.bay.id));
      if (event) await record(tx, this.bay.shopId, jobId, detail ? { ...event, detail } : event);
    });
    this.#now = run;
    this.job.take(run ? jobId : null);
  }
}
